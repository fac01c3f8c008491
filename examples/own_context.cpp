// A renderer of its own, with its own context, shaders and framebuffer, hands one pass to Periscena: it draws triangles
// into its texture, Periscena blurs them into its framebuffer, and it draws on as if nothing had happened.
//   build/release/examples/example_own_context own.png

#include <periscena/periscena.h>

#include <epoxy/egl.h>
#include <epoxy/gl.h>

#include <cstdio>

using namespace periscena;

/// What was there before Periscena came: plain calls, bound state, nothing of ours.
class Engine {
 public:
  static constexpr int width = 640, height = 400;

  Engine() {
    const EGLDisplay display = eglGetPlatformDisplayEXT(EGL_PLATFORM_SURFACELESS_MESA, EGL_DEFAULT_DISPLAY, nullptr);
    const EGLint version[] = {EGL_CONTEXT_MAJOR_VERSION, 4, EGL_CONTEXT_MINOR_VERSION, 5, EGL_NONE};
    eglInitialize(display, nullptr, nullptr);
    eglBindAPI(EGL_OPENGL_API);
    eglMakeCurrent(display, EGL_NO_SURFACE, EGL_NO_SURFACE,
                   eglCreateContext(display, EGL_NO_CONFIG_KHR, EGL_NO_CONTEXT, version));
    scene_ = make_texture(GL_RGBA16F);
    window_ = make_texture(GL_SRGB8_ALPHA8);
    for (const auto& [framebuffer, texture] : {std::pair{&scene_framebuffer, scene_}, {&window_framebuffer, window_}}) {
      glCreateFramebuffers(1, framebuffer);
      glNamedFramebufferTexture(*framebuffer, GL_COLOR_ATTACHMENT0, texture, 0);
    }
    program_ = link(
        "#version 450 core\nuniform float turn; out vec3 c;\nvoid main() { float a = turn + 2.0944 * gl_VertexID; "
        "c = vec3(gl_VertexID == 0, gl_VertexID == 1, gl_VertexID == 2);\n"
        "gl_Position = vec4(0.7 * cos(a) * 0.62, 0.7 * sin(a), 0, 1); }\n",
        "#version 450 core\nin vec3 c; out vec4 color;\nvoid main() { color = vec4(c * c, 1); }\n");
    glCreateVertexArrays(1, &vertices_);
  }

  GLuint scene() const { return scene_; }
  GLuint window() const { return window_; }

  void draw_scene(float turn) const {
    const float dark[] = {0.02f, 0.03f, 0.05f, 1};
    glClearNamedFramebufferfv(scene_framebuffer, GL_COLOR, 0, dark);
    draw_triangle(scene_framebuffer, 0, 0, width, height, turn);
  }

  /// A sharp small one over the picture, drawn with whatever state Periscena leaves.
  void draw_overlay(float turn) const {
    glEnable(GL_FRAMEBUFFER_SRGB);
    draw_triangle(window_framebuffer, 16, 16, 120, 120, turn);
  }

  GLuint scene_framebuffer = 0, window_framebuffer = 0;

 private:
  static GLuint make_texture(GLenum format) {
    GLuint texture = 0;
    glCreateTextures(GL_TEXTURE_2D, 1, &texture);
    glTextureStorage2D(texture, 1, format, width, height);
    return texture;
  }

  static GLuint link(const char* vertex, const char* fragment) {
    const GLuint program = glCreateProgram();
    for (const auto& [stage, text] : {std::pair{GL_VERTEX_SHADER, vertex}, {GL_FRAGMENT_SHADER, fragment}}) {
      const GLuint shader = glCreateShader(static_cast<GLenum>(stage));
      glShaderSource(shader, 1, &text, nullptr);
      glCompileShader(shader);
      glAttachShader(program, shader);
    }
    glLinkProgram(program);
    return program;
  }

  void draw_triangle(GLuint framebuffer, int x, int y, int w, int h, float turn) const {
    glBindFramebuffer(GL_FRAMEBUFFER, framebuffer);
    glViewport(x, y, w, h);
    glUseProgram(program_);
    glUniform1f(glGetUniformLocation(program_, "turn"), turn);
    glBindVertexArray(vertices_);
    glDrawArrays(GL_TRIANGLES, 0, 3);
  }

  GLuint scene_ = 0, window_ = 0, program_ = 0, vertices_ = 0;
};

int main(int argc, char** argv) try {
  Engine engine;
  auto device = gl::Device::adopt();

  FrameGraph frame;
  auto scene = frame.target("engine.scene", {.format = Format::rgba16f, .origin = Origin::outside_texture});
  auto across = frame.target("across", {.format = Format::rgba16f});
  frame.set_output_origin(Origin::outside_framebuffer);
  const auto blur = [&](const char* name, TargetHandle from, TargetHandle into, std::vector<double> step) {
    frame.add(
        passes::fullscreen({.name = name,
                            .shader = gl::ShaderText::from_text("blur.frag",
                                                                "#include \"periscena/fullscreen.glsl\"\n"
                                                                "uniform sampler2D source;\nuniform vec2 step_pixels;\n"
                                                                "out vec4 color;\nvoid main() {\n"
                                                                "  color = vec4(0.0);\n"
                                                                "  for (int i = -12; i <= 12; ++i)\n"
                                                                "    color += texture(source, uv + float(i) * "
                                                                "step_pixels / frame.resolution) / 25.0;\n}\n",
                                                                passes::pass_shaders()),
                            .reads = {{"source", from}},
                            .writes = {{"color", into}},
                            .uniforms = {{"step_pixels", std::move(step)}}}));
  };
  blur("blur across", scene, across, {1, 0});
  blur("blur up", across, frame.output(), {0, 1});
  gl::FrameRunner runner(device, frame.plan(Engine::width, Engine::height, device.limits()).value(),
                         {{"engine.scene", engine.scene()}, {"output", engine.window_framebuffer}});

  for (int i = 0; i < 3; ++i) {
    const float turn = 0.4f + 0.5f * static_cast<float>(i);
    engine.draw_scene(turn);
    runner.run(i / 60.0);  // puts back all state that it found
    engine.draw_overlay(turn);
  }
  std::printf("driver's error flag: %u\n", glGetError());
  write_png(gl::Texture::adopt(engine.window()).read(), argc > 1 ? argv[1] : "own.png");
} catch (const Error& error) {
  std::fprintf(stderr, "%s\n", error.what());
  return 1;
}
