#include <periscena/frame/model_frame.h>

#include "frame/sections.h"

#include <periscena/base/utf8.h>
#include <periscena/scene/scene_bounds.h>

#include <algorithm>
#include <cctype>
#include <cmath>

namespace periscena {
namespace {

constexpr float sun_lux = 60'000, longest = 1'000, shortest = 0.01f;

/// A name that needs no quotes, in TOML and in --set.
std::string bare_name(const std::filesystem::path& file) {
  std::string name = file.stem().string();
  for (char& c : name) {
    if (!std::isalnum(static_cast<unsigned char>(c)) && c != '-') c = '_';
  }
  return name == "ground" ? "ground_model" : name;
}

std::string quoted(const std::string& text) {
  std::string made = "\"";
  for (const char c : printable(text)) {
    if (c == '"' || c == '\\') made += '\\';
    made += c;
  }
  return made + "\"";
}

std::string list_of(const Vec3& v) {
  return fmt::format("[{:.3g}, {:.3g}, {:.3g}]", v.x(), v.y(), v.z());
}

const Light* strongest_sun(const Scene& scene) {
  const Light* strongest = nullptr;
  for (const Light& light : scene.lights()) {
    if (light.is_directional() && (!strongest || light.strength() > strongest->strength())) strongest = &light;
  }
  return strongest;
}

/// Lux that the model's own lights give a surface in its middle that faces them.
float own_lux(const Scene& scene, const Box& box) {
  std::vector<Transform> worlds(scene.nodes().size(), Transform::identity());
  scene.world_transforms(0, worlds);
  const float nearest = std::max(0.25f * (box.max - box.min).norm(), 1e-3f);
  float lux = 0;
  for (const Light& light : scene.lights()) {
    if (light.is_directional()) {
      lux += light.strength();
      continue;
    }
    const Transform world = light.node.valid() ? worlds[light.node.index] : Transform::identity();
    const Light placed{.name = {}, .kind = light.placed(world)};
    const float metres = std::max(placed.way_from(box.center()).norm(), nearest);
    lux += light.strength() / (metres * metres);
  }
  return lux;
}

// A frame around a model, section by section. {model}: its name, {file}: its path in quotes.

constexpr const char* scene_toml = R"toml([frame]
size          = [1280, 720]
view          = {view}
environment   = {environment}
history_steps = 0   # a still picture takes what the meter reads

[choice]
ground = "none"   # or "plane", which receives the shadow

[model.{model}]
file = {file}

# More of it, or of other models: more objects. A transform is a list of steps, such as [{{ scale = 0.01 }}, {{ translate = [2, 0, 0] }}]
[[object]]
name  = "{model}"
model = "{model}"

[mesh.ground]
kind = "plane"
size = [{ground_size:.3g}, 1, {ground_size:.3g}]

[material.ground]
base_color = [0.35, 0.34, 0.32]
roughness  = 0.9

[[object]]
name      = "ground"
mesh      = "ground"
material  = "ground"
tags      = ["{ground_tag}"]
transform = [{{ translate = {ground_place} }}]

# It looks from that side, and comes as near as all of the model fits into the picture.
[view.front]
eye           = [0.62, 0.6, 1]
target        = [0, 0, 0]
fov_y_degrees = 32
fit_object    = "{model}"

)toml";

constexpr const char* sun_toml = R"toml([light.sun]
kind            = "directional"
direction       = [-1, -0.85, -0.15]
color           = [1, 0.93, 0.84]
illuminance_lux = {sun_lux:.0f}

)toml";

constexpr const char* sky_toml = R"toml([environment.sky]
zenith_nits  = [2100, 3500, 6300]
horizon_nits = [6200, 7000, 8000]
ground_nits  = [1900, 1800, 1600]
intensity    = {sky_share:.3g}   # 1 suits a sun of 60,000 lux

)toml";

constexpr const char* shadow_toml = R"toml([target."sun.depth"]
format = "depth32f"
size   = [2048, 2048]

[[pass]]
name         = "shadow"
kind         = "shadow_map"
light        = {sun}
without_tags = ["{ground_tag}"]
radius       = 2
writes       = {{ depth = "sun.depth" }}

)toml";

constexpr const char* passes_toml = R"toml([target."scene.color"]
format  = "rgba16f"
samples = 4

[target."scene.depth"]
format  = "depth32f"
samples = 4

[target.exposure]
format = "rgba32f"
size   = [1, 1]

[[pass]]
name   = "sky"
kind   = "sky"
blur   = 0.25
writes = {{ color = "scene.color" }}

[[pass]]
name    = "ground"
kind    = "forward"
when    = {{ ground = "plane" }}
tags    = ["{ground_tag}"]
{shadows}writes  = {{ color = "scene.color", depth = "scene.depth" }}

[[pass]]
name         = "model"
kind         = "forward"
when         = {{ ground = ["none", "plane"] }}
without_tags = ["{ground_tag}"]
{model_shadows}writes       = {{ color = "scene.color", depth = "scene.depth" }}

[[pass]]
name   = "meter"
kind   = "meter"
reads  = {{ light = "scene.color" }}
writes = {{ exposure = "exposure" }}

[[pass]]
name            = "develop"
kind            = "tone_map"
compensation_ev = 0.5
dither          = true
reads           = {{ light = "scene.color", exposure = "exposure" }}
writes          = {{ color = "output" }}
)toml";

}  // namespace

std::string frame_around(const Scene& scene, const std::filesystem::path& file, const std::string& command) {
  Box box = bounds_of(scene);
  if (box.empty()) box = {Vec3::constant(-0.5f), Vec3::constant(0.5f)};
  const float across = (box.max - box.min).norm();
  const std::string model = bare_name(file);
  const auto own = [&](const std::string& name) { return quoted(model + "/" + name); };
  const Light* own_sun = strongest_sun(scene);
  const bool needs_sun = scene.lights().empty(), needs_sky = scene.environments().empty();
  const bool casts_shadow = needs_sun || own_sun;
  // A little lower than what may be the model's own ground.
  const Vec3 ground(box.center().x(), box.min.y() - 0.001f * across, box.center().z());

  FreeNames tags;
  const std::string tag = tags.next("ground", [&](const std::string& name) { return scene.has_tag(name); });

  std::string text = fmt::format("# A frame around {}, to edit further.\n#   {}\n\n",
                                 printable(file.filename().string()), printable(command));
  text += fmt::format(scene_toml, fmt::arg("view", scene.views().empty() ? "\"front\"" : own(scene.views()[0].name)),
                      fmt::arg("environment", needs_sky ? "\"sky\"" : own(scene.environments()[0].name)),
                      fmt::arg("model", model), fmt::arg("ground_tag", tag),
                      fmt::arg("file", quoted(file.generic_string())), fmt::arg("ground_size", 40 * across),
                      fmt::arg("ground_place", list_of(ground)));
  if (needs_sun) text += fmt::format(sun_toml, fmt::arg("sun_lux", sun_lux));
  const float share = needs_sun ? 1 : std::clamp(own_lux(scene, box) / sun_lux, 1e-6f, 10.0f);
  if (needs_sky) text += fmt::format(sky_toml, fmt::arg("sky_share", share));
  if (casts_shadow)
    text += fmt::format(shadow_toml, fmt::arg("ground_tag", tag),
                        fmt::arg("sun", needs_sun ? "\"sun\"" : own(own_sun->name)));
  text += fmt::format(passes_toml, fmt::arg("ground_tag", tag),
                      fmt::arg("shadows", casts_shadow ? "shadows = [\"sun.depth\"]\n" : ""),
                      fmt::arg("model_shadows", casts_shadow ? "shadows      = [\"sun.depth\"]\n" : ""));
  return text;
}

Diagnostics check_size(const Scene& scene, const std::string& name, Place place) {
  Diagnostics found;
  const Box box = bounds_of(scene);
  if (box.empty()) return found;
  const float across = (box.max - box.min).norm();
  if (across >= shortest && across <= longest) return found;
  const bool large = across > longest;
  found.warning(
      "odd-size", place, fmt::format("\"{}\" is {:.3g} m across, as a length of 1 is a metre", name, across),
      large ? "if it was made in millimetres or centimetres, give its [[object]] transform = [{ scale = 0.001 }] "
              "or 0.01"
            : "if it was made in kilometres or in another unit, give its [[object]] transform = [{ scale = "
              "1000 }], or what it takes");
  return found;
}

}  // namespace periscena
