#include "model/gltf/export_json.h"
#include "scene/scene_keys.h"

#include <periscena/base/error.h>
#include <periscena/base/file.h>
#include <periscena/image/files.h>
#include <periscena/model/gltf.h>

#include <fmt/format.h>

#include <algorithm>
#include <map>
#include <set>

namespace periscena {
namespace {

using Json = gltf::OrderedJson;
using gltf::list;
using gltf::put;

constexpr int float_number = 5126, whole_number = 5125;
constexpr int vertex_buffer = 34962, index_buffer = 34963;

class Exporter {
 public:
  explicit Exporter(const Scene& scene) : packed_(scene.packed()), scene_(packed_) {}

  std::string run() {
    json_["asset"] = {{"version", "2.0"}, {"generator", "Periscena"}};
    json_["scene"] = 0;
    json_["scenes"] = Json::array({{{"nodes", Json::array()}}});
    add_textures();
    for (const Material& material : scene_.materials()) add("materials", material_json(material));
    add_variant_names();
    add_mesh_json();
    for (std::size_t i = 0; i < scene_.nodes().size(); ++i) add_node(i);
    for (const Light& light : scene_.lights()) add_light(light);
    for (const View& view : scene_.views()) add_view(view);
    add_own_scene();
    return to_glb();
  }

 private:
  std::size_t add(const char* list, Json item) {
    json_[list].push_back(std::move(item));
    return json_[list].size() - 1;
  }

  void use_extension(const char* name) { extensions_.insert(name); }

  std::size_t add_view_of(std::span<const std::byte> bytes, int target = 0) {
    binary_.resize((binary_.size() + 3) / 4 * 4);
    Json view{{"buffer", 0}, {"byteOffset", binary_.size()}, {"byteLength", bytes.size()}};
    if (target) view["target"] = target;
    binary_.append(reinterpret_cast<const char*>(bytes.data()), bytes.size());
    return add("bufferViews", std::move(view));
  }

  /// Streams that several meshes share are written once.
  template <class T>
  std::size_t add_accessor(std::span<const T> values, const char* type, int target, int component = float_number) {
    const auto known = accessors_.find(std::pair<const void*, std::size_t>(values.data(), values.size_bytes()));
    if (known != accessors_.end()) return known->second;
    const std::size_t index = add("accessors", {{"bufferView", add_view_of(std::as_bytes(values), target)},
                                                {"componentType", component},
                                                {"count", values.size()},
                                                {"type", type}});
    accessors_[{values.data(), values.size_bytes()}] = index;
    return index;
  }

  // Textures and materials. glTF has no images of floats: those lie in views of our own, as OpenEXR.

  std::size_t image_view(const Image* image) {
    const auto known = image_views_.find(image);
    if (known != image_views_.end()) return known->second;
    const std::string file = image->is_eight_bit() ? encode_png(*image) : encode_exr(*image);
    return image_views_[image] = add_view_of(std::as_bytes(std::span(file)));
  }

  void add_textures() {
    std::map<const Image*, std::size_t> images;
    for (const Texture& texture : scene_.textures()) {
      Json json{{"name", texture.name}};
      if (texture.image->is_eight_bit()) {
        auto found = images.find(texture.image.get());
        if (found == images.end()) {
          const std::size_t view = image_view(texture.image.get());
          found = images.emplace(texture.image.get(), add("images", {{"bufferView", view}, {"mimeType", "image/png"}}))
                      .first;
        }
        json["source"] = found->second;
      } else {
        json["extras"]["periscena"]["image"] = image_view(texture.image.get());
      }
      json["sampler"] = sampler(texture.sampling);
      if (texture.metres_per_tile) json["extras"]["periscena"]["metres_per_tile"] = list(*texture.metres_per_tile);
      json["extras"]["periscena"]["holds"] = texture.holds == TextureHolds::data ? "data" : "color";
      add("textures", std::move(json));
    }
  }

  std::size_t sampler(const Sampling& sampling) {
    const auto known = std::find(samplings_.begin(), samplings_.end(), sampling);
    if (known != samplings_.end()) return static_cast<std::size_t>(known - samplings_.begin());
    samplings_.push_back(sampling);
    return add("samplers", gltf::sampler_json(sampling));
  }

  Json use_json(const TextureUse& use) {
    Json json{{"index", use.texture.index}};
    if (use.uv_set) json["texCoord"] = use.uv_set;
    Json transform = Json::object();
    put(transform, "offset", use.offset, Vec2(0, 0));
    put(transform, "rotation", use.rotation, 0.0f);
    put(transform, "scale", use.scale, Vec2(1, 1));
    if (!transform.empty()) {
      use_extension("KHR_texture_transform");
      json["extensions"]["KHR_texture_transform"] = transform;
    }
    return json;
  }

  Json material_json(const Material& material) {
    Json json{{"name", material.name}};
    Json& pbr = json["pbrMetallicRoughness"] = Json::object();
    pbr["baseColorFactor"] = {material.base_color.x(), material.base_color.y(), material.base_color.z(),
                              material.alpha};
    pbr["metallicFactor"] = material.metallic;
    pbr["roughnessFactor"] = material.roughness;
    if (material.base_color_map.valid()) pbr["baseColorTexture"] = use_json(material.base_color_map);
    if (material.metallic_roughness_map.valid())
      pbr["metallicRoughnessTexture"] = use_json(material.metallic_roughness_map);
    if (material.normal_map.valid()) {
      json["normalTexture"] = use_json(material.normal_map);
      json["normalTexture"]["scale"] = material.normal_scale;
    }
    if (material.occlusion_map.valid()) {
      json["occlusionTexture"] = use_json(material.occlusion_map);
      json["occlusionTexture"]["strength"] = material.occlusion_strength;
    }
    if (material.emission_map.valid()) json["emissiveTexture"] = use_json(material.emission_map);
    put_emission(material, json);
    if (material.alpha_mode != Material::AlphaMode::opaque)
      json["alphaMode"] = material.alpha_mode == Material::AlphaMode::mask ? "MASK" : "BLEND";
    if (material.alpha_mode == Material::AlphaMode::mask) json["alphaCutoff"] = material.alpha_cutoff;
    if (material.double_sided) json["doubleSided"] = true;
    if (material.shading == Material::Shading::unlit) {
      use_extension("KHR_materials_unlit");
      json["extensions"]["KHR_materials_unlit"] = Json::object();
    }
    put_own(material, json);
    return json;
  }

  void put_emission(const Material& material, Json& json) {
    if (!(material.emission.largest() > 0)) return;
    const float strength = gltf::emission_strength(material);
    json["emissiveFactor"] = list(Vec3(material.emission / strength));
    if (strength == 1) return;
    use_extension("KHR_materials_emissive_strength");
    json["extensions"]["KHR_materials_emissive_strength"]["emissiveStrength"] = strength;
  }

  void put_own(const Material& material, Json& json) {
    Json own = gltf::own_material_json(material);
    if (material.roughness_scale_map.valid()) own["roughness_scale_map"] = use_json(material.roughness_scale_map);
    if (std::filesystem::path(material.surface).is_absolute()) {
      throw Mistake("path-outside", {},
                    fmt::format("material \"{}\" names \"{}\": a model only names files in its folder", material.name,
                                material.surface),
                    "copy the GLSL beside the model, and give the material a path from there");
    }
    if (!own.empty()) json["extras"]["periscena"] = own;
  }

  // Meshes: one for each pair of mesh and material that nodes show; those that none shows come without a material.

  void add_variant_names() {
    if (scene_.variants().empty()) return;
    use_extension("KHR_materials_variants");
    Json names = Json::array();
    for (const Variant& variant : scene_.variants()) {
      Json json{{"name", variant.name}};
      Json own = Json::object();
      if (variant.objects.tags) own["tags"] = *variant.objects.tags;
      if (!variant.objects.without.empty()) own["without_tags"] = variant.objects.without;
      for (const auto& [from, to] : variant.materials) own["materials"].push_back({from.index, to.index});
      for (const auto& [node, material] : variant.choices) own["choices"].push_back({node.index, material.index});
      if (!own.empty()) json["extras"]["periscena"] = own;
      names.push_back(std::move(json));
    }
    json_["extensions"]["KHR_materials_variants"]["variants"] = std::move(names);
  }

  Json mesh_attributes(const Mesh& mesh) {
    Json attributes{{"POSITION", add_positions(mesh)}};
    if (!mesh.normals.empty()) attributes["NORMAL"] = add_accessor(mesh.normals.values(), "VEC3", vertex_buffer);
    if (!mesh.tangents.empty()) attributes["TANGENT"] = add_accessor(mesh.tangents.values(), "VEC4", vertex_buffer);
    if (!mesh.uv.empty()) attributes["TEXCOORD_0"] = add_accessor(mesh.uv.values(), "VEC2", vertex_buffer);
    if (!mesh.second_uv.empty())
      attributes["TEXCOORD_1"] = add_accessor(mesh.second_uv.values(), "VEC2", vertex_buffer);
    if (!mesh.colors.empty()) attributes["COLOR_0"] = add_accessor(mesh.colors.values(), "VEC4", vertex_buffer);
    return attributes;
  }

  std::size_t add_positions(const Mesh& mesh) {
    const std::size_t index = add_accessor(mesh.positions.values(), "VEC3", vertex_buffer);
    const Box box = mesh.bounds();
    json_["accessors"][index]["min"] = list(box.min);
    json_["accessors"][index]["max"] = list(box.max);
    return index;
  }

  void add_mesh_json() {
    std::vector<bool> shown(scene_.meshes().size());
    // The materials that a node has in each of the variants.
    std::vector<std::vector<MaterialHandle>> dresses;
    for (const Variant& variant : scene_.variants()) dresses.push_back(scene_.materials_of_nodes(&variant));
    std::map<std::vector<std::uint32_t>, std::size_t> known;
    // In the order of meshes, so that they are read back in it.
    std::vector<std::vector<std::size_t>> nodes_of_mesh(scene_.meshes().size());
    for (std::size_t i = 0; i < scene_.nodes().size(); ++i) {
      if (scene_.nodes()[i].mesh.valid()) nodes_of_mesh[scene_.nodes()[i].mesh.index].push_back(i);
    }
    mesh_of_node_.resize(scene_.nodes().size());
    for (std::uint32_t mesh = 0; mesh < scene_.meshes().size(); ++mesh) {
      if (nodes_of_mesh[mesh].empty()) add_mesh(mesh, {}, {});
      for (const std::size_t node : nodes_of_mesh[mesh]) {
        std::vector<std::uint32_t> key{mesh, scene_.nodes()[node].material.index};
        for (const auto& dress : dresses) key.push_back(dress[node].index);
        const auto found = known.find(key);
        if (found != known.end()) {
          mesh_of_node_[node] = found->second;
          continue;
        }
        std::vector<MaterialHandle> variants;
        for (const auto& dress : dresses) variants.push_back(dress[node]);
        mesh_of_node_[node] = known[key] = add_mesh(mesh, scene_.nodes()[node].material, variants);
      }
    }
  }

  std::size_t add_mesh(std::uint32_t index, MaterialHandle material, const std::vector<MaterialHandle>& variants) {
    const Mesh& mesh = scene_.meshes()[index];
    Json primitive{{"attributes", mesh_attributes(mesh)},
                   {"indices", add_accessor(mesh.indices.values(), "SCALAR", index_buffer, whole_number)},
                   {"mode", mesh.primitive == Primitive::points  ? 0
                            : mesh.primitive == Primitive::lines ? 1
                                                                 : 4}};
    // Readers take primitives of the same accessors for one mesh.
    const std::uint32_t first = mesh_of_data_.emplace(primitive.dump(), index).first->second;
    if (material.valid()) primitive["material"] = material.index;
    Json mappings = Json::array();
    for (std::size_t i = 0; i < variants.size(); ++i) {
      if (variants[i] != material) mappings.push_back({{"material", variants[i].index}, {"variants", {i}}});
    }
    if (!mappings.empty()) primitive["extensions"]["KHR_materials_variants"]["mappings"] = mappings;
    Json json{{"name", scene_.mesh_names()[index]}, {"primitives", Json::array({primitive})}};
    if (first != index) json["extras"]["periscena"]["copy"] = index;
    return add("meshes", std::move(json));
  }

  // Nodes, and what hangs on them.

  /// Adds a node of the file. @param parent  none: at the root
  std::size_t add_below(NodeHandle parent, Json node) {
    const std::size_t added = add("nodes", std::move(node));
    (parent.valid() ? json_["nodes"][parent.index]["children"] : json_["scenes"][0]["nodes"]).push_back(added);
    return added;
  }

  void add_node(std::size_t index) {
    const Node& node = scene_.nodes()[index];
    Json json = Json::object();
    if (!node.name.empty()) json["name"] = node.name;
    if (node.mesh.valid()) json["mesh"] = mesh_of_node_[index];
    if (node.keys) {
      put(json, "scale", node.keys->scale, Vec3(1, 1, 1));
      if (node.keys->rotation != Quat::identity()) json["rotation"] = list(node.keys->rotation);
      put(json, "translation", node.keys->translation, Vec3(0, 0, 0));
    } else if (node.placement.matrix() != Mat4::identity()) {
      json["matrix"] = list(node.placement.matrix());
    }
    Json own = Json::object();
    if (!node.tags.empty()) own["tags"] = node.tags;
    if (node.motion) own["motion"] = gltf::table_json(motion_keys().write(MotionKeys::of(*node.motion)));
    if (node.keys && node.keys->repeat_seconds != 0) own["repeat_seconds"] = node.keys->repeat_seconds;
    if (!own.empty()) json["extras"]["periscena"] = own;
    const std::size_t added = add_below(node.parent, std::move(json));
    if (node.keys) add_animation(*node.keys, added);
  }

  template <class Value>
  void add_track(Json& animation, const Track<Value>& track, const char* path, std::size_t node) {
    if (track.empty()) return;
    const char* way = track.interpolation == Interpolation::step     ? "STEP"
                      : track.interpolation == Interpolation::linear ? "LINEAR"
                                                                     : "CUBICSPLINE";
    std::vector<float> numbers;
    for (const Value& value : track.values) {
      const auto part = list(value);
      for (const Json& number : part) numbers.push_back(number.template get<float>());
    }
    const std::size_t components = numbers.size() / track.values.size();
    const std::size_t input = add("accessors", {{"bufferView", add_view_of(std::as_bytes(std::span(track.times)))},
                                                {"componentType", float_number},
                                                {"count", track.times.size()},
                                                {"type", "SCALAR"},
                                                {"min", {track.times.front()}},
                                                {"max", {track.times.back()}}});
    const std::size_t output = add("accessors", {{"bufferView", add_view_of(std::as_bytes(std::span(numbers)))},
                                                 {"componentType", float_number},
                                                 {"count", track.values.size()},
                                                 {"type", components == 4 ? "VEC4" : "VEC3"}});
    animation["samplers"].push_back({{"input", input}, {"output", output}, {"interpolation", way}});
    animation["channels"].push_back(
        {{"sampler", animation["samplers"].size() - 1}, {"target", {{"node", node}, {"path", path}}}});
  }

  void add_animation(const KeyedPlacement& keys, std::size_t node) {
    Json animation{{"channels", Json::array()}, {"samplers", Json::array()}};
    add_track(animation, keys.translation_track, "translation", node);
    add_track(animation, keys.rotation_track, "rotation", node);
    add_track(animation, keys.scale_track, "scale", node);
    if (!animation["channels"].empty()) add("animations", std::move(animation));
  }

  void add_light(const Light& light) {
    use_extension("KHR_lights_punctual");
    Json& lights = json_["extensions"]["KHR_lights_punctual"]["lights"];
    lights.push_back(gltf::light_json(light));
    // A node for it alone, turned and placed so that other readers see it right.
    Json node = gltf::light_node_json(light);
    node["extensions"]["KHR_lights_punctual"]["light"] = lights.size() - 1;
    node["extras"]["periscena"]["only_light"] = true;
    add_below(light.node, std::move(node));
  }

  void add_view(const View& view) {
    Json node{{"name", view.name}, {"camera", add("cameras", gltf::camera_json(view))}};
    const Mat4 placed = view.camera.view().inverse().matrix();
    node["matrix"] = list(placed);
    node["extras"]["periscena"]["view"] = gltf::own_view_json(view.camera);
    add_below(view.node, std::move(node));
  }

  void add_own_scene() {
    Json own = Json::object();
    for (const AmbientLight& light : scene_.ambient_lights())
      own["ambient_lights"].push_back(gltf::named(light.name, light_keys().write(LightKeys::of(light))));
    for (const Environment& environment : scene_.environments()) {
      Json json{{"name", environment.name}, {"images", Json::array()}};
      for (const auto& image : environment.images) json["images"].push_back(image_view(image.get()));
      put(json, "rotation", environment.rotation, 0.0f);
      put(json, "intensity", environment.intensity, 1.0f);
      own["environments"].push_back(std::move(json));
    }
    for (const Fog& fog : scene_.fogs()) own["fogs"].push_back(gltf::named(fog.name, fog_keys().write(fog)));
    if (!own.empty()) json_["extras"]["periscena"] = own;
  }

  std::string to_glb() {
    if (!extensions_.empty()) json_["extensionsUsed"] = extensions_;
    if (json_["scenes"][0]["nodes"].empty()) json_["scenes"][0].erase("nodes");
    if (!binary_.empty()) json_["buffers"] = Json::array({{{"byteLength", binary_.size()}}});
    return gltf::glb_file(json_.dump(), std::move(binary_));
  }

  Scene packed_;
  const Scene& scene_;
  Json json_;
  std::string binary_;
  std::set<std::string> extensions_;
  std::vector<Sampling> samplings_;
  std::map<std::pair<const void*, std::size_t>, std::size_t> accessors_;
  std::map<const Image*, std::size_t> image_views_;
  std::map<std::string, std::uint32_t> mesh_of_data_;  ///< the first of the meshes of the same streams
  std::vector<std::size_t> mesh_of_node_;
};

}  // namespace

std::string encode_glb(const Scene& scene) {
  return Exporter(scene).run();
}

void write_glb(const Scene& scene, const std::filesystem::path& path) {
  expect_writable(path);
  write_file(path, encode_glb(scene));
}

}  // namespace periscena
