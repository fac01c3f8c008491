#include "scratch.h"
#include "thrown.h"
#include "tool/process.h"

#include <periscena/base/file.h>
#include <periscena/frame/frame_file.h>
#include <periscena/frame/model_frame.h>
#include <periscena/image/files.h>
#include <periscena/model/gltf.h>
#include <periscena/scene/scene_bounds.h>

#include <catch2/catch.hpp>

#include <cmath>

using namespace periscena;

namespace {

/// A post with a lamp on it, of a size.
Scene post(float height, bool lit = false) {
  Scene scene;
  Node node{.name = "post"};
  node.mesh = scene.add_mesh("post", shapes::box({0.2f * height, height, 0.2f * height}));
  node.material = scene.add_material({.name = "oak", .base_color = {0.8f, 0.3f, 0.1f}});
  scene.add_node(node);
  if (lit) scene.add_light(Light{.name = "moon", .kind = DirectionalLight{.illuminance = 2, .direction = {0, -1, -1}}});
  return scene;
}

struct Models {
  Scratch scratch{"models"};

  std::filesystem::path write(const std::string& name, const Scene& scene) {
    write_glb(scene, scratch / name);
    return scratch / name;
  }

  FrameFile read(const std::string& text, const FrameFileOptions& options = {}) {
    write_file(scratch / "frame.toml", text);
    return read_frame_file(scratch / "frame.toml", options);
  }

  std::string found(const std::string& text) { return to_text(read(text).plan().diagnostics()); }
};

const std::string pass =
    "[[pass]]\nname = \"p\"\nkind = \"forward\"\nview = \"v\"\nlights = []\nwrites = { color = \"output\" }\n";

/// What a view sees of points: the least and the greatest of their places in the picture, as shares of its size.
std::pair<Vec2, Vec2> seen(const Camera& camera, float aspect, const Scene& scene) {
  std::vector<Transform> worlds(scene.nodes().size(), Transform::identity());
  scene.world_transforms(0, worlds);
  const Mat4 matrix = camera.projection(aspect).matrix() * camera.view().matrix();
  Vec2 low(9, 9), high(-9, -9);
  for (std::size_t i = 0; i < worlds.size(); ++i) {
    if (!scene.nodes()[i].mesh.valid()) continue;
    for (const Vec3& position : scene.meshes()[scene.nodes()[i].mesh.index].positions) {
      const Vec4 clip = matrix * worlds[i].apply_to_point(position).with(1);
      const Vec2 at(0.5f + 0.5f * clip.x() / clip.w(), 0.5f - 0.5f * clip.y() / clip.w());
      low = low.min(at);
      high = high.max(at);
    }
  }
  return {low, high};
}

}  // namespace

TEST_CASE_METHOD(Models, "a model is enough: its frame is sound, fits it, and has what it lacks") {
  const std::filesystem::path path = write("post.glb", post(3));
  const FrameFile file = read_frame_file(path);
  INFO(to_text(file.plan().diagnostics()));
  REQUIRE(file.plan().ok());
  CHECK(file.plan().diagnostics().empty());
  CHECK(file.scene->find_light("sun"));
  CHECK(file.scene->find_environment("sky"));
  CHECK(file.scene->find_node("post/post").valid());
  const Scene model = post(3);
  const auto [low, high] = seen(file.scene->find_view("front")->camera, 1280.0f / 720, model);
  CHECK(low.y() == Approx(0.05f).margin(2e-3));
  CHECK(high.y() == Approx(0.95f).margin(2e-3));
  CHECK(low.x() > 0.05f);
  CHECK(low.x() + high.x() == Approx(1).margin(0.02));
}

TEST_CASE_METHOD(Models, "a model's own lights and views come first, and the sky is as bright as suits them") {
  Scene scene = post(3, true);
  scene.add_view({"from the bank", {.eye = {0, 1, 9}}});
  const FrameFile file = read_frame_file(write("post.glb", scene));
  REQUIRE(file.plan().ok());
  CHECK_FALSE(file.scene->find_light("sun"));
  CHECK(file.scene->find_environment("sky")->intensity == Approx(2.0 / 60'000).epsilon(0.01));
  const std::string text = frame_around(scene, "post.glb", "render");
  CHECK_THAT(text, Catch::Contains("light        = \"post/moon\"") && Catch::Contains("= \"post/from the bank\"") &&
                       !Catch::Contains("[light.sun]"));
}

TEST_CASE_METHOD(Models, "the frame around a model is a frame file like others: --set finds what is in it") {
  const std::filesystem::path path = write("post.glb", post(3));
  const FrameFile file =
      read_frame_file(path, {.size = std::array{300, 600},
                             .overrides = {"material.post/oak.roughness=0.25", "view.front.fov_y_degrees=20",
                                           "choice.ground=plane", "object.post.transform=[{scale=2}]"}});
  INFO(to_text(file.plan().diagnostics()));
  REQUIRE(file.plan().ok());
  CHECK(file.scene->materials()[file.scene->find_material("post/oak").index].roughness == 0.25f);
  const Camera& camera = file.scene->find_view("front")->camera;
  CHECK(camera.fov_y == Approx(radians(20)));
  CHECK(camera.keep_aspect == 0.5f);
  Scene large = post(6);
  const auto [low, high] = seen(camera, 0.5f, large);
  CHECK(std::min(low.x(), low.y()) >= 0.024f);
  CHECK(low.y() == Approx(0.025f).margin(2e-3));  // of the smaller side, half as wide as high
  CHECK(file.graph.passes().size() == read_frame_file(path).graph.passes().size() + 1);
}

TEST_CASE_METHOD(Models, "names of files that frames can't take as they are become names that they can") {
  for (const char* name :
       {"my post.v2.glb", "ground.glb", "\"quoted\".glb", "sky.glb", "p\xC3\xBCt.glb", "a'b\\c.glb"}) {
    INFO(name);
    const FrameFile file = read_frame_file(write(name, post(1)));
    INFO(to_text(file.plan().diagnostics()));
    CHECK(file.plan().ok());
  }
}

TEST_CASE_METHOD(Models, "a model of an odd size is drawn, with a warning that says how large it is") {
  const auto warnings = [&](float height) {
    return to_text(read_frame_file(write("post.glb", post(height))).plan().diagnostics());
  };
  CHECK(warnings(2).empty());
  CHECK_THAT(warnings(4000), Catch::Contains("odd-size") && Catch::Contains("scale = 0.001"));
  CHECK_THAT(warnings(0.001f), Catch::Contains("odd-size") && Catch::Contains("scale = 1000"));
}

TEST_CASE_METHOD(Models, "models that can't be shown are told, not thrown") {
  write_file(scratch / "broken.glb", "glTF, it is not");
  const FrameFile broken = read_frame_file(scratch / "broken.glb");
  CHECK_THAT(to_text(broken.plan().diagnostics()), Catch::Contains("broken-gltf"));
  CHECK_FALSE(broken.plan().ok());
  CHECK(thrown_slug([&] { read_frame_file(scratch / "nothing.glb"); }) == "unreadable-file");
  const FrameFile empty = read_frame_file(write("empty.glb", Scene()));
  CHECK_THAT(to_text(empty.plan().diagnostics()), Catch::Contains("empty-box") && Catch::Contains("view.front"));
}

TEST_CASE_METHOD(Models, "several models, each any number of times, in one scene") {
  write("post.glb", post(3));
  write("stub.glb", post(1));
  const FrameFile file = read(
      "[model.post]\nfile = \"post.glb\"\n[model.stub]\nfile = \"stub.glb\"\n"
      "[[object]]\nname = \"a\"\nmodel = \"post\"\n"
      "[[object]]\nname = \"b\"\nmodel = \"post\"\ntransform = [{ translate = [4, 0, 0] }]\n"
      "[[object]]\nmodel = \"stub\"\ntransform = [{ translate = [0, 0, 5] }]\n"
      "[[object]]\nname = \"flag\"\nparent = \"b/post\"\n"
      "[material.\"post/oak\"]\nroughness = 0.125\n"
      "[view.v]\nfit = true\n" +
      pass);
  INFO(to_text(file.plan().diagnostics()));
  REQUIRE(file.plan().ok());
  const Scene& scene = *file.scene;
  CHECK(scene.meshes().size() == 2);
  CHECK(scene.materials()[scene.find_material("post/oak").index].roughness == 0.125f);
  CHECK(scene.materials()[scene.find_material("post/oak").index].base_color.is_near({0.8f, 0.3f, 0.1f}, 1e-5f));
  CHECK(scene.find_node("stub/post").valid());
  const Box box = bounds_of(scene);
  CHECK(box.min.is_near({-0.3f, -1.5f, -0.3f}, 1e-5f));
  CHECK(box.max.is_near({4.3f, 1.5f, 5.1f}, 1e-5f));
  const auto [low, high] = seen(scene.find_view("v")->camera, 1280.0f / 720, scene);
  CHECK(low.x() > 0.02f);
  CHECK(low.y() > 0.049f);
  CHECK(high.x() < 0.98f);
  CHECK(high.y() < 0.951f);
}

TEST_CASE_METHOD(Models, "a scene file has models, too, and they are found from its own folder") {
  std::filesystem::create_directory(scratch / "scenes");
  write("scenes/post.glb", post(3));
  write_file(scratch / "scenes/quay.toml",
             "[model.post]\nfile = \"post.glb\"\n[[object]]\nname = \"a\"\nmodel = \"post\"\n");
  const FrameFile file = read("[frame]\nscene = \"scenes/quay.toml\"\n[view.v]\nfit_object = \"a\"\n" + pass);
  INFO(to_text(file.plan().diagnostics()));
  REQUIRE(file.plan().ok());
  CHECK(read_scene_file(scratch / "scenes/quay.toml").find_node("a/post").valid());
  // The model can be another one for this run.
  write("stub.glb", post(1));
  const FrameFile other = read("[frame]\nscene = \"scenes/quay.toml\"\n[view.v]\nfit_object = \"a\"\n" + pass,
                               {.overrides = {"model.post.file=stub.glb", "material.post/oak.metallic=1"}});
  INFO(to_text(other.plan().diagnostics()));
  REQUIRE(other.plan().ok());
  CHECK(bounds_of(*other.scene).max.y() == Approx(0.5f));
}

TEST_CASE_METHOD(Models, "what is wrong with models and views that fit is told with its place") {
  write("post.glb", post(3));
  const std::string view = "[view.v]\nfit = true\n", model = "[model.post]\nfile = \"post.glb\"\n";
  CHECK_THAT(found("[[object]]\nmodel = \"pots\"\n" + model + view + pass),
             Catch::Contains(":2:9: error[unknown-model]") && Catch::Contains("did you mean \"post\"?"));
  CHECK_THAT(found("[model.post]\nfile = \"nothing.glb\"\n[[object]]\nmodel = \"post\"\n" + pass + "[view.v]\n"),
             Catch::Contains(":2:8: error[unreadable-file]") && !Catch::Contains("unknown-model"));
  CHECK_THAT(found("[model.post]\nfile = \"frame.toml\"\n" + pass + "[view.v]\n"),
             Catch::Contains(":2:8: error[unknown-model]"));
  CHECK_THAT(found("[model.post]\nfiel = \"post.glb\"\n" + pass + "[view.v]\n"),
             Catch::Contains("missing-key") && Catch::Contains("unknown-key"));
  CHECK_THAT(found(model + "[mesh.box]\nkind = \"box\"\n[[object]]\nmodel = \"post\"\nmesh = \"box\"\n" + view + pass),
             Catch::Contains(":6:9: error[unclear-object]"));
  CHECK_THAT(found(model + "[[object]]\nname = \"a\"\nmodel = \"post\"\n[[object]]\nname = \"a\"\nmodel = \"post\"\n" +
                   view + pass),
             Catch::Contains(":7:8: error[taken-name]"));
  CHECK_THAT(found(model + view + pass), Catch::Contains(":3:7: error[empty-box]"));
  CHECK_THAT(found(model + "[[object]]\nname = \"a\"\nmodel = \"post\"\n[view.v]\nfit_object = \"b\"\n" + pass),
             Catch::Contains(":7:14: error[unknown-object]"));
  CHECK_THAT(found(model + "[[object]]\nname = \"a\"\nmodel = \"post\"\n[view.v]\nfit = true\nobject = \"a\"\n" + pass),
             Catch::Contains(":8:10: error[unclear-view]"));
  CHECK_THAT(found("model = 3\n" + pass + "[view.v]\n"), Catch::Contains(":1:9: error[wrong-type]"));
  CHECK_THAT(found("[environment.sky]\nzenith_nits = [1, 2, 3]\npanorama = \"sky.hdr\"\n[view.v]\n" + pass),
             Catch::Contains("unclear-environment") && Catch::Contains("has several of"));
  CHECK_THAT(found("[environment.sky]\nzenith_nits = [1, -2, 3]\n[view.v]\n" + pass),
             Catch::Contains(":2:19: error[out-of-range]") && !Catch::Contains("environment]"));
}

TEST_CASE_METHOD(Models, "periscena renders, checks and probes a model, and writes its frame to go on with") {
  const std::string model = write("post.glb", post(3)).string(), frame = (scratch / "frame.toml").string(),
                    picture = (scratch / "post.png").string(), again = (scratch / "again.png").string();
  const Answer rendered = periscena_command({"render", model, "-o", picture, "--size", "320x200"});
  INFO(rendered.error);
  REQUIRE(rendered.exit_code == 0);
  CHECK(rendered.error.empty());
  const Image image = read_png(picture);
  REQUIRE(image.width() == 320);
  // The post is brown, in the middle, from near the upper edge to near the lower one; the sky is none of that.
  const auto is_post = [&](int x, int y) { return image.at(x, y)[0] > 1.5 * image.at(x, y)[2]; };
  CHECK(is_post(160, 100));
  CHECK(is_post(160, 30));
  CHECK(is_post(160, 170));
  CHECK_FALSE(is_post(160, 4));
  CHECK_FALSE(is_post(60, 100));
  const Answer written = periscena_command({"frame", model, "-o", frame});
  INFO(written.error);
  REQUIRE(written.exit_code == 0);
  REQUIRE(periscena_command({"render", frame, "-o", again, "--size", "320x200"}).exit_code == 0);
  CHECK(read_png(again) == image);
  CHECK(periscena_command({"frame", model}).out.substr(0, 40) == read_text(frame)->text.substr(0, 40));
  CHECK(periscena_command({"check", model}).exit_code == 0);
  CHECK(periscena_command({"probe", model, "--size", "320x200", "--pixel", "160,100"}).exit_code == 0);
  // Bad input.
  CHECK(periscena_command({"frame", frame}).exit_code == 3);
  CHECK(periscena_command({"frame", (scratch / "nothing.glb").string()}).exit_code == 3);
  CHECK(periscena_command({"frame", model, "-o", model}).exit_code == 2);
  CHECK_THAT(periscena_command({"render", model, "-o", picture, "--set", "pass.pictre.variant=x"}).error,
             Catch::Contains("built-in frame") || Catch::Contains("--set:1"));
}
