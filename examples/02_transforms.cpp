// Order, pivot and hierarchy, as numbers and as a picture: the same as 02_transforms.toml, which says the rest of the
// scene.
//   build/release/examples/example_02_transforms transforms.png [02_transforms.toml]

#include <periscena/periscena.h>

#include <cstdio>

using namespace periscena;

static void print(const char* what, const Vec3& p) {
  std::printf("%-36s (%5.2f, %5.2f, %5.2f)\n", what, p.x(), p.y(), p.z());
}

int main(int argc, char** argv) try {
  // Order: transforms happen as they are read.
  const Vec3 start = Vec3::zero(), up = Vec3::unit_y();
  const float turn = radians(-100);
  print("turned, then moved by 1.1:", Transform::rotate(up, turn).then(translate({1.1f, 0, 0})).apply_to_point(start));
  print("moved by 1.1, then turned:", Transform::translate({1.1f, 0, 0}).then(rotate(up, turn)).apply_to_point(start));

  // Pivot: an argument. The hinge stays where it is.
  const Pivot hinge{{-0.6f, 0, 0}};
  print("the door's middle, turned by 70°:", Transform::rotate(up, radians(70), hinge).apply_to_point(start));
  print("its hinge:", Transform::rotate(up, radians(70), hinge).apply_to_point(hinge.point));

  // Hierarchy: parents before children; one sweep brings all up to date.
  Hierarchy crane;
  const NodeHandle post = crane.add({}, rotate(up, radians(40)).then(translate({1.75f, 0.5f, 0})));
  const NodeHandle arm = crane.add(post, rotate(Vec3::unit_z(), radians(35)).then(translate({0, 0.5f, 0})));
  const NodeHandle hook = crane.add(arm, translate({1.3f, -0.32f, 0}));
  print("the hook, post at 40°:", crane.world(hook).apply_to_point(start));
  crane.set_local(post, rotate(up, radians(-30)).then(translate({1.75f, 0.5f, 0})));
  crane.update();
  print("the hook, post at -30°:", crane.world(hook).apply_to_point(start));

  const FrameFile file = read_frame_file(argc > 2 ? argv[2] : "examples/02_transforms.toml");
  auto device = gl::Device::headless();
  gl::FrameRunner runner(device, file.plan(device.limits()).value());
  runner.run(1.5);
  write_png(runner.read("output"), argc > 1 ? argv[1] : "transforms.png");
} catch (const Error& error) {
  std::fprintf(stderr, "%s\n", error.what());
  return 1;
}
