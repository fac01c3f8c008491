// The demo frame through Periscena, said in C++ as a user would say it: demo/lock.toml by the same names.

#include "twin.h"

#include <periscena/periscena.h>

using namespace periscena;

namespace {

gl::ShaderText shader(const char* name) {
  return gl::ShaderText::file(std::string(PERISCENA_SOURCE_FOLDER "/demo/shaders/") + name, passes::pass_shaders());
}

FrameGraph lock_frame(const std::shared_ptr<const Scene>& scene) {
  FrameGraph frame;
  const auto twice = TargetSize::of_frame(2), quarter = TargetSize::of_frame(0.25f);
  const auto small = TargetSize::pixels(256, 256);
  const auto mirror = frame.target("mirror.color", {.format = Format::rgba16f, .size = small, .samples = 4});
  const auto mirror_depth = frame.target("mirror.depth", {.format = Format::depth32f, .size = small});
  const auto color = frame.target("scene.color", {.format = Format::rgba16f, .size = twice});
  const auto depth = frame.target("scene.depth", {.format = Format::depth32f, .size = twice});
  const auto air = frame.target("air.color", {.format = Format::rgba16f, .size = twice});
  const auto bright = frame.target("glow.bright", {.format = Format::rgba16f, .size = quarter});
  const auto across = frame.target("glow.across", {.format = Format::rgba16f, .size = quarter});
  const auto both = frame.target("glow.both", {.format = Format::rgba16f, .size = quarter});
  frame.add(passes::fullscreen({.name = "sky in the mirror",
                                .shader = shader("sky.frag"),
                                .writes = {{"color", mirror}},
                                .scene = scene,
                                .view = "mirror"}));
  frame.add(passes::forward({.name = "mirror",
                             .scene = scene,
                             .view = "mirror",
                             .lights = {"sun"},
                             .environment = "dusk",
                             .color = mirror,
                             .depth = mirror_depth}));
  frame.add(passes::fullscreen({.name = "dusk sky",
                                .shader = shader("sky.frag"),
                                .writes = {{"color", color}},
                                .scene = scene,
                                .view = "towpath"}));
  frame.add(passes::forward({.name = "lock",
                             .scene = scene,
                             .view = "towpath",
                             .lights = {"sun"},
                             .environment = "dusk",
                             .color = color,
                             .depth = depth,
                             .reads = {{"mirror", mirror}}}));
  frame.add(passes::fullscreen({.name = "water and air",
                                .shader = shader("water_and_air.frag"),
                                .reads = {{"scene", color}, {"depth", depth}},
                                .writes = {{"color", air}},
                                .scene = scene,
                                .view = "towpath"}));
  frame.add(passes::fullscreen({.name = "glow: bright parts",
                                .shader = shader("bright.frag"),
                                .reads = {{"scene", air}},
                                .writes = {{"color", bright}},
                                .uniforms = {{"threshold_nits", 3600}}}));
  frame.add(passes::fullscreen({.name = "glow: across",
                                .shader = shader("spread.frag"),
                                .reads = {{"source", bright}},
                                .writes = {{"color", across}},
                                .uniforms = {{"direction", std::vector<double>{1, 0}}}}));
  frame.add(passes::fullscreen({.name = "glow: up and down",
                                .shader = shader("spread.frag"),
                                .reads = {{"source", across}},
                                .writes = {{"color", both}},
                                .uniforms = {{"direction", std::vector<double>{0, 1}}}}));
  frame.add(passes::fullscreen({.name = "finish",
                                .shader = shader("finish.frag"),
                                .reads = {{"scene", air}, {"glow", both}},
                                .writes = {{"color", frame.output()}},
                                .uniforms = {{"exposure_ev100", 10.2}, {"glow_share", 0.5}}}));
  return frame;
}

}  // namespace

int main(int argc, char** argv) {
  const TwinOptions options = read_twin_options(argc, argv);
  return run_twin(options, [&] {
    static gl::Device device = gl::Device::headless();
    const auto scene =
        std::make_shared<Scene>(read_scene_file(PERISCENA_SOURCE_FOLDER "/demo/generated/osier_lock.glb"));
    scene->add_environment(
        {"dusk", {std::make_shared<const Image>(read_image(PERISCENA_SOURCE_FOLDER "/demo/generated/dusk.hdr"))}});
    const auto runner = std::make_shared<gl::FrameRunner>(
        device, lock_frame(scene).plan(options.width, options.height, device.limits()).value());
    return Twin{[=](double seconds) { runner->run(seconds); }, [=] { return runner->read("output"); }};
  });
}
