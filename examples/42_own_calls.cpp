// Your own buffers, your own GLSL and plain GL calls in a frame of ours: waves in the same depth as the scene, so that
// each hides the other. Drag turns the view. Keys: s saves the picture, Escape ends.
//   build/release/examples/example_42_own_calls waves.png

#include <periscena/periscena.h>
#include <periscena/window/window_frame.h>

#include <epoxy/gl.h>
#include <cmath>
#include <cstdio>

using namespace periscena;
using namespace periscena::window;

constexpr const char* vertex_glsl = R"(layout(location = 0) in float height;
uniform mat4 to_clip;
out vec3 place;
void main() {
  place = vec3(float(gl_VertexID % 200) / 16.0 - 6.2, height, float(gl_VertexID / 200) / 16.0 - 6.2);
  gl_Position = to_clip * vec4(place, 1.0);
})";
constexpr const char* fragment_glsl = R"(in vec3 place; out vec4 color;
void main() {
  vec3 normal = normalize(cross(dFdx(place), dFdy(place)));
  color = vec4(vec3(0.05, 0.2, 0.3) + 0.4 * abs(normal.x) + 0.5 * max(place.y, 0.0), 1.0);
})";

/// A grid of heights that the CPU writes each frame.
class Waves {
 public:
  static constexpr int side = 200;

  explicit Waves(gl::Device& device)
      : program_(device, {"waves", gl::ShaderText::from_text("waves.vert", vertex_glsl),
                          gl::ShaderText::from_text("waves.frag", fragment_glsl)}) {
    std::vector<GLuint> indices;
    for (GLuint row = 0; row + 1 < side; ++row)
      for (GLuint i = 0; i + 1 < side; ++i)
        for (const GLuint corner : {0u, GLuint{side}, 1u, 1u, GLuint{side}, side + 1u})
          indices.push_back(row * side + i + corner);
    glCreateBuffers(2, buffers_);
    glNamedBufferStorage(buffers_[0], side * side * sizeof(float), nullptr, GL_DYNAMIC_STORAGE_BIT);
    glNamedBufferStorage(buffers_[1], static_cast<GLsizeiptr>(indices.size() * sizeof(GLuint)), indices.data(), 0);
    glCreateVertexArrays(1, &vertices_);
    glVertexArrayVertexBuffer(vertices_, 0, buffers_[0], 0, sizeof(float));
    glVertexArrayElementBuffer(vertices_, buffers_[1]);
    glEnableVertexArrayAttrib(vertices_, 0);
    glVertexArrayAttribFormat(vertices_, 0, 1, GL_FLOAT, GL_FALSE, 0);
  }

  void draw(gl::PassContext& context, const Camera& camera) {
    std::vector<float> heights;
    const auto time = static_cast<float>(context.time().seconds);
    for (int i = 0; i < side * side; ++i) {
      const float x = static_cast<float>(i % side) / 16, z = static_cast<float>(i / side) / 16;
      heights.push_back(0.12f * std::sin(1.7f * x + 2 * time) + 0.1f * std::sin(1.3f * z + 0.8f * x - 1.4f * time));
    }
    glNamedBufferSubData(buffers_[0], 0, side * side * sizeof(float), heights.data());
    const float aspect = static_cast<float>(context.pass().width) / static_cast<float>(context.pass().height);
    program_.set(program_.uniform<Mat4>("to_clip"), camera.projection(aspect).matrix() * camera.view().matrix());
    program_.use(context.state());
    glBindVertexArray(vertices_);
    glEnable(GL_DEPTH_TEST);
    glDepthFunc(GL_GREATER);  // cameras have depth reversed: 1 is near
    glDepthMask(GL_TRUE);
    glDrawElements(GL_TRIANGLES, 6 * (side - 1) * (side - 1), GL_UNSIGNED_INT, nullptr);
  }

 private:
  gl::Program program_;
  GLuint buffers_[2] = {}, vertices_ = 0;  // which go with the window's context
};

std::shared_ptr<Scene> buoys() {
  auto scene = std::make_shared<Scene>();
  const MeshHandle ball = scene->add_mesh("ball", shapes::sphere(0.5f));
  const MaterialHandle red = scene->add_material({.base_color = {0.7f, 0.08f, 0.04f}});
  for (const float x : {-3.0f, 0.0f, 3.0f})
    for (const float z : {-3.0f, 0.0f, 3.0f})
      scene->add_node({.mesh = ball, .material = red, .placement = Transform::translate({x, 0.1f, z})});
  scene->add_view({"shore", {.eye = {0, 3.5f, 9}, .fov_y = radians(40), .keep = Keep::both}});
  scene->add_light(Light{.name = "sun", .kind = DirectionalLight{3, {-0.6f, -1, -0.4f}}});
  scene->add_light(AmbientLight{.name = "dusk", .sky = {0.2f, 0.22f, 0.3f}, .ground = {0.1f, 0.1f, 0.12f}});
  return scene;
}

int main(int argc, char** argv) try {
  Window window({.title = "42 Own calls", .width = 960, .height = 600});
  const auto scene = buoys();
  const ViewHandle view = scene->view_handle("shore");
  OrbitController orbit(scene->at(view).camera);
  Waves waves(window.device());
  FrameGraph frame;
  frame.set_background({0.4f, 0.45f, 0.55f, 1});
  const auto depth = frame.target("depth", {.format = Format::depth32f});
  frame.add(
      passes::forward({.name = "buoys", .scene = scene, .view = "shore", .color = frame.output(), .depth = depth}));
  // Its framebuffer is bound and its viewport set. What it changes of GL's state is put right after it.
  frame.add({.name = "waves",
             .writes = {{"color", frame.output()}, {"depth", depth}},
             .work = gl::raw_work([&](gl::PassContext& context) { waves.draw(context, scene->at(view).camera); })});
  WindowFrame shown(window, frame);
  while (window.begin_frame()) {
    for (const Event& event : window.events()) {
      const auto* moved = std::get_if<PointerMoved>(&event);
      const Vec2 by = moved ? 3 / static_cast<float>(window.height()) * moved->by : Vec2::zero();
      if (window.is_held(Button::left)) orbit.turn(by.x(), -by.y());
      const auto* key = std::get_if<KeyPressed>(&event);
      if (key && key->key == Key::escape) window.close();
      if (key && key->key == Key::s) write_png(shown.runner().read("output"), argc > 1 ? argv[1] : "waves.png");
    }
    scene->set_camera(view, orbit.camera());
    shown.draw(window.seconds());
    window.end_frame();
  }
} catch (const Error& error) {
  std::fprintf(stderr, "%s\n", error.what());
  return 1;
}
