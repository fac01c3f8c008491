#include "scene/checks.h"
#include "scene/scene_list.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <map>
#include <set>

namespace periscena {
namespace {

void expect_free(bool taken, const char* what, std::string_view name, const Place& place) {
  if (!taken) return;
  throw Mistake("taken-name", place, fmt::format("there is a {} named \"{}\" already", what, name),
                "choose another name");
}

}  // namespace

void expect_finite(bool finite, const char* what, std::string_view name, const Place& place) {
  if (finite) return;
  throw Mistake("not-finite", place, fmt::format("{} \"{}\" holds NaN or infinity", what, name), "give finite numbers");
}

/// Scale, then rotation, then offset.
Matrix<float, 2, 3> texture_matrix(const TextureUse& use, const std::vector<Texture>& textures) {
  Vec2 scale = use.scale;
  if (use.valid()) {
    if (const auto& tile = textures[use.texture.index].metres_per_tile) scale = scale.over(*tile);
  }
  const float c = std::cos(use.rotation), s = std::sin(use.rotation);
  return Matrix<float, 2, 3>::of_rows(
      {{c * scale.x(), s * scale.y(), use.offset.x()}, {-s * scale.x(), c * scale.y(), use.offset.y()}});
}

Transform Node::local(double seconds) const {
  if (dynamic) return placement;
  const Transform placed = keys ? keys->at(seconds) : placement;
  return motion ? motion->at(seconds).then(placed) : placed;
}

bool Node::operator==(const Node& other) const {
  const bool same_place = keys && other.keys ? *keys == *other.keys
                                             : !keys && !other.keys && placement.matrix() == other.placement.matrix();
  return same_place && name == other.name && parent == other.parent && mesh == other.mesh &&
         material == other.material && motion == other.motion && tags == other.tags && dynamic == other.dynamic &&
         visible == other.visible;
}

bool Texture::operator==(const Texture& other) const {
  return name == other.name && holds == other.holds && sampling == other.sampling &&
         metres_per_tile == other.metres_per_tile &&
         (image == other.image || (image && other.image && *image == *other.image));
}

bool Texture::has_shape_of(const Texture& other) const {
  return image && other.image && image->width() == other.image->width() && image->height() == other.image->height() &&
         image->is_eight_bit() == other.image->is_eight_bit() && holds == other.holds && sampling == other.sampling &&
         metres_per_tile == other.metres_per_tile;
}

Scene::Scene() = default;
Scene::Scene(const Scene&) = default;
Scene::Scene(Scene&&) noexcept = default;
Scene& Scene::operator=(const Scene&) = default;
Scene& Scene::operator=(Scene&&) noexcept = default;
Scene::~Scene() = default;

MeshHandle Scene::add_mesh(std::string name, Mesh mesh, Place place) {
  expect_free(find_mesh(name).valid(), "mesh", name, place);
  mesh.expect_sound(name, place);
  const std::uint32_t slot = meshes_.put(std::move(mesh), name);
  mesh_names_.resize(meshes_.things.size());
  mesh_users_.resize(meshes_.things.size());
  mesh_versions_.resize(meshes_.things.size());
  mesh_versions_[slot] = 0;
  mesh_names_[slot] = std::move(name);
  ++versions_.structure;
  return meshes_.slots.handle<MeshKind>(slot);
}

void Scene::expect_sound(const Texture& texture, const Place& place) {
  const auto refuse = [&](const std::string& cause, const char* help) {
    throw Mistake("bad-texture", place, fmt::format("texture \"{}\" {}", texture.name, cause), help);
  };
  if (!texture.image) refuse("has no image", "read one with read_image, or make one");
  const FormatInfo& format = info(texture.image->format());
  if (format.channels != 4 || format.integer())
    refuse(fmt::format("holds {}", format.name), "give red, green, blue, alpha of 8 bits or as floats");
  if (!(texture.sampling.anisotropy >= 1 && texture.sampling.anisotropy <= 16))
    refuse(fmt::format("has an anisotropy of {}", texture.sampling.anisotropy), "choose 1 to 16");
  if (const auto& tile = texture.metres_per_tile; tile && !(tile->smallest() > 0 && is_finite(*tile)))
    refuse(fmt::format("has tiles of {} x {} m", tile->x(), tile->y()), "choose more than 0 metres");
}

TextureHandle Scene::add_texture(Texture texture, Place place) {
  expect_free(find_texture(texture.name).valid(), "texture", texture.name, place);
  expect_sound(texture, place);
  ++versions_.structure;
  return textures_.slots.handle<TextureKind>(textures_.put(texture, texture.name));
}

void expect_holds(const MapInfo& map, const Texture& texture, const std::string& material, const Place& place) {
  // Floats are never decoded, whatever they are taken for.
  const bool decodes = texture.image->format() == Format::rgba8 || texture.image->format() == Format::rgba8_srgb;
  if (texture.holds == map.holds || !decodes) return;
  const bool wants_data = map.holds == TextureHolds::data;
  throw Mistake("texture-holds", place,
                fmt::format("the {} of material \"{}\" wants {}, but texture \"{}\" is tagged {}", map.name, material,
                            wants_data ? "data, taken as it is" : "colours, decoded from sRGB", texture.name,
                            wants_data ? "color, so that its numbers would be bent"
                                       : "data, so that they would come out washed out"),
                fmt::format("give the texture holds = \"{}\"; if it is used as {} elsewhere, declare it twice: the "
                            "file is read once",
                            wants_data ? "data" : "color", wants_data ? "color" : "data"));
}

void Scene::expect_sound(const Material& material, const Place& place) const {
  expect_finite(is_finite(material.base_color) && is_finite(material.emission) && is_finite(material.specular) &&
                    std::isfinite(material.alpha) && std::isfinite(material.metallic) &&
                    std::isfinite(material.roughness) && std::isfinite(material.shininess) &&
                    std::isfinite(material.normal_scale) && std::isfinite(material.occlusion_strength) &&
                    std::isfinite(material.alpha_cutoff),
                "material", material.name, place);
  for (const MapInfo& map : material_maps) {
    const TextureUse& use = material.*map.use;
    if (!use.valid()) continue;
    if (!textures_.slots.is_valid(use.texture)) {
      throw Mistake(
          "unknown-texture", place,
          fmt::format("the {} of material \"{}\" is a texture that this scene lacks", map.name, material.name),
          "use handles that add_texture of this scene returned");
    }
    expect_holds(map, textures_.things[use.texture.index], material.name, place);
    if (use.uv_set < 0 || use.uv_set > 1) {
      throw Mistake("unknown-uv-set", place,
                    fmt::format("the {} of material \"{}\" is laid out by texture coordinates {}", map.name,
                                material.name, use.uv_set),
                    "meshes have sets 0 and 1");
    }
    expect_finite(is_finite(use.offset) && is_finite(use.scale) && std::isfinite(use.rotation), "material",
                  material.name, place);
  }
}

MaterialHandle Scene::add_material(Material material, Place place) {
  expect_free(find_material(material.name).valid(), "material", material.name, place);
  expect_sound(material, place);
  ++versions_.structure;
  return materials_.slots.handle<MaterialKind>(materials_.put(material, material.name));
}

void Scene::expect_shown(const Node& node, const Place& place) const {
  if (!node.mesh.valid() || (meshes_.slots.is_valid(node.mesh) && materials_.slots.is_valid(node.material))) return;
  throw Mistake("unknown-mesh", place,
                fmt::format("node \"{}\" shows a mesh or material that this scene lacks", node.name),
                "use handles that add_mesh and add_material of this scene returned");
}

void Scene::expect_parent(NodeHandle parent, std::string_view child, const Place& place) const {
  if (!parent.valid() || nodes_.slots.is_valid(parent)) return;
  if (nodes_.slots.was_valid(parent)) there(parent, nodes_, "node", place);  // says what it was
  throw Mistake("unknown-parent", place, fmt::format("the parent of \"{}\" is not there yet", child),
                "add parents before their children");
}

void Scene::use_mesh(MeshHandle mesh, std::uint32_t change) {
  if (mesh.valid()) mesh_users_[mesh.index] += change;
}

NodeHandle Scene::add_node(Node node, Place place) {
  const std::uint32_t parent = node.parent.index;
  return put_node(std::move(node), parent, place);
}

NodeHandle Scene::append_node(Node node, Place place) {
  return put_node(std::move(node), HandleSlots::none - 1, place);
}

NodeHandle Scene::put_node(Node node, std::uint32_t above, const Place& place) {
  expect_free(!node.name.empty() && find_node(node.name).valid(), "node", node.name, place);
  expect_parent(node.parent, node.name, place);
  expect_shown(node, place);
  if (node.motion) node.motion->expect_sound(node.name, place);
  if (node.keys) node.keys->expect_sound(node.name, place);
  add_tags(tags_, node.tags);
  use_mesh(node.mesh, 1);
  const NodeHandle parent = node.parent;
  const std::string name = node.name;
  const std::uint32_t slot = nodes_.put(std::move(node), name, above);
  if (slot == child_counts_.size()) {
    child_counts_.push_back(0);
    parents_first_.push_back(slot);
  } else if (!in_order_) {
    find_order();
  }
  if (parent.valid()) ++child_counts_[parent.index];
  ++versions_.structure;
  return nodes_.slots.handle<NodeKind>(slot);
}

bool Scene::light_is_taken(std::string_view name) const {
  return find_light(name) || find_ambient_light(name);
}

void Scene::expect_sound(const Light& light, const Place& place) const {
  light.expect_sound(place);
  if (light.node.valid() && !nodes_.slots.is_valid(light.node))
    throw Mistake("bad-light", place, fmt::format("light \"{}\" follows a node that this scene lacks", light.name),
                  "use a handle that add_node of this scene returned");
}

LightHandle Scene::add_light(Light light, Place place) {
  expect_free(light_is_taken(light.name), "light", light.name, place);
  expect_sound(light, place);
  add_tags(light_tags_, light.tags);
  ++versions_.structure;
  return lights_.slots.handle<LightOfScene>(lights_.append(std::move(light)));
}

AmbientLightHandle Scene::add_light(AmbientLight light, Place place) {
  expect_free(light_is_taken(light.name), "light", light.name, place);
  light.expect_sound(place);
  ++versions_.structure;
  return ambient_lights_.slots.handle<AmbientLightOfScene>(ambient_lights_.append(std::move(light)));
}

EnvironmentHandle Scene::add_environment(Environment environment, Place place) {
  expect_free(find_environment(environment.name), "environment", environment.name, place);
  environment.expect_sound(place);
  ++versions_.structure;
  return environments_.slots.handle<EnvironmentOfScene>(environments_.append(std::move(environment)));
}

FogHandle Scene::add_fog(Fog fog, Place place) {
  expect_free(find_fog(fog.name), "fog", fog.name, place);
  fog.expect_sound(place);
  ++versions_.structure;
  return fogs_.slots.handle<FogOfScene>(fogs_.append(std::move(fog)));
}

void Scene::expect_sound(const Variant& variant, const Place& place) const {
  const auto known = [&](MaterialHandle material) { return materials_.slots.is_valid(material); };
  const bool sound = std::all_of(variant.materials.begin(), variant.materials.end(),
                                 [&](const auto& swap) { return known(swap.first) && known(swap.second); }) &&
                     std::all_of(variant.choices.begin(), variant.choices.end(), [&](const auto& choice) {
                       return nodes_.slots.is_valid(choice.first) && known(choice.second);
                     });
  if (!sound) {
    throw Mistake("unknown-material", place,
                  fmt::format("variant \"{}\" names a material or node that this scene lacks", variant.name),
                  "use handles that this scene returned");
  }
}

void Scene::add_variant(Variant variant, Place place) {
  expect_free(find_variant(variant.name), "variant", variant.name, place);
  expect_sound(variant, place);
  variants_.append(std::move(variant));
  ++versions_.structure;
}

Camera View::placed(const Transform& world) const {
  Camera placed = camera;
  placed.eye = world.apply_to_point(camera.eye);
  placed.target = world.apply_to_point(camera.target);
  placed.up = world.apply_to_direction(camera.up);
  return placed;
}

void Scene::expect_sound(const View& view, const Place& place) const {
  if (view.node.valid() && !nodes_.slots.is_valid(view.node)) {
    throw Mistake("unknown-parent", place, fmt::format("view \"{}\" follows a node that this scene lacks", view.name),
                  "use a handle that this scene returned");
  }
  view.camera.view(place);  // refuses what can't be looked through
  view.camera.projection(1, place);
}

ViewHandle Scene::add_view(View view, Place place) {
  expect_free(find_view(view.name), "view", view.name, place);
  expect_sound(view, place);
  ++versions_.structure;
  return views_.slots.handle<ViewOfScene>(views_.append(std::move(view)));
}

std::size_t Scene::triangle_count() const {
  std::size_t count = 0;
  for (const Node& node : nodes_.things) {
    if (node.mesh.valid()) count += meshes_.things[node.mesh.index].triangle_count();
  }
  return count;
}

std::vector<std::string> Scene::tags() const {
  std::vector<std::string> names;
  for (const auto& [tag, count] : tags_) names.push_back(tag);
  return names;
}

std::vector<bool> Scene::chosen(const Selection& selection) const {
  const auto has_one_of = [](const Node& node, const std::vector<std::string>& tags) {
    return std::any_of(node.tags.begin(), node.tags.end(),
                       [&](const std::string& tag) { return std::find(tags.begin(), tags.end(), tag) != tags.end(); });
  };
  // What holds for a node holds for those below it.
  const std::vector<Node>& nodes = nodes_.things;
  std::vector<bool> in(nodes.size()), out(nodes.size()), chosen(nodes.size());
  for (const std::uint32_t i : parents_first_) {
    const NodeHandle parent = nodes[i].parent;
    in[i] = (parent.valid() && in[parent.index]) || (selection.tags && has_one_of(nodes[i], *selection.tags));
    out[i] = (parent.valid() && out[parent.index]) || !nodes[i].visible || has_one_of(nodes[i], selection.without);
    chosen[i] = (!selection.tags || in[i]) && !out[i];
  }
  return chosen;
}

std::vector<MaterialHandle> Scene::materials_of_nodes(const Variant* variant) const {
  std::vector<MaterialHandle> materials;
  materials.reserve(nodes_.things.size());
  for (const Node& node : nodes_.things) materials.push_back(node.material);
  if (!variant) return materials;
  std::map<MaterialHandle, MaterialHandle> swaps(variant->materials.begin(), variant->materials.end());
  for (MaterialHandle& material : materials) {
    if (const auto swap = swaps.find(material); swap != swaps.end()) material = swap->second;
  }
  for (const auto& [node, material] : variant->choices) materials[node.index] = material;
  return materials;
}

Transform Scene::world_transform(std::uint32_t index, double seconds, std::span<const Transform> before) const {
  const Node& node = nodes_.things[index];
  if (node.dynamic && !node.parent.valid()) return node.placement;
  const Transform local = node.local(seconds);
  return node.parent.valid() ? local.then(before[node.parent.index]) : local;
}

void Scene::world_transforms(double seconds, std::span<Transform> into) const {
  for (const std::uint32_t i : parents_first_) into[i] = world_transform(i, seconds, into);
}

bool Scene::operator==(const Scene& other) const {
  const auto same_variant = [&](const Variant& a, const Variant& b) {
    return a.name == b.name && a.objects == b.objects && materials_of_nodes(&a) == other.materials_of_nodes(&b);
  };
  const auto same = [](const auto& a, const auto& b) { return a.things == b.things; };
  return same(meshes_, other.meshes_) && mesh_names_ == other.mesh_names_ && same(textures_, other.textures_) &&
         same(materials_, other.materials_) && same(nodes_, other.nodes_) && same(lights_, other.lights_) &&
         same(ambient_lights_, other.ambient_lights_) && same(environments_, other.environments_) &&
         same(fogs_, other.fogs_) && same(views_, other.views_) &&
         std::equal(variants().begin(), variants().end(), other.variants().begin(), other.variants().end(),
                    same_variant);
}

namespace {

/// By node: does this hold for it, or for one that it hangs on?
template <class Test>
std::vector<bool> from_above(const Scene& scene, const Test& test) {
  const std::vector<Node>& nodes = scene.nodes();
  std::vector<bool> found(nodes.size());
  for (const std::uint32_t i : scene.parents_first())
    found[i] = test(nodes[i]) || (nodes[i].parent.valid() && found[nodes[i].parent.index]);
  return found;
}

}  // namespace

std::vector<bool> Scene::moving_nodes() const {
  return from_above(*this, [](const Node& node) { return node.dynamic || node.is_timed(); });
}

std::vector<bool> Scene::changing_nodes() const {
  std::vector<bool> changing = moving_nodes();
  for (std::size_t i = 0; i < changing.size(); ++i) {
    const MeshHandle mesh = nodes()[i].mesh;
    if (mesh.valid() && meshes()[mesh.index].dynamic) changing[i] = true;
  }
  return changing;
}

std::vector<bool> Scene::hidden_nodes() const {
  return from_above(*this, [](const Node& node) { return !node.visible; });
}

std::vector<bool> Scene::timed_nodes() const {
  return from_above(*this, [](const Node& node) { return node.is_timed(); });
}

}  // namespace periscena
