#include "model/gltf/import.h"
#include "scene/scene_keys.h"

#include <periscena/base/error.h>
#include <periscena/image/files.h>

#include <fmt/format.h>

#include <algorithm>

namespace periscena::gltf {
namespace {

constexpr int nearest = 9728, linear = 9729, nearest_levels = 9984, linear_nearest_level = 9985,
              nearest_linear_levels = 9986, linear_levels = 9987;
constexpr int clamp = 33071, mirror = 33648, repeat = 10497;

Wrap wrap_of(const JsonReader& sampler, const char* key) {
  const auto code = sampler.whole(key, repeat);
  if (code == clamp) return Wrap::clamp;
  if (code == mirror) return Wrap::mirror;
  if (code != repeat) sampler.at(key).refuse(fmt::format("is {}, which is no way to wrap", code));
  return Wrap::repeat;
}

Vec3 emission_of(const JsonReader& material) {
  const Vec3 factor = material.vec3("emissiveFactor", Vec3::zero());
  const auto strength = material.extension("KHR_materials_emissive_strength");
  return factor * (strength ? strength->number("emissiveStrength", 1) : 1.0f);
}

}  // namespace

Sampling Importer::read_sampler(const JsonReader& texture) {
  Sampling sampling{.anisotropy = 8};
  const auto index = texture.index("sampler", document_.count("samplers"), "samplers");
  if (!index) return sampling;
  const JsonReader sampler = document_.item("samplers", *index);
  sampling.wrap_u = wrap_of(sampler, "wrapS");
  sampling.wrap_v = wrap_of(sampler, "wrapT");
  const auto smaller = sampler.whole("minFilter", linear_levels), larger = sampler.whole("magFilter", linear);
  switch (smaller) {
    case nearest: sampling.filter = Filter::nearest; break;
    case linear: sampling.filter = Filter::linear; break;
    case nearest_levels: sampling.filter = Filter::nearest_levels; break;
    case linear_nearest_level:
    case nearest_linear_levels:
    case linear_levels: sampling.filter = larger == nearest ? Filter::nearest_levels : Filter::linear_levels; break;
    default: sampler.refuse(fmt::format("has the minFilter {}, which is none", smaller));
  }
  if (larger != nearest && larger != linear) sampler.refuse(fmt::format("has the magFilter {}, which is none", larger));
  if (sampling.filter != Filter::linear_levels) sampling.anisotropy = 1;
  if (const auto own = sampler.own()) sampling.anisotropy = own->number("anisotropy", sampling.anisotropy);
  return sampling;
}

Part Importer::image_part(const JsonReader& image) {
  if (const auto uri = image.find("uri")) return document_.resource(*uri);
  const auto view = image.index("bufferView", document_.count("bufferViews"), "bufferViews");
  if (!view) image.refuse("names neither a file nor a buffer view");
  return document_.view(*view);
}

/// Images that the materials' textures name, in no order. What is wrong with a name is said where it is read.
std::vector<std::size_t> Importer::images_of_materials() const {
  std::set<std::size_t> images;
  const Json& root = document_.root().value();
  const auto materials = root.find("materials"), textures = root.find("textures");
  if (materials == root.end() || textures == root.end() || !textures->is_array()) return {};
  std::vector<const Json*> left{&*materials};
  while (!left.empty()) {
    const Json& json = *left.back();
    left.pop_back();
    if (!json.is_structured()) continue;
    for (const Json& member : json) left.push_back(&member);
    const auto index = json.is_object() ? json.find("index") : json.end();
    if (index == json.end() || !index->is_number_unsigned() || index->get<std::size_t>() >= textures->size()) continue;
    const Json& texture = (*textures)[index->get<std::size_t>()];
    const auto source = texture.is_object() ? texture.find("source") : texture.end();
    if (source == texture.end() || !source->is_number_unsigned()) continue;
    if (source->get<std::size_t>() < document_.count("images")) images.insert(source->get<std::size_t>());
  }
  return {images.begin(), images.end()};
}

/// Decodes what the materials need, several pictures at a time. Those that can't be decoded are left to image().
void Importer::decode_ahead() {
  if (pictures_.pixels() != Pixels::decoded) return;
  const std::vector<std::size_t> images = images_of_materials();
  constexpr std::size_t at_a_time = 16;  // their files are in memory until all of them are decoded
  for (std::size_t first = 0; first < images.size(); first += at_a_time) {
    std::vector<std::shared_ptr<const Image>*> into;
    std::vector<Bytes> bytes;
    std::vector<PictureReader::Encoded> encoded;
    for (std::size_t i = first; i < std::min(first + at_a_time, images.size()); ++i) {
      const JsonReader json = document_.item("images", images[i]);
      try {
        const auto uri = json.find("uri");
        std::shared_ptr<const Image>& place = uri ? images_by_uri_[uri->text()] : images_[images[i]];
        if (place || std::find(into.begin(), into.end(), &place) != into.end()) continue;
        bytes.push_back(document_.read(image_part(json), json));
        into.push_back(&place);
        encoded.push_back({bytes.back().text(), picture_name(json)});
      } catch (const Error&) {
        continue;
      }
    }
    const auto decoded = pictures_.decode_all(encoded);
    for (std::size_t i = 0; i < into.size(); ++i) *into[i] = decoded[i];
  }
}

std::shared_ptr<const Image> Importer::image(std::size_t index) {
  std::shared_ptr<const Image>& known = images_[index];
  if (known) return known;
  const JsonReader json = document_.item("images", index);
  if (const auto uri = json.find("uri")) {
    std::shared_ptr<const Image>& same = images_by_uri_[uri->text()];
    if (!same) same = decode(image_part(json), json);
    return known = same;
  }
  return known = decode(image_part(json), json);
}

/// Of floats, which glTF has no place for. @param view  the number of a buffer view
std::shared_ptr<const Image> Importer::own_image(const JsonReader& view) {
  const std::size_t index = view.index(document_.count("bufferViews"), "bufferViews");
  std::shared_ptr<const Image>& known = own_images_[index];
  if (!known) known = decode(document_.view(index), view);
  return known;
}

std::shared_ptr<const Image> Importer::decode(const Part& part, const JsonReader& from) {
  const Bytes bytes = document_.read(part, from);
  return pictures_.decode(bytes.text(), picture_name(from));
}

/// For messages.
std::string Importer::picture_name(const JsonReader& json) const {
  return fmt::format("{} in {}", json.path(), document_.name());
}

TextureHandle Importer::texture(std::size_t index, TextureHolds holds) {
  TextureHandle& known = textures_[{index, holds}];
  if (known.valid()) return known;
  const JsonReader json = document_.item("textures", index);
  const auto source = json.index("source", document_.count("images"), "images");
  const auto own = json.own();
  const auto own_view = own ? own->find("image") : std::nullopt;
  if (!source && !own_view) json.refuse("has no image that can be read", "use PNG or JPEG images");
  std::string name = json.text("name", "");
  if (name.empty() && source) name = document_.item("images", *source).text("name", "");
  if (name.empty()) name = fmt::format("texture {}", index);
  Texture texture;
  texture.name = texture_names_.next(name, [&](const std::string& n) { return result_.scene.find_texture(n).valid(); });
  texture.image = source ? image(*source) : own_image(*own_view);
  texture.holds = holds;
  texture.sampling = read_sampler(json);
  if (own && own->has("metres_per_tile")) texture.metres_per_tile = own->vec2("metres_per_tile", Vec2::ones());
  return known = result_.scene.add_texture(std::move(texture));
}

TextureUse Importer::read_use(const JsonReader& info, TextureHolds holds) {
  TextureUse use;
  use.texture = texture(info.at("index").index(document_.count("textures"), "textures"), holds);
  std::uint64_t set = info.whole("texCoord", 0);
  if (const auto transform = info.extension("KHR_texture_transform")) {
    set = transform->whole("texCoord", set);
    use.offset = transform->vec2("offset", Vec2::zero());
    use.scale = transform->vec2("scale", Vec2::ones());
    use.rotation = transform->number("rotation", 0);
  }
  if (set > 1) {
    warn("unsupported-uv-set", fmt::format("{} uses texture coordinates {}; sets 0 and 1 are read", info.path(), set),
         "it is laid out by set 0");
    set = 0;
  }
  use.uv_set = static_cast<int>(set);
  return use;
}

Material Importer::read_material(const JsonReader& json) {
  Material material;
  material.base_color = Vec3::ones();
  material.metallic = 1;
  if (const auto pbr = json.find("pbrMetallicRoughness")) {
    if (const auto factor = pbr->find("baseColorFactor")) {
      const std::vector<float> color = factor->numbers(4);
      material.base_color = {color[0], color[1], color[2]};
      material.alpha = color[3];
    }
    material.metallic = pbr->number("metallicFactor", 1);
    material.roughness = pbr->number("roughnessFactor", 1);
    if (const auto map = pbr->find("baseColorTexture")) material.base_color_map = read_use(*map, TextureHolds::color);
    if (const auto map = pbr->find("metallicRoughnessTexture"))
      material.metallic_roughness_map = read_use(*map, TextureHolds::data);
  }
  if (const auto map = json.find("normalTexture")) {
    material.normal_map = read_use(*map, TextureHolds::data);
    material.normal_scale = map->number("scale", 1);
  }
  if (const auto map = json.find("occlusionTexture")) {
    material.occlusion_map = read_use(*map, TextureHolds::data);
    material.occlusion_strength = map->number("strength", 1);
  }
  if (const auto map = json.find("emissiveTexture")) material.emission_map = read_use(*map, TextureHolds::color);
  material.emission = emission_of(json);
  const std::string mode = json.text("alphaMode", "OPAQUE");
  if (mode != "OPAQUE" && mode != "MASK" && mode != "BLEND")
    json.at("alphaMode").refuse(fmt::format("is \"{}\", which is none", mode), "OPAQUE, MASK or BLEND");
  material.alpha_mode = mode == "MASK"    ? Material::AlphaMode::mask
                        : mode == "BLEND" ? Material::AlphaMode::blend
                                          : Material::AlphaMode::opaque;
  material.alpha_cutoff = json.number("alphaCutoff", 0.5f);
  material.double_sided = json.boolean("doubleSided", false);
  if (json.extension("KHR_materials_unlit")) material.shading = Material::Shading::unlit;
  if (const auto own = json.own()) read_own_material(*own, material);
  return material;
}

void Importer::read_own_material(const JsonReader& own, Material& into) {
  MaterialKeys keys = MaterialKeys::of(into);
  own.read(material_keys(), keys);
  into = keys;
  into.surface = keys.surface_file.name;
  if (const auto map = own.find("roughness_scale_map")) into.roughness_scale_map = read_use(*map, TextureHolds::data);
  // It is read when a pass draws; a model must not have it read what it likes.
  if (!into.surface.empty()) document_.file_beside(own.at("surface"), into.surface);
}

void Importer::add_materials() {
  decode_ahead();
  // Files of ours say what textures hold, and keep their order.
  for (std::size_t i = 0; i < document_.count("textures"); ++i) {
    const auto own = document_.item("textures", i).own();
    if (own && own->has("holds"))
      texture(i, own->text("holds", "") == "data" ? TextureHolds::data : TextureHolds::color);
  }
  for (std::size_t i = 0; i < document_.count("materials"); ++i) {
    const JsonReader json = document_.item("materials", i);
    Material material = read_material(json);
    std::string name = json.text("name", "");
    if (name.empty()) name = fmt::format("material {}", i);
    material.name =
        material_names_.next(name, [&](const std::string& n) { return result_.scene.find_material(n).valid(); });
    materials_.push_back(result_.scene.add_material(std::move(material)));
  }
}

MaterialHandle Importer::material_of(const Shape& shape) {
  if (shape.material.valid()) return shape.material;
  // glTF 2.0, 3.9.6
  Scene& scene = result_.scene;
  constexpr const char* name = "default";
  const MaterialHandle known = scene.find_material(name);
  if (known.valid()) return known;
  return scene.add_material({.name = name, .base_color = Vec3::ones(), .metallic = 1});
}

}  // namespace periscena::gltf
