#include <periscena/scene/scene.h>

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace periscena {
namespace {

void expect_free(bool taken, const char* what, std::string_view name, const Place& place) {
  if (!taken) return;
  throw Mistake("taken-name", place, fmt::format("there is a {} named \"{}\" already", what, name),
                "choose another name");
}

template <class Thing>
const Thing* find_named(const std::vector<Thing>& things, std::string_view name) {
  const auto found = std::find_if(things.begin(), things.end(), [&](const Thing& thing) { return thing.name == name; });
  return found == things.end() ? nullptr : &*found;
}

template <class HandleType, class Index>
HandleType look_up(const Index& index, std::string_view name) {
  const auto found = index.find(std::string(name));
  return found == index.end() ? HandleType{} : HandleType{found->second};
}

void expect_finite(bool finite, const char* what, std::string_view name, const Place& place) {
  if (finite) return;
  throw Mistake("not-finite", place, fmt::format("{} \"{}\" holds NaN or infinity", what, name), "give finite numbers");
}

void expect_sound(const Motion& motion, std::string_view node, const Place& place) {
  expect_finite(is_finite(motion.axis) && is_finite(motion.pivot) && std::isfinite(motion.from) &&
                    std::isfinite(motion.to) && std::isfinite(motion.period) && std::isfinite(motion.phase),
                "the motion of", node, place);
  if (!(motion.period > 0)) {
    throw Mistake("bad-motion", place, fmt::format("the motion of \"{}\" has a period of {} s", node, motion.period),
                  "choose more than 0 seconds");
  }
  if (!(motion.hold_from >= 0 && motion.hold_to >= 0 && motion.hold_from + motion.hold_to < 1)) {
    throw Mistake(
        "bad-motion", place,
        fmt::format("the motion of \"{}\" rests for {} and {} of its period", node, motion.hold_from, motion.hold_to),
        "both must be 0 or more, and together less than 1, so that there is time to move");
  }
  if (motion.axis.stableNorm() < 1e-6f) {
    throw Mistake("bad-motion", place, fmt::format("the motion of \"{}\" has an axis of length 0", node),
                  "give an axis such as [0, 1, 0]");
  }
}

}  // namespace

Transform Motion::at(double seconds) const {
  const double turns = seconds / period + phase;
  if (kind == Kind::spin) {
    return rotate(axis, static_cast<float>(2 * std::numbers::pi * (turns - std::floor(turns))), {pivot});
  }
  // 0 at time 0, 1 half a period later, back to 0; then the rests cut off at both ends.
  const double out = 1 - std::abs(2 * (turns - std::floor(turns)) - 1);
  const double moving = std::clamp((out - hold_from) / (1.0 - hold_from - hold_to), 0.0, 1.0);
  const double ease = 0.5 - 0.5 * std::cos(std::numbers::pi * moving);
  const float amount = from + (to - from) * static_cast<float>(ease);
  return kind == Kind::swing ? rotate(axis, amount, {pivot}) : translate(axis.normalized() * amount);
}

MeshHandle Scene::add_mesh(std::string name, Mesh mesh, Place place) {
  expect_free(find_mesh(name).valid(), "mesh", name, place);
  mesh.expect_sound(name, place);
  mesh_index_.emplace(name, static_cast<std::uint32_t>(meshes_.size()));
  meshes_.push_back(std::move(mesh));
  mesh_names_.push_back(std::move(name));
  return {static_cast<std::uint32_t>(meshes_.size() - 1)};
}

MaterialHandle Scene::add_material(Material material, Place place) {
  expect_free(find_material(material.name).valid(), "material", material.name, place);
  expect_finite(is_finite(material.base_color) && is_finite(material.emission), "material", material.name, place);
  material_index_.emplace(material.name, static_cast<std::uint32_t>(materials_.size()));
  materials_.push_back(std::move(material));
  return {static_cast<std::uint32_t>(materials_.size() - 1)};
}

NodeHandle Scene::add_node(Node node, Place place) {
  expect_free(!node.name.empty() && find_node(node.name).valid(), "node", node.name, place);
  if (node.parent.valid() && node.parent.index >= nodes_.size()) {
    throw Mistake("unknown-parent", place, fmt::format("the parent of \"{}\" is not there yet", node.name),
                  "add parents before their children");
  }
  if (node.mesh.valid() && (node.mesh.index >= meshes_.size() || node.material.index >= materials_.size())) {
    throw Mistake("unknown-mesh", place,
                  fmt::format("node \"{}\" shows a mesh or material that this scene lacks", node.name),
                  "use handles that add_mesh and add_material of this scene returned");
  }
  if (node.motion) expect_sound(*node.motion, node.name, place);
  if (!node.name.empty()) node_index_.emplace(node.name, static_cast<std::uint32_t>(nodes_.size()));
  nodes_.push_back(std::move(node));
  return {static_cast<std::uint32_t>(nodes_.size() - 1)};
}

void Scene::add_light(DirectionalLight light, Place place) {
  expect_free(find_directional_light(light.name) || find_ambient_light(light.name), "light", light.name, place);
  expect_finite(is_finite(light.direction) && is_finite(light.color) && std::isfinite(light.illuminance), "light",
                light.name, place);
  if (light.direction.stableNorm() < 1e-6f) {
    throw Mistake("bad-light", place, fmt::format("light \"{}\" has a direction of length 0", light.name),
                  "give the direction that the light travels in, such as [0, -1, 0]");
  }
  directional_lights_.push_back(std::move(light));
}

void Scene::add_light(AmbientLight light, Place place) {
  expect_free(find_directional_light(light.name) || find_ambient_light(light.name), "light", light.name, place);
  expect_finite(is_finite(light.sky) && is_finite(light.ground), "light", light.name, place);
  ambient_lights_.push_back(std::move(light));
}

void Scene::add_view(View view, Place place) {
  expect_free(find_view(view.name), "view", view.name, place);
  view.camera.view(place);  // refuses what can't be looked through
  view.camera.projection(1, place);
  views_.push_back(std::move(view));
}

MeshHandle Scene::find_mesh(std::string_view name) const {
  return look_up<MeshHandle>(mesh_index_, name);
}

MaterialHandle Scene::find_material(std::string_view name) const {
  return look_up<MaterialHandle>(material_index_, name);
}

NodeHandle Scene::find_node(std::string_view name) const {
  return look_up<NodeHandle>(node_index_, name);
}

const DirectionalLight* Scene::find_directional_light(std::string_view name) const {
  return find_named(directional_lights_, name);
}

const AmbientLight* Scene::find_ambient_light(std::string_view name) const {
  return find_named(ambient_lights_, name);
}

const View* Scene::find_view(std::string_view name) const {
  return find_named(views_, name);
}

std::size_t Scene::triangle_count() const {
  std::size_t count = 0;
  for (const Node& node : nodes_) {
    if (node.mesh.valid()) count += meshes_[node.mesh.index].triangle_count();
  }
  return count;
}

Transform Scene::world_transform(std::uint32_t index, double seconds, std::span<const Transform> before) const {
  const Node& node = nodes_[index];
  const Transform local = node.motion ? node.motion->at(seconds).then(node.placement) : node.placement;
  return node.parent.valid() ? local.then(before[node.parent.index]) : local;
}

void Scene::world_transforms(double seconds, std::span<Transform> into) const {
  for (std::uint32_t i = 0; i < nodes_.size(); ++i) into[i] = world_transform(i, seconds, into);
}

}  // namespace periscena
