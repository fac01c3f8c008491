#include "model/gltf/import.h"
#include "scene/scene_keys.h"

#include <periscena/base/error.h>

#include <fmt/format.h>

#include <algorithm>

namespace periscena::gltf {
namespace {

Quat quaternion(const std::vector<float>& xyzw, const JsonReader& where) {
  const Quat q(xyzw[3], xyzw[0], xyzw[1], xyzw[2]);
  if (!(q.numbers().norm() > 1e-6f)) where.refuse("is a rotation of length 0", "rotations are quaternions of length 1");
  return q;
}

}  // namespace

Transform Importer::placement(const JsonReader& json) {
  try {
    if (const auto matrix = json.find("matrix")) {
      if (json.has("translation") || json.has("rotation") || json.has("scale"))
        json.refuse("has both a matrix and parts of one");
      return Transform::from_matrix(Mat4::of_numbers(matrix->numbers(16).data()));
    }
    const auto rotation = json.find("rotation");
    return Transform::scale(json.vec3("scale", Vec3::ones()))
        .then(rotation ? rotate(quaternion(rotation->numbers(4), *rotation)) : Transform::identity())
        .then(translate(json.vec3("translation", Vec3::zero())));
  } catch (const Mistake& mistake) {
    json.refuse(fmt::format("can't be placed: {}", mistake.diagnostics()[0].message), mistake.diagnostics()[0].mend);
  }
}

std::vector<std::size_t> Importer::node_order() {
  const std::size_t count = document_.count("nodes");
  parents_.assign(count, std::nullopt);
  std::vector<std::vector<std::size_t>> children(count);
  for (std::size_t i = 0; i < count; ++i) {
    for (const JsonReader& child : document_.item("nodes", i).items("children")) {
      const std::size_t index = child.index(count, "nodes");
      if (parents_[index])
        child.refuse(fmt::format("is {}, which hangs below nodes[{}] already", index, *parents_[index]));
      parents_[index] = i;
      children[i].push_back(index);
    }
  }
  // From the roots of the scene down; what is never reached is no part of it.
  std::vector<std::size_t> roots;
  const auto chosen = document_.root().index("scene", document_.count("scenes"), "scenes");
  if (chosen || document_.count("scenes") > 0) {
    for (const JsonReader& node : document_.item("scenes", chosen.value_or(0)).items("nodes")) {
      const std::size_t index = node.index(count, "nodes");
      if (parents_[index]) node.refuse(fmt::format("is {}, which hangs below nodes[{}]", index, *parents_[index]));
      roots.push_back(index);
    }
  } else {
    for (std::size_t i = 0; i < count; ++i) {
      if (!parents_[i]) roots.push_back(i);
    }
  }
  // With one parent at most for each, what no root leads to hangs below itself.
  std::vector<std::size_t> below;
  for (std::size_t i = 0; i < count; ++i) {
    if (!parents_[i]) below.push_back(i);
  }
  for (std::size_t i = 0; i < below.size(); ++i)
    below.insert(below.end(), children[below[i]].begin(), children[below[i]].end());
  if (below.size() < count) {
    std::vector<bool> reached(count);
    for (const std::size_t node : below) reached[node] = true;
    const auto ring = static_cast<std::size_t>(std::find(reached.begin(), reached.end(), false) - reached.begin());
    document_.item("nodes", ring)
        .refuse("hangs below itself", "a node is below one other at most, and never in a ring");
  }
  std::vector<std::size_t> order, open(roots.rbegin(), roots.rend());
  std::vector<bool> seen(count);
  while (!open.empty()) {
    const std::size_t node = open.back();
    open.pop_back();
    if (seen[node]) document_.item("nodes", node).refuse("is in the scene twice");
    seen[node] = true;
    order.push_back(node);
    open.insert(open.end(), children[node].rbegin(), children[node].rend());
  }
  // As they stand in the file, where parents stand before their children.
  std::vector<std::size_t> sorted = order;
  std::sort(sorted.begin(), sorted.end());
  const bool in_order = std::all_of(sorted.begin(), sorted.end(),
                                    [&](std::size_t node) { return !parents_[node] || *parents_[node] < node; });
  return in_order ? sorted : order;
}

void Importer::add_nodes() {
  nodes_.resize(document_.count("nodes"));
  const std::vector<std::size_t> order = node_order();
  add_animations();
  for (const std::size_t node : order) add_node(node);
}

void Importer::add_node(std::size_t index) {
  const JsonReader json = document_.item("nodes", index);
  const NodeHandle parent = parents_[index] ? nodes_[*parents_[index]] : NodeHandle{};
  if (add_own_thing(json, parent)) return;
  document_.budget().spend(1, sizeof(Node) + 200, json);
  Scene& scene = result_.scene;
  Node node;
  const std::string name = json.text("name", "");
  if (!name.empty())
    node.name = node_names_.next(name, [&](const std::string& n) { return scene.find_node(n).valid(); });
  node.parent = parent;
  node.placement = placement(json);
  if (const auto keyed = keyed_.find(index); keyed != keyed_.end()) {
    if (json.has("matrix"))
      json.refuse("is animated, but has a matrix", "animated nodes have translation, rotation, scale");
    KeyedPlacement& keys = keyed->second;
    keys.scale = json.vec3("scale", Vec3::ones());
    if (const auto rotation = json.find("rotation")) keys.rotation = quaternion(rotation->numbers(4), *rotation);
    keys.translation = json.vec3("translation", Vec3::zero());
    if (const auto own = json.own()) keys.repeat_seconds = own->number("repeat_seconds", 0);
    node.keys = std::make_shared<const KeyedPlacement>(std::move(keys));
  }
  if (const auto own = json.own()) {
    node.tags = own->texts("tags");
    if (const auto motion = own->find("motion")) {
      MotionKeys keys;
      motion->read(motion_keys(), keys);
      node.motion = keys.motion();
    }
  }
  if (json.has("skin"))
    warn("unsupported-skin", fmt::format("{} is skinned, which is not supported", json.path()), "it is drawn unbent");
  const auto instancing = json.extension("EXT_mesh_gpu_instancing");
  const auto mesh = json.index("mesh", shapes_.size(), "meshes");
  const bool single = mesh && shapes_[*mesh].size() == 1 && !instancing;
  if (single) {
    node.mesh = shapes_[*mesh][0].mesh;
    if (node.mesh.valid()) node.material = material_of(shapes_[*mesh][0]);
  }
  try {
    nodes_[index] = scene.add_node(node);
  } catch (const Mistake& mistake) {
    json.refuse(mistake.diagnostics()[0].message, mistake.diagnostics()[0].mend);
  }
  if (single) {
    for (const auto& [variant, material] : shapes_[*mesh][0].variants)
      variant_choices_[variant].emplace_back(nodes_[index], material);
  } else if (instancing && mesh) {
    add_instances(json, *instancing, nodes_[index]);
  } else if (mesh) {
    add_shapes(json, nodes_[index], name);
  }
  add_light(json, nodes_[index]);
}

void Importer::add_shapes(const JsonReader& json, NodeHandle parent, const std::string& name) {
  Scene& scene = result_.scene;
  for (const Shape& shape : shapes_[json.at("mesh").whole()]) {
    if (!shape.mesh.valid()) continue;
    const MaterialHandle material = material_of(shape);
    document_.budget().spend(1, sizeof(Node) + 200, json);
    Node node;
    if (!name.empty()) {
      node.name = node_names_.next(fmt::format("{}: {}", name, scene.materials()[material.index].name),
                                   [&](const std::string& n) { return scene.find_node(n).valid(); });
    }
    node.parent = parent;
    node.mesh = shape.mesh;
    node.material = material;
    const NodeHandle added = scene.add_node(node);
    for (const auto& [variant, other] : shape.variants) variant_choices_[variant].emplace_back(added, other);
  }
}

void Importer::add_instances(const JsonReader& json, const JsonReader& instancing, NodeHandle parent) {
  const JsonReader attributes = instancing.at("attributes");
  const std::size_t accessors = document_.count("accessors");
  Stream<Vec3> translations, scales;
  Stream<Vec4> rotations;
  if (const auto accessor = attributes.index("TRANSLATION", accessors, "accessors"))
    translations = accessors_.floats<Vec3>(*accessor);
  if (const auto accessor = attributes.index("ROTATION", accessors, "accessors"))
    rotations = accessors_.floats<Vec4>(*accessor);
  if (const auto accessor = attributes.index("SCALE", accessors, "accessors"))
    scales = accessors_.floats<Vec3>(*accessor);
  const std::size_t count = std::max({translations.size(), rotations.size(), scales.size()});
  for (const std::size_t own : {translations.size(), rotations.size(), scales.size()}) {
    if (own != 0 && own != count) attributes.refuse(fmt::format("have {} and {} values", own, count));
  }
  document_.budget().spend(count, sizeof(Node) + 200, json);
  for (std::size_t i = 0; i < count; ++i) {
    Node node;
    node.parent = parent;
    try {
      if (!scales.empty()) node.placement = Transform::scale(scales[i]);
      if (!rotations.empty())
        node.placement =
            node.placement.then(rotate(Quat(rotations[i][3], rotations[i][0], rotations[i][1], rotations[i][2])));
      if (!translations.empty()) node.placement = node.placement.then(translate(translations[i]));
    } catch (const Mistake& mistake) {
      instancing.refuse(fmt::format("can't place instance {}: {}", i, mistake.diagnostics()[0].message));
    }
    add_shapes(json, result_.scene.add_node(node), "");
  }
}

}  // namespace periscena::gltf
