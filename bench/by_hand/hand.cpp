#include "by_hand/hand.h"

#include <epoxy/egl.h>

#include <cstdio>
#include <cstring>

namespace by_hand {
namespace {

[[noreturn]] void give_up(const char* what, const char* why = "") {
  std::fprintf(stderr, "%s%s\n", what, why);
  std::exit(3);
}

GLuint compiled(GLenum stage, const char* glsl) {
  const GLuint shader = glCreateShader(stage);
  glShaderSource(shader, 1, &glsl, nullptr);
  glCompileShader(shader);
  GLint done = GL_FALSE;
  glGetShaderiv(shader, GL_COMPILE_STATUS, &done);
  if (done) return shader;
  char log[4096] = {};
  glGetShaderInfoLog(shader, sizeof(log), nullptr, log);
  give_up("a shader does not compile: ", log);
}

}  // namespace

void open_device() {
  const EGLDisplay display = eglGetPlatformDisplayEXT(EGL_PLATFORM_SURFACELESS_MESA, EGL_DEFAULT_DISPLAY, nullptr);
  if (!display || !eglInitialize(display, nullptr, nullptr) || !eglBindAPI(EGL_OPENGL_API)) give_up("no EGL display");
  const EGLint attributes[] = {
      EGL_CONTEXT_MAJOR_VERSION,           4,       EGL_CONTEXT_MINOR_VERSION, 5, EGL_CONTEXT_OPENGL_PROFILE_MASK,
      EGL_CONTEXT_OPENGL_CORE_PROFILE_BIT, EGL_NONE};
  const EGLContext context = eglCreateContext(display, EGL_NO_CONFIG_KHR, EGL_NO_CONTEXT, attributes);
  if (!context || !eglMakeCurrent(display, EGL_NO_SURFACE, EGL_NO_SURFACE, context)) give_up("no OpenGL 4.5");
}

GLuint program(const char* vertex, const char* fragment) {
  const GLuint made = glCreateProgram();
  glAttachShader(made, compiled(GL_VERTEX_SHADER, vertex));
  if (fragment) glAttachShader(made, compiled(GL_FRAGMENT_SHADER, fragment));
  glLinkProgram(made);
  GLint linked = GL_FALSE;
  glGetProgramiv(made, GL_LINK_STATUS, &linked);
  if (linked) return made;
  char log[4096] = {};
  glGetProgramInfoLog(made, sizeof(log), nullptr, log);
  give_up("a program does not link: ", log);
}

Mesh make_mesh(const frames::Shape& shape, bool with_uv) {
  std::vector<float> numbers;
  for (const frames::Corner& corner : shape.corners) {
    numbers.insert(numbers.end(), corner.position, corner.position + 3);
    numbers.insert(numbers.end(), corner.normal, corner.normal + 3);
    if (with_uv) numbers.insert(numbers.end(), corner.uv, corner.uv + 2);
  }
  Mesh mesh;
  glCreateVertexArrays(1, &mesh.array);
  const GLsizei stride = (with_uv ? 8 : 6) * static_cast<GLsizei>(sizeof(float));
  glVertexArrayVertexBuffer(mesh.array, 0, buffer_of(numbers), 0, stride);
  for (GLuint location = 0; location < (with_uv ? 3u : 2u); ++location) {
    glEnableVertexArrayAttrib(mesh.array, location);
    glVertexArrayAttribFormat(mesh.array, location, location == 2 ? 2 : 3, GL_FLOAT, GL_FALSE, 12 * location);
    glVertexArrayAttribBinding(mesh.array, location, 0);
  }
  // No mesh here has more corners than 16 bits count.
  glVertexArrayElementBuffer(mesh.array,
                             buffer_of(std::vector<std::uint16_t>(shape.indices.begin(), shape.indices.end())));
  mesh.count = static_cast<GLsizei>(shape.indices.size());
  return mesh;
}

periscena::Image picture_of(GLuint texture, int width, int height) {
  periscena::Image image(width, height, periscena::Format::rgba8_srgb);
  const std::size_t row = image.row_bytes();
  std::vector<std::byte> upside_down(row * static_cast<std::size_t>(height));
  glGetTextureImage(texture, 0, GL_RGBA, GL_UNSIGNED_BYTE, static_cast<GLsizei>(upside_down.size()),
                    upside_down.data());
  for (std::size_t y = 0; y < static_cast<std::size_t>(height); ++y)
    std::memcpy(&image.bytes()[y * row], &upside_down[(static_cast<std::size_t>(height) - 1 - y) * row], row);
  return image;
}

const char* const whole_picture = R"(#version 450 core
out vec2 uv;
void main() {
  uv = vec2(gl_VertexID == 1 ? 2.0 : 0.0, gl_VertexID == 2 ? 2.0 : 0.0);
  gl_Position = vec4(uv * 2.0 - 1.0, 0.0, 1.0);
}
)";

void draw_whole_picture() {
  static const GLuint nothing = [] {
    GLuint array = 0;
    glCreateVertexArrays(1, &array);
    return array;
  }();
  glBindVertexArray(nothing);
  glDrawArrays(GL_TRIANGLES, 0, 3);
}

}  // namespace by_hand
