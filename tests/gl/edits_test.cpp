#include "gl/device.h"
#include "gl/edited_scene.h"
#include "scratch.h"
#include "shrink.h"
#include "thrown.h"

#include <periscena/base/file.h>
#include <periscena/gl/frame_runner.h>
#include <periscena/periscena.h>

#include <fmt/format.h>

#include <random>

using namespace periscena;

namespace {

FrameGraph forward_frame_by(const std::shared_ptr<Scene>& scene, batch::Batching batching, batch::Culling culling) {
  FrameGraph frame;
  frame.set_background({0.1f, 0.2f, 0.3f, 1});
  const auto sun = frame.target("sun", {.format = Format::depth32f, .size = {256, 256}});
  const auto lamps =
      frame.target("lamps", {.format = Format::depth32f, .size = {256, 256}, .layers = 4, .shape = TargetShape::array});
  passes::ShadowMap sun_map{.name = "sun map", .scene = scene, .light = "sun"};
  sun_map.depth = sun;
  frame.add(passes::shadow_map(sun_map));
  passes::ShadowMap lamp_maps{.name = "lamp maps", .scene = scene, .lights = {"lamp", "spot"}};
  lamp_maps.depth = lamps;
  frame.add(passes::shadow_map(lamp_maps));
  const auto light = frame.target("light", {.format = Format::rgba16f});
  passes::Forward forward{.name = "picture", .scene = scene, .view = "front", .environment = "sky"};
  forward.without_tags = {"aside"};
  forward.batching = batching;
  forward.culling = culling;
  forward.fog = "mist";
  forward.shadows = {sun, lamps};
  forward.color = light;
  forward.depth = frame.target("depth", {.format = Format::depth32f});
  frame.add(passes::forward(forward));
  passes::LightMarkers markers{.name = "lights", .scene = scene, .view = "front"};
  markers.color = light;
  markers.depth = forward.depth;
  frame.add(passes::light_markers(markers));
  frame.add(passes::tone_map({.exposure_ev100 = 1, .light = light, .color = frame.output()}));
  return frame;
}

FrameGraph forward_frame(const std::shared_ptr<Scene>& scene) {
  return forward_frame_by(scene, batch::Batching::automatic, batch::Culling::host);
}

FrameGraph merged_frame(const std::shared_ptr<Scene>& scene) {
  return forward_frame_by(scene, batch::Batching::merged, batch::Culling::host);
}

FrameGraph culled_on_device_frame(const std::shared_ptr<Scene>& scene) {
  return forward_frame_by(scene, batch::Batching::automatic, batch::Culling::device);
}

FrameGraph deferred_frame(const std::shared_ptr<Scene>& scene) {
  FrameGraph frame;
  const auto normal = frame.target("normal", {.format = Format::rgba16});
  const auto color = frame.target("color", {.format = Format::rgba8_srgb});
  const auto material = frame.target("material", {.format = Format::rgba8});
  const auto depth = frame.target("depth", {.format = Format::depth32f});
  passes::Geometry geometry{.name = "surfaces", .scene = scene, .view = "front"};
  geometry.normal = normal;
  geometry.base_color = color;
  geometry.material = material;
  geometry.depth = depth;
  frame.add(passes::geometry(geometry));
  const auto light = frame.target("light", {.format = Format::rgba16f});
  const auto open = frame.target("open", {.format = Format::r8});
  passes::AmbientOcclusion occlusion{.name = "corners", .scene = scene, .view = "front"};
  occlusion.depth = depth;
  occlusion.normal = normal;
  occlusion.occlusion = open;
  frame.add(passes::ambient_occlusion(occlusion));
  passes::Deferred deferred{.name = "lit", .scene = scene, .view = "front", .environment = "sky"};
  deferred.occlusion = open;
  deferred.normal = normal;
  deferred.base_color = color;
  deferred.material = material;
  deferred.depth = depth;
  deferred.fog = "mist";
  deferred.color = light;
  frame.add(passes::deferred(deferred));
  frame.add(passes::tone_map({.exposure_ev100 = 1, .light = light, .color = frame.output()}));
  return frame;
}

using FrameOf = FrameGraph (*)(const std::shared_ptr<Scene>&);

Image drawn(gl::Device& device, const std::shared_ptr<Scene>& scene, FrameOf frame_of, double seconds) {
  gl::FrameRunner runner(device, frame_of(scene).plan(96, 64, device.limits()).value());
  runner.run(seconds);
  return runner.read("output");
}

Image drawn_anew(gl::Device& device, const WantedScene& wanted, FrameOf frame_of, double seconds) {
  return drawn(device, wanted.made(), frame_of, seconds);
}

/// One edit, and whether a frame is drawn before the next one.
struct Step {
  unsigned dice;
  double seconds;
  bool draws;
};

/// @return does the picture after all these edits differ from that of the scene made so? @param names  of the edits
bool differs_after(gl::Device& device, unsigned seed, FrameOf frame_of, const std::vector<Step>& steps,
                   std::string* names = nullptr) {
  EditedScene edited(seed);
  gl::FrameRunner runner(device, frame_of(edited.scene).plan(96, 64, device.limits()).value());
  for (const Step& step : steps) {
    const std::string name = edited.edit(step.dice);
    if (names) *names += fmt::format("\n  {}, at {} s{}", name, step.seconds, step.draws ? ", drawn" : "");
    if (step.draws) runner.run(step.seconds);
  }
  runner.run(steps.back().seconds);
  return runner.read("output") != drawn_anew(device, edited.wanted, frame_of, steps.back().seconds);
}

/// 500 edits of all kinds; after each tenth, the picture is that of the scene made so.
void edit_500_times(gl::Device& device, FrameOf frame_of, unsigned seed) {
  EditedScene edited(seed);
  std::mt19937 random(seed);
  gl::FrameRunner runner(device, frame_of(edited.scene).plan(96, 64, device.limits()).value());
  std::vector<Step> steps;
  for (int i = 0; i < 500; ++i) {
    const Step step{static_cast<unsigned>(random()), 0.25 * (i / 3), i % 2 == 0};
    steps.push_back(step);
    edited.edit(step.dice);
    if (step.draws) runner.run(step.seconds);
    if (i % 10 != 9) continue;
    runner.run(step.seconds);
    const Image now = runner.read("output");
    if (now != drawn_anew(device, edited.wanted, frame_of, step.seconds)) {
      const auto fails = [&](const std::vector<Step>& some) {
        return !some.empty() && differs_after(device, seed, frame_of, some);
      };
      std::string names;
      differs_after(device, seed, frame_of, fails(steps) ? shrunk(steps, fails) : steps, &names);
      FAIL("seed " << seed << ": the picture is not that of the scene made so after these edits:" << names);
    }
    if (i % 50 == 49)
      REQUIRE(now == drawn(device, std::make_shared<Scene>(edited.scene->packed()), frame_of, step.seconds));
  }
}

}  // namespace

TEST_CASE_METHOD(TestDevice, "after 500 edits of all kinds, a forward frame is that of the scene made so") {
  edit_500_times(device, forward_frame, 1);
}

TEST_CASE_METHOD(TestDevice, "after 500 edits of all kinds, a frame of merged objects is that of the scene made so") {
  edit_500_times(device, merged_frame, 2);
}

TEST_CASE_METHOD(TestDevice,
                 "after 500 edits of all kinds, a frame culled on the device is that of the scene made so") {
  edit_500_times(device, culled_on_device_frame, 3);
}

TEST_CASE_METHOD(TestDevice, "after 500 edits of all kinds, a deferred frame is that of the scene made so") {
  edit_500_times(device, deferred_frame, 4);
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

TEST_CASE_METHOD(TestDevice, "a cut-out whose alpha changes changes its shadow, too") {
  RandomScene random(7);
  for (Material& material : random.wanted.materials) {
    material.alpha_mode = Material::AlphaMode::mask;
    material.alpha = 0.8f;
  }
  const auto scene = random.wanted.made();
  gl::FrameRunner runner(device, forward_frame(scene).plan(96, 64, device.limits()).value());
  runner.run(0);
  for (const float cutoff : {0.9f, 0.5f, 0.85f}) {
    for (std::uint32_t i = 0; i < 2; ++i) {
      random.wanted.materials[i].alpha_cutoff = cutoff;
      scene->change_material({i}, random.wanted.material(i, *scene));
    }
    runner.run(0);
    REQUIRE(runner.read("output") == drawn_anew(device, random.wanted, forward_frame, 0));
  }
}

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

TEST_CASE_METHOD(TestDevice, "changes that can't be are refused, and leave the scene and its picture as they were") {
  RandomScene random(3);
  const auto scene = random.wanted.made();
  gl::FrameRunner runner(device, forward_frame(scene).plan(96, 64, device.limits()).value());
  runner.run(0);
  const Image before = runner.read("output");
  const SceneVersions versions = scene->versions();
  const Transform still = Transform::identity();
  CHECK(thrown_slug([&] { scene->set_local_transform({999}, still); }) == "stale-handle");
  CHECK(thrown_slug([&] { scene->set_local_transform({}, still); }) == "stale-handle");
  CHECK(thrown_slug([&] { scene->release({999}); }) == "stale-handle");
  CHECK(thrown_slug([&] { scene->set_mesh({0}, {77}, {0}); }) == "unknown-mesh");
  CHECK(thrown_slug([&] { scene->set_mesh({0}, {0}, {77}); }) == "unknown-mesh");
  CHECK(thrown_slug([&] { scene->change_material({77}, {}); }) == "stale-handle");
  CHECK(thrown_slug([&] { scene->change_material({0}, {.roughness = NAN}); }) == "not-finite");
  CHECK(thrown_slug([&] { scene->change_light(LightHandle{77}, random.point()); }) == "stale-handle");
  CHECK(thrown_slug([&] { scene->change_light(LightHandle{1}, {.name = "x", .kind = PointLight{.intensity = -1}}); }) ==
        "bad-light");
  CHECK(thrown_slug([&] { scene->change_light(LightHandle{1}, {.name = "x", .kind = PointLight{}, .node = {999}}); }) ==
        "bad-light");
  CHECK(thrown_slug([&] {
          scene->change_light(AmbientLightHandle{0}, {.name = "x", .sky = Vec3::constant(INFINITY)});
        }) == "not-finite");
  CHECK(thrown_slug([&] { scene->change_fog({0}, {.name = "x", .density = -1}); }) == "bad-fog");
  CHECK(thrown_slug([&] { scene->change_environment({7}, {}); }) == "stale-handle");
  CHECK(thrown_slug([&] { scene->set_camera({0}, {.eye = {0, 0, 0}, .target = {0, 0, 0}}); }) != "");
  CHECK(thrown_slug([&] { scene->change_view({0}, {"front", {}, {999}}); }) == "unknown-parent");
  CHECK(scene->versions() == versions);
  runner.run(0);
  CHECK(runner.read("output") == before);
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

TEST_CASE_METHOD(TestDevice, "lights and views that are added while a runner draws are there in the next frame") {
  RandomScene random(6);
  const auto scene = random.wanted.made();
  FrameGraph frame;
  const auto light = frame.target("light", {.format = Format::rgba16f});
  passes::Forward forward{.name = "picture", .scene = scene, .view = "front"};  // of all lights
  forward.color = light;
  forward.depth = frame.target("depth", {.format = Format::depth32f});
  frame.add(passes::forward(forward));
  frame.add(passes::tone_map({.exposure_ev100 = 1, .light = light, .color = frame.output()}));
  gl::FrameRunner runner(device, frame.plan(96, 64, device.limits()).value());
  runner.run(0);
  Image last = runner.read("output");
  // Seven lights that end at most: with eight there are lists of lights, and Mesa's software Vulkan driver crashes at
  // those next to ambient light, in scenes that never change, too.
  for (int i = 0; i < 5; ++i) {
    Light added = random.point();
    added.name = "added " + std::to_string(i);
    scene->add_light(added);
    scene->add_view({"view " + std::to_string(i), {}});
    runner.run(0);
    Image now = runner.read("output");
    REQUIRE(now != last);
    last = std::move(now);
  }
  gl::FrameRunner anew(device, frame.plan(96, 64, device.limits()).value());
  anew.run(0);
  CHECK(anew.read("output") == last);
}

TEST_CASE_METHOD(
    TestDevice,
    "a changed scene that can't be drawn is reported, the last picture stays, and the next run tries again") {
  const Scratch scratch("broken-surface");
  write_file(scratch / "broken.glsl", "void surface(SurfacePoint point, inout Surface surface) { oops }\n");
  RandomScene random(8);
  const auto scene = random.wanted.made();
  gl::FrameRunner runner(device, forward_frame(scene).plan(96, 64, device.limits()).value());
  runner.run(0);
  const Image before = runner.read("output");
  const MaterialHandle broken = scene->add_material({.name = "broken", .surface = (scratch / "broken.glsl").string()});
  const Node shown = scene->nodes()[0];
  scene->set_mesh({0}, shown.mesh, broken);
  for (int i = 0; i < 2; ++i) {
    CHECK_THAT(thrown_text([&] { runner.run(0); }), Catch::Contains("broken.glsl:1:") && Catch::Contains("oops"));
    CHECK(runner.read("output") == before);
    runner.draw_all_anew();
    for (std::size_t pass = 0; pass < runner.plan().passes().size(); ++pass) {
      runner.choices(pass);
      runner.batches(pass);
      runner.camera(pass);
      runner.counts(pass);
    }
  }
  write_file(scratch / "broken.glsl",
             "void surface(SurfacePoint point, inout Surface surface) { surface.base_color *= 0.5; }\n");
  runner.run(0);
  CHECK(runner.read("output") != before);
  scene->set_mesh({0}, shown.mesh, shown.material);
  runner.run(0);
  CHECK(runner.read("output") == before);
}
