// One pass with four outputs, read back one by one: the same as 04_several_outputs.toml.
//   build/release/examples/example_04_several_outputs outputs.png

#include <periscena/periscena.h>

#include <cstdio>

using namespace periscena;

static gl::ShaderText shader(const char* name) {
  return gl::ShaderText::file(std::string("examples/shaders/") + name, passes::pass_shaders());
}

int main(int argc, char** argv) try {
  auto scene = std::make_shared<Scene>();
  scene->add_view({"front", {.eye = {0.2f, 1.5f, 6.2f}, .target = {0.1f, 0.55f, 0}, .fov_y = radians(36)}});

  FrameGraph frame;
  auto light = frame.target("light", {.format = Format::rgba16f});
  auto normals = frame.target("normals", {.format = Format::rgba16f, .holds = Holds::normal});
  auto distances = frame.target("distances", {.format = Format::r32f, .holds = Holds::data});
  auto ids = frame.target("ids", {.format = Format::r8ui});
  frame.add(passes::fullscreen(
      {.name = "shapes",
       .shader = shader("04_shapes.frag"),
       .writes = {{"light", light}, {"normal", normals}, {"distance_metres", distances}, {"id", ids}},
       .scene = scene,
       .view = "front"}));
  frame.add(
      passes::fullscreen({.name = "show",
                          .shader = shader("04_show.frag"),
                          .reads = {{"light", light}, {"normals", normals}, {"distances", distances}, {"ids", ids}},
                          .writes = {{"color", frame.output()}}}));
  frame.keep(distances);  // so that their numbers can be read after the frame
  frame.keep(ids);

  auto device = gl::Device::headless();
  gl::FrameRunner runner(device, frame.plan(960, 600, device.limits()).value());
  runner.run(0);
  const auto id = runner.read("ids").at(480, 240)[0], metres = runner.read("distances").at(480, 240)[0];
  std::printf("in the middle: id %.0f, %.2f m away\n", id, metres);
  write_png(runner.read("output"), argc > 1 ? argv[1] : "outputs.png");
} catch (const Error& error) {
  std::fprintf(stderr, "%s\n", error.what());
  return 1;
}
