#include "frame/sections.h"
#include "scene/scene_keys.h"

#include <periscena/base/error.h>
#include <periscena/base/file.h>
#include <periscena/image/files.h>

#include <algorithm>
#include <map>

namespace periscena {
namespace {

struct TextureKeys {
  Reference file;
  std::string holds = "color", filter = "linear_levels", wrap = "repeat";
  std::optional<std::string> wrap_u, wrap_v;
  float anisotropy = 8;
  std::optional<Vec2> metres_per_tile;
};

const Keys<TextureKeys>& texture_keys() {
  static const auto keys = [] {
    Keys<TextureKeys> k;
    k.key("file", &TextureKeys::file, {.required = true},
          "A PNG, JPEG, Radiance HDR or OpenEXR file: a path from this file's folder")
        .key("holds", &TextureKeys::holds, {.choices = {"color", "data"}},
             "color: for looking at, decoded from sRGB; data: normals, roughness, …, taken as it is")
        .key("filter", &TextureKeys::filter, {.choices = choices_of(Filter())},
             "Between pixels, and between mip levels")
        .key("wrap", &TextureKeys::wrap, {.choices = choices_of(Wrap())}, "Beyond the edges")
        .key("wrap_u", &TextureKeys::wrap_u, {.choices = choices_of(Wrap())}, "Only to the left and right")
        .key("wrap_v", &TextureKeys::wrap_v, {.choices = choices_of(Wrap())}, "Only above and below")
        .key("anisotropy", &TextureKeys::anisotropy, {.minimum = 1, .maximum = 16},
             "Samples along slanted pixels; as many as the device has, if that is less")
        .key("metres_per_tile", &TextureKeys::metres_per_tile, {.unit = "metres", .minimum = 0, .above_minimum = true},
             "Width and height of the image on meshes whose texture coordinates are metres, as those of [mesh] are; "
             "left out, coordinates count whole images");
    return k;
  }();
  return keys;
}

template <class Enum>
Enum parse(const std::vector<std::string>& names, const std::string& name, Enum otherwise) {
  const auto found = std::find(names.begin(), names.end(), name);
  return found == names.end() ? otherwise : static_cast<Enum>(found - names.begin());
}

constexpr const char* map_sentences[] = {
    "Of base_color, with alpha",
    "Of roughness (green) and metallic (blue)",
    "Of roughness (red), in greys: scratches, fingerprints, water stains",
    "Which way the surface faces: 2 · rgb − 1 along the texture, up in it, and outward",
    "How open a place is to light from around (red)",
    "Of emission",
};

/// The maps, in the order of material_maps, then what belongs to them.
struct MapKeys {
  Value base_color_map, metallic_roughness_map, roughness_scale_map, normal_map, occlusion_map, emission_map;
};

constexpr Value MapKeys::*map_values[] = {&MapKeys::base_color_map,      &MapKeys::metallic_roughness_map,
                                          &MapKeys::roughness_scale_map, &MapKeys::normal_map,
                                          &MapKeys::occlusion_map,       &MapKeys::emission_map};

const Keys<MapKeys>& map_keys() {
  static const auto keys = [] {
    Keys<MapKeys> k;
    for (std::size_t i = 0; i < std::size(material_maps); ++i)
      k.key(material_maps[i].name, map_values[i], {},
            std::string("A texture's name, or a table as below. ") + map_sentences[i]);
    return k;
  }();
  return keys;
}

struct MapUseKeys {
  Reference texture;
  int uv_set = 0;
  Vec2 offset = Vec2::zero(), scale = Vec2::ones();
  float rotation_degrees = 0;
};

const Keys<MapUseKeys>& map_use_keys() {
  static const auto keys = [] {
    Keys<MapUseKeys> k;
    k.key("texture", &MapUseKeys::texture, {.required = true}, "The texture's name")
        .key("uv_set", &MapUseKeys::uv_set, {.minimum = 0, .maximum = 1}, "Which texture coordinates of the mesh")
        .key("scale", &MapUseKeys::scale, {}, "Of the coordinates, first")
        .key("rotation_degrees", &MapUseKeys::rotation_degrees, {.unit = "degrees"},
             "Of the coordinates, second, counter-clockwise in the image")
        .key("offset", &MapUseKeys::offset, {}, "Of the coordinates, last, in images");
    return k;
  }();
  return keys;
}

void read_map(const Value& value, const std::string& material, const MapInfo& map, const Scene& scene, TextureUse& into,
              Diagnostics& diagnostics) {
  if (value.empty()) return;
  MapUseKeys given;
  const std::string which = fmt::format("{} of material \"{}\"", map.name, material);
  if (const std::string* name = value.text()) {
    given.texture = Reference(*name, value.place);
  } else if (value.table()) {
    map_use_keys().read(value, which, given, diagnostics);
    report_unknown_keys(value, which, map_use_keys().names(), diagnostics);
  } else {
    diagnostics.error("wrong-type", value.place,
                      fmt::format("{} wants a texture's name, but this is {}", which, value.describe()),
                      fmt::format("write {} = \"brick\", or {{ texture = \"brick\", scale = [2, 2] }}", map.name));
    return;
  }
  into.texture = scene.find_texture(given.texture.name);
  expect_found(
      given.texture, into.texture.valid(), which, "texture", [&] { return names_of(scene.textures()); }, diagnostics);
  if (into.texture.valid()) {
    const bool fits = collect_mistakes(given.texture.place, diagnostics, [&] {
      expect_holds(map, scene.textures()[into.texture.index], material, given.texture.place);
    });
    if (!fits) into.texture = {};
  }
  into.uv_set = given.uv_set;
  into.offset = given.offset;
  into.scale = given.scale;
  into.rotation = radians(given.rotation_degrees);
}

void read_texture(const ValueMember& section, const SceneSource& source, Scene& scene, Diagnostics& diagnostics) {
  const std::string what = fmt::format("texture \"{}\"", section.name);
  TextureKeys given;
  texture_keys().read(section.value, what, given, diagnostics);
  report_unknown_keys(section.value, what, texture_keys().names(), diagnostics);
  Texture texture;
  texture.name = section.name;
  texture.holds = given.holds == "data" ? TextureHolds::data : TextureHolds::color;
  texture.sampling.filter = parse(choices_of(Filter()), given.filter, Filter::linear_levels);
  texture.sampling.wrap_u = parse(choices_of(Wrap()), given.wrap_u.value_or(given.wrap), Wrap::repeat);
  texture.sampling.wrap_v = parse(choices_of(Wrap()), given.wrap_v.value_or(given.wrap), Wrap::repeat);
  texture.sampling.anisotropy = given.anisotropy;
  texture.metres_per_tile = given.metres_per_tile;
  if (!given.file.empty()) {
    collect_mistakes(given.file.place, diagnostics,
                     [&] { texture.image = source.pictures.read(path_beside(given.file, source.folder)); });
  }
  // Materials that use it should not be told off as well, whatever they take it for.
  if (!texture.image) texture.image = std::make_shared<const Image>(1, 1, Format::rgba32f);
  Diagnostics unsound;
  collect_mistakes(section.place, unsound, [&] { scene.add_texture(texture); });
  if (unsound.has_errors() && !scene.find_texture(texture.name).valid()) {
    texture = {section.name, std::make_shared<const Image>(1, 1, Format::rgba32f)};
    scene.add_texture(texture);
  }
  diagnostics.append(unsound);
}

}  // namespace

void read_material(const ValueMember& section, const std::filesystem::path& folder, Scene& scene,
                   Diagnostics& diagnostics) {
  const std::string what = fmt::format("material \"{}\"", section.name);
  const MaterialHandle known = scene.find_material(section.name);
  MaterialKeys given;
  if (known.valid()) static_cast<Material&>(given) = scene.materials()[known.index];
  MapKeys maps;
  material_keys().read(section.value, what, given, diagnostics);
  map_keys().read(section.value, what, maps, diagnostics);
  std::vector<std::string> names = material_keys().names();
  for (const MapInfo& map : material_maps) names.emplace_back(map.name);
  report_unknown_keys(section.value, what, names, diagnostics);
  Material material = given;
  material.name = section.name;
  for (std::size_t i = 0; i < std::size(material_maps); ++i)
    read_map(maps.*map_values[i], section.name, material_maps[i], scene, material.*material_maps[i].use, diagnostics);
  if (!given.surface_file.empty()) {
    const std::filesystem::path path = path_beside(given.surface_file, folder);
    const bool readable = collect_mistakes(given.surface_file.place, diagnostics, [&] { read_text(path); });
    if (readable) material.surface = std::filesystem::absolute(path).lexically_normal().string();
  }
  collect_mistakes(section.place, diagnostics, [&] {
    if (known.valid()) {
      scene.change_material(known, material);
    } else {
      scene.add_material(material);
    }
  });
}

void read_textures(const Value& root, const SceneSource& source, Scene& scene, Diagnostics& diagnostics) {
  for (const ValueMember* section : named_tables(root, "texture", diagnostics))
    read_texture(*section, source, scene, diagnostics);
}

void read_materials(const Value& root, const std::filesystem::path& folder, Scene& scene, Diagnostics& diagnostics) {
  for (const ValueMember* section : named_tables(root, "material", diagnostics))
    read_material(*section, folder, scene, diagnostics);
}

std::vector<SectionInfo> material_sections() {
  std::vector<KeyInfo> keys = material_keys().infos();
  keys.insert(keys.end(), map_keys().infos().begin(), map_keys().infos().end());
  return {
      {"[texture.NAME]", "An image for materials to put on surfaces.", texture_keys().infos(),
       "[texture.brick]\nfile            = \"brick.png\"\nmetres_per_tile = [1.2, 0.9]\n"},
      {"[material.NAME]",
       "How a surface answers light. A material that the scene file has by that name is changed: what is not said "
       "stays.",
       keys, "[material.oak]\nbase_color = [0.25, 0.16, 0.09]\nroughness  = 0.7\n"},
      {"…_map = { … }", "A texture on a material, where its name alone does not say enough.", map_use_keys().infos(),
       ""},
  };
}

}  // namespace periscena
