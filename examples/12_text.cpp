// Text on the picture and in the world, a draw call for each: the same as 12_text.toml, which holds the yard.
//   build/release/examples/example_12_text text.png [12_text.toml]

#include <periscena/periscena.h>

#include <cstdio>

using namespace periscena;
using passes::Text;
using passes::WorldText;

namespace {

const Vec3 ink(0.02f, 0.02f, 0.03f);

/// Paint on the boards, in metres from where they are.
std::vector<WorldText> paint() {
  const char* rules =
      "Draw the paddles slowly. Boats keep forward of the cill while the chamber empties, and no one steps on a gate "
      "that moves.\nÉcluse · Schleuse · Śluza";
  return {
      {.wording = {.says = "OSIER LOCK", .style = {.size = 0.13f}, .color = {0.25f, 0.02f, 0.015f}},
       .object = "notice board",
       .origin = {-0.49f, 0.36f, 0.02f}},
      {.wording = {.says = rules, .style = {.size = 0.064f, .width = 0.98f}, .color = ink},
       .object = "notice board",
       .origin = {-0.49f, 0.18f, 0.02f}},
      {.wording = {.says = "The keeper", .style = {.size = 0.05f}, .color = ink},
       .object = "notice board",
       .origin = {0.49f, -0.36f, 0.02f},
       .anchor = WorldText::Anchor::lower_right},
      {.wording = {.says = "TEA", .style = {.size = 0.3f}, .color = {0.8f, 0.66f, 0.25f}},
       .object = "hanging sign",
       .origin = {0, 0, 0.015f},
       .anchor = WorldText::Anchor::middle},
      {.wording = {.says = "2.4\n2.1\n1.8\n1.5\n1.2\n0.9\n0.6\n0.3",
                   .style = {.size = 0.1f, .line_spacing = 1.68f},
                   .color = ink},
       .object = "gauge",
       .origin = {-0.09f, 0.77f, 0.015f}},
  };
}

/// Captions, in pixels from corners of the picture.
std::vector<Text> captions() {
  return {
      {.wording = {.says = "Osier Lock, the yard", .style = {.size = 34}, .color = {1, 0.95f, 0.85f}}, .at = {28, 18}},
      {.wording = {.says = "grey letters of 15 pixels: AV To Wa fi, 0123456789", .style = {.size = 15}, .alpha = 0.9f},
       .at = {30, 62}},
      {.wording = {.says = "16:42\nfall 2.40 m",
                   .style = {.size = 26, .align = Align::right},
                   .color = {1, 0.9f, 0.6f}},
       .at = {28, 22},
       .corner = passes::Corner::lower_right},
      {.wording = {.says = "B", .style = {.size = 300}, .alpha = 0.12f},
       .at = {20, -40},
       .corner = passes::Corner::upper_right,
       .letters = Letters::distance},
  };
}

}  // namespace

int main(int argc, char** argv) try {
  const auto scene = read_frame_file(argc > 2 ? argv[2] : "examples/12_text.toml").scene;

  FrameGraph frame;
  const auto light = frame.target("light", {.format = Format::rgba16f, .samples = 4});
  const auto depth = frame.target("depth", {.format = Format::depth32f});
  const auto sun_depth =
      frame.target("sun.depth", {.format = Format::depth32f, .size = TargetSize::pixels(2048, 2048)});
  frame.add(passes::shadow_map({.scene = scene, .light = "sun", .without_tags = {"ground"}, .depth = sun_depth}));
  frame.add(passes::sky({.scene = scene, .view = "yard", .environment = "day", .color = light}));
  frame.add(passes::forward(
      {.scene = scene, .view = "yard", .environment = "day", .shadows = {sun_depth}, .color = light, .depth = depth}));
  frame.add(passes::world_text({.scene = scene,
                                .view = "yard",
                                .texts = paint(),
                                .environment = "day",
                                .shadows = {sun_depth},
                                .color = light,
                                .depth = depth}));
  frame.add(passes::tone_map({.exposure_ev100 = 14, .light = light, .color = frame.output()}));
  frame.add(passes::text({.texts = captions(), .color = frame.output()}));

  auto device = gl::Device::headless();
  gl::FrameRunner runner(device, frame.plan(1200, 675, device.limits()).value());
  runner.run(0);
  std::printf("%s", inspect::counts_text(runner).c_str());
  write_png(runner.read("output"), argc > 1 ? argv[1] : "text.png");
} catch (const Error& error) {
  std::fprintf(stderr, "%s\n", error.what());
  return 1;
}
