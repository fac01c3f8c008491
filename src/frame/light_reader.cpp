#include "frame/sections.h"
#include "scene/scene_keys.h"

#include <periscena/base/error.h>
#include <periscena/image/color.h>
#include <periscena/image/files.h>

#include <algorithm>

namespace periscena {
namespace {

struct EnvironmentKeys {
  Reference panorama;
  std::vector<Reference> faces;
  std::optional<Vec3> zenith_nits, horizon_nits, ground_nits;
  float rotation_degrees = 0, intensity = 1;
};

const Keys<EnvironmentKeys>& environment_keys() {
  static const auto keys = [] {
    Keys<EnvironmentKeys> k;
    k.key("panorama", &EnvironmentKeys::panorama, {},
          "A Radiance HDR or OpenEXR file, twice as wide as high; its middle looks along -Z")
        .key("faces", &EnvironmentKeys::faces, {},
             "Six files instead, of equal squares: +x, -x, +y, -y, +z, -z, as cube maps have them")
        .key("zenith_nits", &EnvironmentKeys::zenith_nits, {.minimum = 0},
             "Instead of files, a cloudless sky: its colour straight above, linear")
        .key("horizon_nits", &EnvironmentKeys::horizon_nits, {.minimum = 0},
             "Of such a sky: its colour at the horizon; left out, zenith_nits")
        .key("ground_nits", &EnvironmentKeys::ground_nits, {.minimum = 0},
             "Of such a sky: what is below the horizon; left out, black")
        .key("rotation_degrees", &EnvironmentKeys::rotation_degrees, {.unit = "degrees"},
             "About +Y, counter-clockwise seen from above")
        .key("intensity", &EnvironmentKeys::intensity, {.unit = "nits", .minimum = 0}, "For a pixel of 1");
    return k;
  }();
  return keys;
}

/// Files of 8 bits hold sRGB; light is linear.
std::shared_ptr<const Image> to_light(const std::shared_ptr<const Image>& read) {
  const Image& image = *read;
  if (image.format() == Format::rgba32f) return read;
  if (image.is_outline())
    return std::make_shared<const Image>(Image::outline(image.width(), image.height(), Format::rgba32f));
  Image light(image.width(), image.height(), Format::rgba32f);
  for (int y = 0; y < image.height(); ++y) {
    for (int x = 0; x < image.width(); ++x) {
      std::array<double, 4> pixel = image.at(x, y);
      for (std::size_t k = 0; k < 3 && image.is_eight_bit(); ++k) pixel[k] = srgb_to_linear(pixel[k] / 255);
      if (image.channels() < 3) pixel = {pixel[0], pixel[0], pixel[0], 1};
      pixel[3] = 1;
      light.set(x, y, pixel);
    }
  }
  return std::make_shared<const Image>(std::move(light));
}

std::shared_ptr<const Image> gray_sky() {
  Image image(2, 1, Format::rgba32f);
  for (int x = 0; x < 2; ++x) image.set(x, 0, {1, 1, 1, 1});
  return std::make_shared<const Image>(std::move(image));
}

void read_environment(const ValueMember& section, const SceneSource& source, Scene& scene, Diagnostics& diagnostics) {
  const std::string what = fmt::format("environment \"{}\"", section.name);
  EnvironmentKeys given;
  environment_keys().read(section.value, what, given, diagnostics);
  report_unknown_keys(section.value, what, environment_keys().names(), diagnostics);
  Environment environment;
  environment.name = section.name;
  environment.rotation = radians(given.rotation_degrees);
  environment.intensity = given.intensity;
  std::vector<Reference> files = given.faces;
  if (!given.panorama.empty()) files.insert(files.begin(), given.panorama);
  const bool is_sky = section.value.find("zenith_nits") != nullptr;
  const int ways = !given.panorama.empty() + !given.faces.empty() + is_sky;
  if (ways != 1) {
    diagnostics.error("unclear-environment", section.place,
                      fmt::format("{} has {} of panorama, faces and zenith_nits", what, ways == 0 ? "none" : "several"),
                      "give panorama = \"dusk.hdr\", or faces = [six files], or the sky's colours");
    files.clear();
  } else if (given.zenith_nits) {
    const Vec3 zenith = *given.zenith_nits;
    environment.images.push_back(
        gradient_sky(zenith, given.horizon_nits.value_or(zenith), given.ground_nits.value_or(Vec3::zero())));
  }
  for (const Reference& file : files) {
    collect_mistakes(file.place, diagnostics, [&] {
      environment.images.push_back(
          to_light(source.pictures.read(path_beside(file, source.folder), PictureReader::Use::data)));
    });
  }
  const std::size_t wanted = std::max<std::size_t>(1, files.size());
  const bool all_read = ways == 1 && environment.images.size() == wanted;
  Diagnostics unsound;
  if (all_read) collect_mistakes(section.place, unsound, [&] { scene.add_environment(environment); });
  diagnostics.append(unsound);
  if (scene.find_environment(section.name)) return;
  // Passes that use it should not be told off as well.
  environment.images = {gray_sky()};
  scene.add_environment(environment);
}

struct VariantKeys {
  std::optional<std::vector<std::string>> tags;
  std::vector<std::string> without_tags;
  Value materials, objects;
};

const Keys<VariantKeys>& variant_keys() {
  static const auto keys = [] {
    Keys<VariantKeys> k;
    k.key("tags", &VariantKeys::tags, {},
          "Only objects that have one of these tags, or stand below one; left out, all; [], none")
        .key("without_tags", &VariantKeys::without_tags, {}, "But not those that have one of these, or stand below one")
        .key("materials", &VariantKeys::materials, {},
             "Other materials: { hull = \"hull at night\" } puts the second wherever the first is")
        .key("objects", &VariantKeys::objects, {},
             "Materials of single objects: { boat = \"hull at night\" }; they go before `materials`");
    return k;
  }();
  return keys;
}

/// A table of names to names of materials. @param find  looks up the name on the left; what it gives is told of as kind
template <class HandleType, class Find, class Names>
void read_choices(const Value& table, const std::string& what, const char* kind, const Scene& scene, Find find,
                  Names names, std::vector<std::pair<HandleType, MaterialHandle>>& into, Diagnostics& diagnostics) {
  if (table.empty()) return;
  if (!table.table()) {
    diagnostics.error("wrong-type", table.place,
                      fmt::format("\"{}s\" of {} wants a table, but this is {}", kind, what, table.describe()),
                      fmt::format("write {}s = {{ hull = \"hull at night\" }}", kind));
    return;
  }
  for (const ValueMember& member : *table.table()) {
    const Reference left(member.name, member.place);
    const std::string* text = member.value.text();
    if (!text) {
      diagnostics.error("wrong-type", member.value.place,
                        fmt::format("{} wants a material's name here, but this is {}", what, member.value.describe()),
                        "write it in quotes");
      continue;
    }
    const Reference right(*text, member.value.place);
    const HandleType from = find(left.name);
    const MaterialHandle to = scene.find_material(right.name);
    expect_found(left, from.valid(), what, kind, names, diagnostics);
    expect_found(
        right, to.valid(), what, "material", [&] { return names_of(scene.materials()); }, diagnostics);
    if (from.valid() && to.valid()) into.emplace_back(from, to);
  }
}

}  // namespace

void read_light(const ValueMember& section, Scene& scene, Diagnostics& diagnostics) {
  const std::string what = fmt::format("light \"{}\"", section.name);
  const LightHandle known = scene.light_handle(section.name);
  const AmbientLightHandle ambient = scene.ambient_light_handle(section.name);
  LightKeys given;
  if (known.valid()) given = LightKeys::of(scene.at(known));
  if (ambient.valid()) given = LightKeys::of(scene.at(ambient));
  const std::string kind = given.kind;
  Value table = section.value;
  // It need not be said again.
  if (!kind.empty() && table.table() && !table.find("kind"))
    table.table()->push_back({"kind", section.place, {kind, section.place}});
  light_keys().read(table, what, given, diagnostics);
  report_unknown_keys(section.value, what, light_keys().names(), diagnostics);
  if ((known.valid() || ambient.valid()) && (given.kind == "ambient") != ambient.valid()) {
    diagnostics.error("taken-name", section.place,
                      fmt::format("there is a light \"{}\" of another kind already", section.name),
                      "choose another name");
    return;
  }
  NodeHandle node = known.valid() ? scene.at(known).node : NodeHandle{};
  if (!given.object.empty()) {
    node = scene.find_node(given.object.name);
    expect_found(
        given.object, node.valid(), what, "object", [&] { return names_of(scene.nodes()); }, diagnostics);
  }
  collect_mistakes(section.place, diagnostics, [&] {
    if (given.kind == "ambient") {
      const AmbientLight light{section.name, given.sky_nits, given.ground_nits};
      if (ambient.valid())
        scene.change_light(ambient, light);
      else
        scene.add_light(light);
      return;
    }
    Light light = given.light();
    light.name = section.name;
    light.node = node;
    if (known.valid())
      scene.change_light(known, std::move(light));
    else
      scene.add_light(std::move(light));
  });
  // Passes that use it should not be told off as well.
  if (!scene.find_light(section.name) && !scene.find_ambient_light(section.name))
    scene.add_light(AmbientLight{.name = section.name});
}

void read_lights(const Value& root, Scene& scene, Diagnostics& diagnostics) {
  for (const ValueMember* section : named_tables(root, "light", diagnostics)) read_light(*section, scene, diagnostics);
}

void read_environments(const Value& root, const SceneSource& source, Scene& scene, Diagnostics& diagnostics) {
  for (const ValueMember* section : named_tables(root, "environment", diagnostics))
    read_environment(*section, source, scene, diagnostics);
}

void read_fog(const ValueMember& section, Scene& scene, Diagnostics& diagnostics) {
  const std::string what = fmt::format("fog \"{}\"", section.name);
  const FogHandle known = scene.fog_handle(section.name);
  Fog fog = known.valid() ? scene.at(known) : Fog{};
  fog.name = section.name;
  fog_keys().read(section.value, what, fog, diagnostics);
  report_unknown_keys(section.value, what, fog_keys().names(), diagnostics);
  collect_mistakes(section.place, diagnostics, [&] {
    if (known.valid())
      scene.change_fog(known, fog);
    else
      scene.add_fog(fog);
  });
  // Passes that use it should not be told off as well.
  if (!scene.find_fog(section.name)) scene.add_fog({.name = section.name});
}

void read_fogs(const Value& root, Scene& scene, Diagnostics& diagnostics) {
  for (const ValueMember* section : named_tables(root, "fog", diagnostics)) read_fog(*section, scene, diagnostics);
}

void turn_environment(const ValueMember& section, Scene& scene, Diagnostics& diagnostics) {
  const EnvironmentHandle known = scene.environment_handle(section.name);
  EnvironmentKeys given;
  environment_keys().read(section.value, fmt::format("environment \"{}\"", section.name), given, diagnostics);
  for (const ValueMember& key : *section.value.table()) {
    if (key.name == "rotation_degrees" || key.name == "intensity") continue;
    diagnostics.error("not-live", key.place, fmt::format("\"{}\" of an environment can't change with time", key.name),
                      "change rotation_degrees or intensity; for another sky, use a transition");
    return;
  }
  Environment environment = scene.at(known);
  if (section.value.find("rotation_degrees")) environment.rotation = radians(given.rotation_degrees);
  if (section.value.find("intensity")) environment.intensity = given.intensity;
  collect_mistakes(section.place, diagnostics, [&] { scene.change_environment(known, std::move(environment)); });
}

void read_variants(const Value& root, Scene& scene, Diagnostics& diagnostics) {
  for (const ValueMember* section : named_tables(root, "variant", diagnostics)) {
    const std::string what = fmt::format("variant \"{}\"", section->name);
    VariantKeys given;
    variant_keys().read(section->value, what, given, diagnostics);
    report_unknown_keys(section->value, what, variant_keys().names(), diagnostics);
    Variant variant;
    variant.name = section->name;
    variant.objects = {given.tags, given.without_tags};
    read_choices(
        given.materials, what, "material", scene, [&](const std::string& name) { return scene.find_material(name); },
        [&] { return names_of(scene.materials()); }, variant.materials, diagnostics);
    read_choices(
        given.objects, what, "object", scene, [&](const std::string& name) { return scene.find_node(name); },
        [&] { return names_of(scene.nodes()); }, variant.choices, diagnostics);
    collect_mistakes(section->place, diagnostics, [&] { scene.add_variant(variant); });
  }
}

std::vector<SectionInfo> light_sections() {
  return {
      {"[light.NAME]",
       "A light for passes to use. One that the scene file or a model has by that name is changed: what is not said "
       "stays.",
       light_keys().infos(),
       "[light.sun]\nkind            = \"directional\"\ndirection       = [-0.5, -0.3, -0.8]\ncolor           = [1, "
       "0.8, 0.6]\nilluminance_lux = 3\n"},
      {"[environment.NAME]", "Light from all around, far away: a sky.", environment_keys().infos(),
       "[environment.dusk]\npanorama  = \"dusk.hdr\"\nintensity = 1000\n"},
      {"[fog.NAME]",
       "Air between the eye and what it sees. One that the scene file has by that name is changed: what is not said "
       "stays.",
       fog_keys().infos(), "[fog.haze]\ncolor_nits  = [800, 700, 900]\ndensity     = 0.02\nhalf_height = 6\n"},
      {"[variant.NAME]", "The scene in another dress, for passes to draw.", variant_keys().infos(),
       "[variant.night]\nwithout_tags = [\"day\"]\nmaterials    = { hull = \"hull at night\" }\n"},
  };
}

}  // namespace periscena
