// What a program changes of a scene that is there.
#include "scene/scene_list.h"

#include <periscena/base/names.h>

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <utility>

namespace periscena {
namespace {

/// Moves are remembered as if there were at least so many nodes.
constexpr std::size_t least_remembered = 256;

/// Do both need the same code, textures and buffers?
bool same_structure(const Material& a, const Material& b) {
  bool same = a.shading == b.shading && a.alpha_mode == b.alpha_mode && a.double_sided == b.double_sided &&
              a.surface == b.surface && a.shows == b.shows && a.shows_mirrored == b.shows_mirrored &&
              (a.metallic > 0) == (b.metallic > 0) && a.emission.is_zero(0) == b.emission.is_zero(0);
  for (const MapInfo& map : material_maps) {
    const TextureUse &x = a.*map.use, &y = b.*map.use;
    same = same && x.texture == y.texture && x.uv_set == y.uv_set;
  }
  return same;
}

bool same_structure(const Light& a, const Light& b) {
  return a.kind.index() == b.kind.index() && std::isinf(a.range()) == std::isinf(b.range()) && a.node == b.node &&
         a.tags == b.tags && (!a.spot() || a.spot()->looks_all_round() == b.spot()->looks_all_round());
}

bool same_structure(const AmbientLight& a, const AmbientLight& b) {
  return a.sky.is_zero(0) == b.sky.is_zero(0) && a.ground.is_zero(0) == b.ground.is_zero(0);
}

bool same_structure(const Environment& a, const Environment& b) {
  return a.images == b.images;
}

bool same_structure(const Fog& a, const Fog& b) {
  return a.kind == b.kind;
}

bool same_structure(const View& a, const View& b) {
  return a.node == b.node && a.camera.depth == b.camera.depth;
}

/// Puts a thing in the place of another, under its name. @return had that the same structure?
template <class Thing>
bool replace(Thing& old, Thing thing) {
  thing.name = old.name;
  const bool same = same_structure(old, thing);
  old = std::move(thing);
  return same;
}

}  // namespace

void refuse_handle(std::string_view removed, bool valid, const char* what, const Place& place) {
  if (!removed.empty()) {
    throw Mistake("stale-handle", place, fmt::format("the {} of this handle, \"{}\", was removed", what, removed),
                  "keep no handles of what is removed; add_… returns a new one");
  }
  throw Mistake(
      "stale-handle", place,
      valid ? fmt::format("the scene has no {} of this handle", what) : fmt::format("the handle points at no {}", what),
      valid ? "use a handle that this scene returned"
            : "check the name that it was looked up by: an unknown one gives such a handle");
}

void Scene::set_local_transform(NodeHandle which, const Transform& transform, Place place) {
  Node& node = there(which, nodes_, "node", place);
  node.placement = transform;
  if (!std::exchange(node.dynamic, true)) ++versions_.structure;
  // Half of them go at a time: each of two frames that move all nodes finds its own.
  const std::size_t most = 4 * std::max(least_remembered, nodes_.things.size());
  if (set_nodes_.size() >= most)
    set_nodes_.erase(set_nodes_.begin(), set_nodes_.begin() + static_cast<std::ptrdiff_t>(most / 2));
  set_nodes_.push_back(which.index);
  ++versions_.nodes;
}

std::optional<std::span<const std::uint32_t>> Scene::nodes_set_since(std::uint64_t since) const {
  const std::uint64_t count = versions_.nodes - since;
  if (count > set_nodes_.size()) return std::nullopt;
  return std::span(set_nodes_).last(count);
}

void Scene::release(NodeHandle which, Place place) {
  if (std::exchange(there(which, nodes_, "node", place).dynamic, false)) ++versions_.structure;
}

void Scene::set_mesh(NodeHandle which, MeshHandle mesh, MaterialHandle material, Place place) {
  Node& node = there(which, nodes_, "node", place);
  Node changed = node;
  changed.mesh = mesh;
  changed.material = material;
  expect_shown(changed, place);
  if (node.mesh == mesh && node.material == material) return;
  use_mesh(node.mesh, ~0u);
  use_mesh(mesh, 1);
  node.mesh = mesh;
  node.material = material;
  ++versions_.structure;
}

void Scene::set_visible(NodeHandle which, bool visible, Place place) {
  if (std::exchange(there(which, nodes_, "node", place).visible, visible) != visible) ++versions_.structure;
}

void Scene::set_tags(NodeHandle which, std::vector<std::string> tags, Place place) {
  Node& node = there(which, nodes_, "node", place);
  drop_tags(tags_, node.tags);
  add_tags(tags_, tags);
  node.tags = std::move(tags);
  ++versions_.structure;
}

void Scene::set_parent(NodeHandle which, NodeHandle parent, Place place) {
  Node& node = there(which, nodes_, "node", place);
  if (parent.valid()) there(parent, nodes_, "node", place);
  if (node.parent == parent) return;
  for (NodeHandle at = parent; at.valid(); at = nodes_.things[at.index].parent) {
    if (at != which) continue;
    throw Mistake(
        "parent-cycle", place,
        fmt::format("\"{}\" can't hang on \"{}\", which hangs on it", node.name, nodes_.things[parent.index].name),
        "move that one to another parent first");
  }
  if (node.parent.valid()) --child_counts_[node.parent.index];
  if (parent.valid()) ++child_counts_[parent.index];
  node.parent = parent;
  if (!in_order_ || (parent.valid() && parent.index > which.index)) find_order();
  ++versions_.structure;
}

/// By number, but each parent before its children.
void Scene::find_order() {
  const std::vector<Node>& nodes = nodes_.things;
  std::vector<bool> listed(nodes.size());
  std::vector<std::uint32_t> upwards;
  parents_first_.clear();
  for (std::uint32_t i = 0; i < nodes.size(); ++i) {
    for (NodeHandle at{i}; at.valid() && !listed[at.index]; at = nodes[at.index].parent) upwards.push_back(at.index);
    for (; !upwards.empty(); upwards.pop_back()) {
      parents_first_.push_back(upwards.back());
      listed[upwards.back()] = true;
    }
  }
  in_order_ = std::is_sorted(parents_first_.begin(), parents_first_.end());
}

void Scene::change_mesh(MeshHandle which, Mesh mesh, Place place) {
  Mesh& old = there(which, meshes_, "mesh", place);
  mesh.expect_sound(mesh_names_[which.index], place);
  const bool same = mesh.has_shape_of(old), was_dynamic = old.dynamic;
  mesh.dynamic = mesh.dynamic || same;
  old = std::move(mesh);
  if (!same || !was_dynamic) ++versions_.structure;
  mesh_versions_[which.index] = ++versions_.meshes;
}

void Scene::change_texture(TextureHandle which, Texture texture, Place place) {
  texture.name = there(which, textures_, "texture", place).name;
  expect_sound(texture, place);
  replace_texture(which, std::move(texture), place);
}

void Scene::change_texture(TextureHandle which, const Image& part, int left, int top, Place place) {
  Texture texture = there(which, textures_, "texture", place);
  const Image& old = *texture.image;
  if (left < 0 || top < 0 || part.width() > old.width() - left || part.height() > old.height() - top) {
    throw Mistake("pixel-outside", place,
                  fmt::format("{} x {} pixels at {}, {} do not lie in texture \"{}\", which is {} x {}", part.width(),
                              part.height(), left, top, texture.name, old.width(), old.height()),
                  "count from the upper left, from 0, and give no more than there is to the right and below");
  }
  if (part.bytes().empty() || part.format() != old.format()) {
    throw Mistake("image-format", place,
                  fmt::format("pixels of {} for texture \"{}\", whose picture holds {}",
                              part.bytes().empty() ? "no values" : to_string(part.format()), texture.name,
                              to_string(old.format())),
                  "give pixels of the picture's own format");
  }
  auto changed = std::make_shared<Image>(old);
  const std::size_t pixel = static_cast<std::size_t>(info(old.format()).bytes);
  for (int row = 0; row < part.height(); ++row) {
    const auto from =
        part.bytes().begin() + static_cast<std::ptrdiff_t>(static_cast<std::size_t>(row) * part.row_bytes());
    const std::size_t into =
        static_cast<std::size_t>(top + row) * old.row_bytes() + static_cast<std::size_t>(left) * pixel;
    std::copy_n(from, part.row_bytes(), changed->bytes().begin() + static_cast<std::ptrdiff_t>(into));
  }
  texture.image = std::move(changed);
  replace_texture(which, std::move(texture), place);
}

void Scene::replace_texture(TextureHandle which, Texture texture, const Place& place) {
  Texture& old = there(which, textures_, "texture", place);
  for (const Material& material : materials_.things) {
    for (const MapInfo& map : material_maps) {
      if ((material.*map.use).texture == which) expect_holds(map, texture, material.name, place);
    }
  }
  const bool same = texture.has_shape_of(old);
  old = std::move(texture);
  ++(same ? versions_.textures : versions_.structure);
}

void Scene::change_material(MaterialHandle which, Material material, Place place) {
  Material& old = there(which, materials_, "material", place);
  expect_sound(material, place);
  ++(replace(old, std::move(material)) ? versions_.materials : versions_.structure);
}

void Scene::change_light(LightHandle which, Light light, Place place) {
  Light& old = there(which, lights_, "light", place);
  expect_sound(light, place);
  drop_tags(light_tags_, old.tags);
  add_tags(light_tags_, light.tags);
  ++(replace(old, std::move(light)) ? versions_.lights : versions_.structure);
}

void Scene::change_light(AmbientLightHandle which, AmbientLight light, Place place) {
  AmbientLight& old = there(which, ambient_lights_, "light", place);
  light.expect_sound(place);
  ++(replace(old, std::move(light)) ? versions_.lights : versions_.structure);
}

void Scene::change_environment(EnvironmentHandle which, Environment environment, Place place) {
  Environment& old = there(which, environments_, "environment", place);
  environment.expect_sound(place);
  ++(replace(old, std::move(environment)) ? versions_.lights : versions_.structure);
}

void Scene::change_fog(FogHandle which, Fog fog, Place place) {
  Fog& old = there(which, fogs_, "fog", place);
  fog.expect_sound(place);
  ++(replace(old, std::move(fog)) ? versions_.lights : versions_.structure);
}

void Scene::change_view(ViewHandle which, View view, Place place) {
  View& old = there(which, views_, "view", place);
  expect_sound(view, place);
  ++(replace(old, std::move(view)) ? versions_.views : versions_.structure);
}

Variant& Scene::variant_there(std::string_view name, const Place& place) {
  const Variant* found = variants_.find(name);
  if (!found) {
    throw Mistake("unknown-variant", place, fmt::format("there is no variant \"{}\"", name),
                  name_hint(name, names_of(variants_.things)));
  }
  return const_cast<Variant&>(*found);
}

void Scene::change_variant(Variant variant, Place place) {
  Variant& old = variant_there(variant.name, place);
  expect_sound(variant, place);
  old = std::move(variant);
  ++versions_.structure;
}

void Scene::set_camera(ViewHandle which, const Camera& camera, Place place) {
  View& old = there(which, views_, "view", place);
  camera.view(place);  // refuses what can't be looked through
  camera.projection(1, place);
  const bool same = old.camera.depth == camera.depth;
  old.camera = camera;
  ++(same ? versions_.views : versions_.structure);
}

}  // namespace periscena
