#include "gl/device.h"
#include "gl/edited_frames.h"

#include <cmath>

using namespace periscena;

TEST_CASE_METHOD(TestDevice, "among objects that the device moves by time, the program moves some") {
  RandomScene random(11);
  for (int i = 0; i < 1200; ++i) {
    WantedScene::Object object{random.below(2), random.below(3), -1, random.transform(), {}, i % 100 == 0};
    if (i % 100 > 1) object.motion = Motion{.kind = Motion::Kind::spin, .axis = Vec3::unit_y(), .period = 3};
    if (i % 100 == 2) object.parent = static_cast<int>(random.wanted.objects.size()) - 2;  // on one that is dynamic
    random.wanted.objects.push_back(object);
  }
  const auto scene = random.wanted.made();
  gl::FrameRunner runner(device, forward_frame(scene).plan(96, 64, device.limits()).value());
  double seconds = 0;
  for (int step = 0; step < 12; ++step) {
    const std::size_t moved = 12 + 100 * static_cast<std::size_t>(step);
    random.wanted.objects[moved].local = random.transform();
    scene->set_local_transform({static_cast<std::uint32_t>(moved)}, random.wanted.objects[moved].local);
    if (step % 2) seconds += 0.2;
    runner.run(seconds);
    REQUIRE(runner.read("output") == drawn_anew(device, random.wanted, forward_frame, seconds));
  }
}

TEST_CASE_METHOD(TestDevice, "of many objects, every tenth moves: what is between them is not sent") {
  RandomScene random(13);
  // Nothing is turned inside out, which would sort the lists of draws.
  const auto place = [&] { return Transform::translate(random.vec(3)); };
  for (WantedScene::Object& object : random.wanted.objects) {
    object.local = place();
    object.dynamic = true;
  }
  for (int i = 0; i < 1000; ++i) {
    WantedScene::Object object{random.below(2), random.below(3), -1, place(), {}, true};
    if (i % 50 == 7) object.parent = static_cast<int>(random.wanted.objects.size()) - 3;
    random.wanted.objects.push_back(object);
  }
  for (const auto& frame : {forward_frame, culled_on_device_frame}) {
    const auto scene = random.wanted.made();
    gl::FrameRunner runner(device, frame(scene).plan(96, 64, device.limits()).value());
    runner.run(0);
    // Backwards as well: no order is asked of the program.
    for (int step = 0; step < 6; ++step) {
      std::size_t moved = 0;
      for (std::size_t i = 0; i < 1000; i += 10, ++moved) {
        const std::size_t k = (step % 2 ? 999 - i : i) + 3;
        random.wanted.objects[k].local = place();
        scene->set_local_transform({static_cast<std::uint32_t>(k)}, random.wanted.objects[k].local);
      }
      runner.run(0);
      // The object, its bounds and its number, of at most twice as many with those that hang on them; then the list of
      // what is in view, in each pass.
      CHECK(runner.counts().bytes_sent < 2 * moved * (64 + 32 + 4 + 4) + 4 * 1100 * sizeof(std::uint32_t));
      REQUIRE(runner.read("output") == drawn_anew(device, random.wanted, frame, 0));
    }
  }
}

TEST_CASE_METHOD(TestDevice, "a program that moves more nodes than are remembered still moves all of them") {
  RandomScene random(9);
  for (WantedScene::Object& object : random.wanted.objects) object.dynamic = true;
  const auto scene = random.wanted.made();
  gl::FrameRunner runner(device, forward_frame(scene).plan(96, 64, device.limits()).value());
  runner.run(0);
  for (int i = 0; i < 5000; ++i) {
    const std::size_t k = random.below(random.wanted.objects.size());
    random.wanted.objects[k].local = random.transform();
    scene->set_local_transform({static_cast<std::uint32_t>(k)}, random.wanted.objects[k].local);
  }
  runner.run(0);
  REQUIRE(runner.read("output") == drawn_anew(device, random.wanted, forward_frame, 0));
}

TEST_CASE_METHOD(TestDevice, "cameras and lights and transforms and materials change, and no work is made again") {
  RandomScene random(5);
  for (WantedScene::Object& object : random.wanted.objects) object.dynamic = true;
  const auto scene = random.wanted.made();
  gl::FrameRunner runner(device, forward_frame(scene).plan(96, 64, device.limits()).value());
  runner.run(0);
  const std::uint64_t structure = scene->versions().structure;
  const std::size_t asked = device.programs().counts().shared;
  for (int i = 0; i < 40; ++i) {
    random.wanted.camera.eye = random.vec(2) + Vec3(0, 3, 9);
    scene->set_camera(scene->view_handle("front"), random.wanted.camera);
    for (std::uint32_t k = 0; k < 4; ++k) {
      random.wanted.objects[k].local = random.transform();
      scene->set_local_transform({k}, random.wanted.objects[k].local);
    }
    Material& material = random.wanted.materials[0];
    material.base_color = random.color();
    scene->change_material({0}, material);
    random.wanted.lights[0] = random.directional();
    scene->change_light(LightHandle{0}, random.wanted.lights[0]);
    runner.run(0);  // at the same time, too
    REQUIRE(runner.read("output") == drawn_anew(device, random.wanted, forward_frame, 0));
  }
  CHECK(scene->versions().structure == structure);
  // Those that were drawn from nothing asked for programs; this runner did not.
  CHECK(device.programs().counts().shared - asked > 0);
  const std::size_t before = device.programs().counts().shared;
  scene->set_camera(scene->view_handle("front"), random.wanted.camera);
  runner.run(0);
  CHECK(device.programs().counts().shared == before);
}

TEST_CASE_METHOD(TestDevice, "a transform that is not finite is drawn as it comes, and reported") {
  RandomScene random(4);
  const auto scene = random.wanted.made();
  gl::FrameRunner runner(device, forward_frame(scene).plan(96, 64, device.limits()).value());
  runner.run(0);
  const Transform good = random.transform();
  const Transform huge = Transform::scale(Vec3::constant(1e30f));
  scene->set_local_transform({2}, huge.then(huge));
  runner.run(0);
  CHECK_THAT(to_text(runner.diagnostics()), Catch::Contains("bounds-not-finite") && Catch::Contains("\"object 2\""));
  scene->set_local_transform({2}, good);
  random.wanted.objects[2].local = good;
  random.wanted.objects[2].dynamic = true;
  runner.run(0);
  CHECK(runner.read("output") == drawn_anew(device, random.wanted, forward_frame, 0));
}
