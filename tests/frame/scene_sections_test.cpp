#include "scratch.h"
#include "thrown.h"

#include <periscena/base/file.h>
#include <periscena/frame/frame_file.h>
#include <periscena/image/files.h>
#include <periscena/model/gltf.h>

#include <cmath>

using namespace periscena;

namespace {

/// Frame files with pictures and a model beside them.
struct Beside {
  Scratch scratch{"sections"};

  Beside() {
    write_png(Image(4, 2, Format::rgba8_srgb), scratch / "brick.png");
    Image sky(4, 2, Format::rgba32f);
    sky.set(1, 1, {5, 6, 7, 1});
    write_hdr(sky, scratch / "sky.hdr");
    for (int i = 0; i < 6; ++i)
      write_exr(Image(2, 2, Format::rgba32f), scratch / ("face" + std::to_string(i) + ".exr"));
    write_file(scratch / "rust.glsl", "void surface(SurfacePoint point, inout Surface surface) {}\n");
    Scene model;
    Node node;
    node.name = "gate";
    node.mesh = model.add_mesh("box", shapes::box({1, 1, 1}));
    node.material = model.add_material({.name = "oak", .metallic = 0.25f, .roughness = 0.5f});
    node.tags = {"wood"};
    model.add_node(node);
    model.add_material({.name = "paint"});
    model.add_view({"front", {}});
    model.add_light(Light{.name = "sun"});
    write_glb(model, scratch / "model.glb");
  }

  FrameFile read(const std::string& text, std::vector<std::string> overrides = {}) {
    write_file(scratch / "frame.toml", text);
    FrameFileOptions options;
    options.overrides = std::move(overrides);
    return read_frame_file(scratch / "frame.toml", options);
  }

  std::string wrong(const std::string& text) { return to_text(read(text).diagnostics); }
};

const std::string on_model =
    "[frame]\nscene = \"model.glb\"\n[[pass]]\nname = \"p\"\nkind = \"forward\"\nview = \"front\"\n"
    "writes = { color = \"output\" }\n";

}  // namespace

TEST_CASE_METHOD(Beside, "textures and materials say all that the C++ says, and files are read once") {
  const FrameFile file = read(
      "[texture.wall]\nfile = \"brick.png\"\nfilter = \"nearest_levels\"\nwrap = \"mirror\"\nwrap_v = \"clamp\"\n"
      "anisotropy = 4\nmetres_per_tile = [1.5, 0.75]\n"
      "[texture.bumps]\nfile = \"./brick.png\"\nholds = \"data\"\n"
      "[material.m]\nbase_color_map = \"wall\"\nalpha = 0.5\nalpha_mode = \"mask\"\nalpha_cutoff = 0.3\n"
      "double_sided = true\nnormal_scale = 2\nocclusion_strength = 0.5\nemission = [1, 2, 3]\nsurface = \"rust.glsl\"\n"
      "normal_map = { texture = \"bumps\", uv_set = 1, scale = [2, 3], rotation_degrees = 90, offset = [0.5, 0] }\n"
      "[material.b]\nshading = \"blinn_phong\"\nspecular = [0.1, 0.2, 0.3]\nshininess = 50\nshows = \"mirror\"\n"
      "shows_mirrored = true\n");
  INFO(to_text(file.diagnostics));
  REQUIRE(file.diagnostics.empty());
  const Scene& scene = *file.scene;
  const Texture& wall = scene.textures()[0];
  REQUIRE(wall.holds == TextureHolds::color);
  REQUIRE(wall.sampling.filter == Filter::nearest_levels);
  REQUIRE(wall.sampling.wrap_u == Wrap::mirror);
  REQUIRE(wall.sampling.wrap_v == Wrap::clamp);
  REQUIRE(wall.sampling.anisotropy == 4);
  REQUIRE(*wall.metres_per_tile == Vec2(1.5f, 0.75f));
  REQUIRE(scene.textures()[1].holds == TextureHolds::data);
  REQUIRE(scene.textures()[1].image == wall.image);
  const Material& m = scene.materials()[0];
  REQUIRE(m.base_color_map.texture == scene.find_texture("wall"));
  REQUIRE(m.alpha_mode == Material::AlphaMode::mask);
  REQUIRE(m.alpha == 0.5f);
  REQUIRE(m.alpha_cutoff == 0.3f);
  REQUIRE(m.double_sided);
  REQUIRE(m.normal_scale == 2);
  REQUIRE(m.emission == Vec3(1, 2, 3));
  REQUIRE(m.surface == (scratch / "rust.glsl").string());
  REQUIRE(m.normal_map.uv_set == 1);
  REQUIRE(m.normal_map.scale == Vec2(2, 3));
  REQUIRE(m.normal_map.offset == Vec2(0.5f, 0));
  REQUIRE(m.normal_map.rotation == Approx(radians(90)));
  const Material& b = scene.materials()[1];
  REQUIRE(b.shading == Material::Shading::blinn_phong);
  REQUIRE(b.specular == Vec3(0.1f, 0.2f, 0.3f));
  REQUIRE(b.shininess == 50);
  REQUIRE(b.shows == "mirror");
  REQUIRE(b.shows_mirrored);
}

TEST_CASE_METHOD(Beside, "lights, skies, fog and variants say all that the C++ says") {
  const FrameFile file = read(
      "[light.lamp]\nkind = \"spot\"\nposition = [1, 2, 3]\ndirection = [0, -1, 0]\ncolor = [1, 0.5, 0.25]\n"
      "intensity_candela = 40\nrange = 12\ninner_cone_degrees = 10\nouter_cone_degrees = 30\nobject = \"post\"\n"
      "tags = [\"lamps\"]\n"
      "[environment.dusk]\npanorama = \"sky.hdr\"\nrotation_degrees = 90\nintensity = 2\n"
      "[environment.room]\nfaces = [\"face0.exr\", \"face1.exr\", \"face2.exr\", \"face3.exr\", \"face4.exr\", "
      "\"face5.exr\"]\n"
      "[fog.haze]\nkind = \"exponential\"\ncolor_nits = [1, 2, 3]\ndensity = 0.02\nhalf_height = 4\nbase = -1\n"
      "[fog.wall]\nkind = \"linear\"\nstart = 2\nend = 9\n"
      "[material.red]\n[material.blue]\n[mesh.box]\nkind = \"box\"\nsize = [1, 1, 1]\n"
      "[[object]]\nname = \"post\"\nmesh = \"box\"\nmaterial = \"red\"\ntags = [\"iron\", \"tall\"]\n"
      "[[object]]\nname = \"plain\"\nmesh = \"box\"\nmaterial = \"red\"\n"
      "[variant.night]\nmaterials = { red = \"blue\" }\nwithout_tags = "
      "[\"tall\"]\n[variant.bare]\n[variant.empty]\ntags = []\n");
  INFO(to_text(file.diagnostics));
  REQUIRE(file.diagnostics.empty());
  const Scene& scene = *file.scene;
  const Light& lamp = *scene.find_light("lamp");
  REQUIRE(lamp.spot());
  REQUIRE(lamp.strength() == 40);
  REQUIRE(lamp.range() == 12);
  REQUIRE(lamp.spot()->inner_cone == Approx(radians(10)));
  REQUIRE(lamp.spot()->outer_cone == Approx(radians(30)));
  REQUIRE(lamp.node == scene.find_node("post"));
  REQUIRE(lamp.tags == std::vector<std::string>{"lamps"});
  const Environment& dusk = *scene.find_environment("dusk");
  REQUIRE(dusk.rotation == Approx(radians(90)));
  REQUIRE(dusk.intensity == 2);
  REQUIRE(dusk.images[0]->at(1, 1)[2] == Approx(7).epsilon(0.01));
  REQUIRE(scene.find_environment("room")->images.size() == 6);
  const Fog& haze = *scene.find_fog("haze");
  REQUIRE(haze.half_height == 4);
  REQUIRE(haze.base == -1);
  REQUIRE(scene.find_fog("wall")->end == 9);
  REQUIRE(scene.nodes()[0].tags == std::vector<std::string>{"iron", "tall"});
  const Variant& night = *scene.find_variant("night");
  REQUIRE(night.materials.size() == 1);
  REQUIRE_FALSE(scene.chosen(night.objects)[0]);
  REQUIRE(scene.chosen(scene.find_variant("bare")->objects)[1]);
  REQUIRE_FALSE(scene.chosen(scene.find_variant("empty")->objects)[1]);
  REQUIRE(scene.materials_of_nodes(&night)[0] == scene.find_material("blue"));
}

TEST_CASE_METHOD(Beside,
                 "a model's materials are changed by their names, in the file or for one run, what is not said stays") {
  const FrameFile file = read(on_model + "[material.oak]\nroughness = 0.75\n", {"material.paint.metallic=1"});
  INFO(to_text(file.diagnostics));
  REQUIRE(file.plan().ok());
  const Material& oak = file.scene->materials()[file.scene->find_material("oak").index];
  REQUIRE(oak.roughness == 0.75f);
  REQUIRE(oak.metallic == 0.25f);
  REQUIRE(file.scene->materials()[file.scene->find_material("paint").index].metallic == 1);
  REQUIRE(file.scene->materials().size() == 2);
  const FrameFile wrong = read(on_model, {"material.oack.roughness=1"});
  REQUIRE_THAT(to_text(wrong.diagnostics), Catch::Contains("did you mean \"oak\"?"));
}

TEST_CASE_METHOD(Beside, "sky, tone_map and light_markers are read with all their keys, and say what they lack") {
  const std::string passes =
      "[environment.dusk]\npanorama = \"sky.hdr\"\n[fog.haze]\n[target.light]\nformat = \"rgba16f\"\n"
      "[target.depth]\nformat = \"depth32f\"\n"
      "[[pass]]\nname = \"sky\"\nkind = \"sky\"\nview = \"front\"\nenvironment = \"dusk\"\nfog = \"haze\"\nblur = 0.5\n"
      "writes = { color = \"light\" }\n"
      "[[pass]]\nname = \"gate\"\nkind = \"forward\"\nview = \"front\"\nlights = []\ntags = [\"wood\"]\n"
      "writes = { color = \"light\", depth = \"depth\" }\n"
      "[[pass]]\nname = \"tone\"\nkind = \"tone_map\"\nexposure_ev100 = 3\ncurve = \"reinhard\"\nwhite = 4\n"
      "reads = { light = \"light\" }\nwrites = { color = \"output\" }\n"
      "[[pass]]\nname = \"markers\"\nkind = \"light_markers\"\nview = \"front\"\nlights = [\"sun\"]\nwidth = 3\n"
      "brightness = 0.5\nreach_lux = 2\nreads = { depth = \"depth\" }\nwrites = { color = \"output\" }\n";
  const std::string head = "[frame]\nscene = \"model.glb\"\n";
  const FrameFile file = read(head + passes);
  INFO(to_text(file.plan().diagnostics()));
  REQUIRE(file.plan().ok());
  REQUIRE(file.plan().diagnostics().empty());
  const auto changed = [&](const std::string& from, const std::string& to) {
    std::string text = head + passes;
    text.replace(text.find(from), from.size(), to);
    return to_text(read(text).plan().diagnostics());
  };
  using Catch::Contains;
  REQUIRE_THAT(changed("blur = 0.5", "blur = 2"), Contains("out-of-range") && Contains("choose 0 to 1"));
  REQUIRE_THAT(changed("environment = \"dusk\"\n", ""), Contains("missing-key") && Contains("environment"));
  REQUIRE_THAT(changed("environment = \"dusk\"\n", "environment = \"dsuk\"\n"), Contains("did you mean \"dusk\"?"));
  REQUIRE_THAT(changed("tags = [\"wood\"]", "tags = [\"wod\"]"), Contains("unknown-tag") && Contains("\"wood\""));
  REQUIRE_THAT(changed("curve = \"reinhard\"", "curve = \"soft\""), Contains("unknown-choice"));
  REQUIRE_THAT(changed("white = 4", "white = 0"), Contains("choose more than 0"));
  REQUIRE_THAT(changed("reads = { light = \"light\" }\n", ""),
               Contains("has no reads") || Contains("reads no \"light\""));
  REQUIRE_THAT(changed("lights = [\"sun\"]", "lights = [\"moon\"]"), Contains("unknown-light"));
  REQUIRE_THAT(changed("reads = { depth = \"depth\" }", "reads = { depth = \"light\" }"), Contains("sampler-type"));
  REQUIRE_THAT(changed("width = 3", "width = \"thick\""), Contains("wrong-type") && Contains("number"));
}
