// Shadow settings on keys, with the map in a corner. Keys: 1 to 4 choose the filter (linear, gaussian, disc, contact),
// up and down its radius, left and right the sun's direction, m shows or hides the map, s saves the picture, Escape
// ends.
//   build/release/examples/example_38_shadow_settings shadows.png [15_first_shadow_map.toml]

#include <periscena/periscena.h>
#include <periscena/window/window_frame.h>

#include <algorithm>
#include <cstdio>

using namespace periscena;
using namespace periscena::window;

/// The picture, and the shadow map in its lower right corner: what is near to the light is bright.
constexpr const char* corner_glsl = R"(
#include "periscena/fullscreen.glsl"
uniform sampler2D picture, map;
uniform float map_size;  // of the picture's height
out vec4 color;

void main() {
  vec2 side = vec2(map_size * frame.resolution.y / frame.resolution.x, map_size);
  vec2 at = (uv - vec2(1.0 - side.x, 0.0)) / side;
  bool in_map = map_size > 0.0 && all(greaterThan(at, vec2(0.0))) && all(lessThan(at, vec2(1.0)));
  color = in_map ? vec4(texture(map, at).rrr, 1.0) : texture(picture, uv);
}
)";

struct Frame {
  FrameGraph graph;

  explicit Frame(const std::shared_ptr<const Scene>& scene) {
    const passes::Defaults quay{.scene = scene, .view = "quay", .environment = "day"};
    const auto sun = graph.target("sun.depth", {.format = Format::depth32f, .size = TargetSize::pixels(1024, 1024)});
    const auto light = graph.target("light", {.format = Format::rgba16f, .samples = 4});
    const auto depth = graph.target("depth", {.format = Format::depth32f});
    const auto picture = graph.target("picture", {.format = Format::rgba8_srgb});
    graph.add(passes::shadow_map(
        quay, {.name = "sun map", .light = "sun", .without_tags = {"ground", "rope"}, .depth = sun, .radius = 2}));
    graph.add(passes::sky(quay, {.color = light}));
    graph.add(
        passes::forward(quay, {.shadows = {sun}, .without_receivers = {"board"}, .color = light, .depth = depth}));
    graph.add(passes::tone_map({.exposure_ev100 = 13.6f, .light = light, .color = picture}));
    graph.add(
        passes::fullscreen({.name = "corner",
                            .shader = gl::ShaderText::from_text("corner.frag", corner_glsl, passes::pass_shaders()),
                            .reads = {{"picture", picture}, {"map", sun}},
                            .writes = {{"color", graph.output()}},
                            .uniforms = {{"map_size", 0.35}}}));
  }
};

int main(int argc, char** argv) try {
  const auto scene = read_frame_file(argc > 2 ? argv[2] : "examples/15_first_shadow_map.toml").scene;
  const LightHandle sun = scene->light_handle("sun");
  Window window({.title = "38 Shadow settings", .width = 960, .height = 540, .redraw = Redraw::on_change});
  Frame frame(scene);
  WindowFrame shown(window, frame.graph);
  passes::Live<passes::ShadowMap> map(frame.graph, "sun map");
  passes::Live<passes::Fullscreen> corner(frame.graph, "corner");

  const auto turn_sun = [&](float radians) {
    Light light = scene->at(sun);
    auto& direction = std::get<DirectionalLight>(light.kind).direction;
    direction = Transform::rotate(Vec3::unit_y(), radians).apply_to_direction(direction);
    scene->change_light(sun, light);
  };
  const auto widen = [&](float texels) {
    map.change([&](passes::ShadowMap& options) {
      const float widest = options.filter == ShadowFilter::gaussian ? 4.0f : 16.0f;
      options.radius = std::clamp(options.radius + texels, 1.0f, widest);
    });
  };
  const auto filter_by = [&](ShadowFilter filter) {
    map.change([&](passes::ShadowMap& options) {
      options.filter = filter;
      options.radius = std::min(options.radius, filter == ShadowFilter::gaussian ? 4.0f : 16.0f);
      options.light_angle = radians(3);
    });
  };
  while (window.begin_frame()) {
    for (const Event& event : window.events()) {
      const auto* pressed = std::get_if<KeyPressed>(&event);
      if (!pressed) continue;
      switch (pressed->key) {
        case Key::digit_1: filter_by(ShadowFilter::linear); break;
        case Key::digit_2: filter_by(ShadowFilter::gaussian); break;
        case Key::digit_3: filter_by(ShadowFilter::disc); break;
        case Key::digit_4: filter_by(ShadowFilter::contact); break;
        case Key::up: widen(1); break;
        case Key::down: widen(-1); break;
        case Key::left: turn_sun(-0.1f); break;
        case Key::right: turn_sun(0.1f); break;
        case Key::m:
          corner.change([](auto& one) { one.uniforms[0].numbers[0] = one.uniforms[0].numbers[0] > 0 ? 0 : 0.35; });
          break;
        case Key::s: write_png(shown.runner().read("output"), argc > 1 ? argv[1] : "shadows.png"); break;
        case Key::escape: window.close(); break;
        default: break;
      }
    }
    shown.draw(window.seconds());
    window.end_frame();
  }
} catch (const Error& error) {
  std::fprintf(stderr, "%s\n", error.what());
  return 1;
}
