// What a program removes of a scene, and the scene without its empty places.
#include "scene/scene_list.h"

#include <algorithm>
#include <memory>
#include <vector>

namespace periscena {
namespace {

[[noreturn]] void refuse_used(const char* what, std::string_view name, const std::string& user, const Place& place) {
  throw Mistake("in-use", place, fmt::format("{} \"{}\" is used by {}", what, name, user),
                "let that one use another first, or remove it");
}

/// What stands for the image of a texture that was removed.
std::shared_ptr<const Image> no_image() {
  static const auto image = std::make_shared<const Image>(1, 1, Format::rgba8);
  return image;
}

}  // namespace

template <class Kind, class Thing>
void Scene::remove_from(List<Thing>& list, Handle<Kind> which, const char* what, const Place& place) {
  there(which, list, what, place);
  list.erase(which.index);
  ++versions_.structure;
}

void Scene::remove(NodeHandle which, Place place) {
  there(which, nodes_, "node", place);
  std::vector<bool> goes(nodes_.things.size());
  std::vector<std::uint32_t> gone{which.index};
  goes[which.index] = true;
  if (child_counts_[which.index] > 0) {
    for (const std::uint32_t i : parents_first_) {
      const NodeHandle parent = nodes_.things[i].parent;
      if (goes[i] || !parent.valid() || !goes[parent.index]) continue;
      goes[i] = true;
      gone.push_back(i);
    }
  }
  const auto follows = [&](const auto& thing) { return thing.node.valid() && goes[thing.node.index]; };
  for (std::size_t i = lights_.things.size(); i-- > 0;) {
    if (follows(lights_.things[i])) remove(light_handle(lights_.things[i].name), place);
  }
  for (std::size_t i = views_.things.size(); i-- > 0;) {
    if (follows(views_.things[i])) remove(view_handle(views_.things[i].name), place);
  }
  for (Variant& variant : variants_.things)
    std::erase_if(variant.choices, [&](const auto& choice) { return goes[choice.first.index]; });
  if (const NodeHandle parent = nodes_.things[which.index].parent; parent.valid()) --child_counts_[parent.index];
  for (const std::uint32_t i : gone) {
    const Node node = std::move(nodes_.things[i]);
    drop_tags(tags_, node.tags);
    use_mesh(node.mesh, ~0u);
    child_counts_[i] = 0;
    nodes_.vacate(i, node.name, {});
  }
  ++versions_.structure;
}

void Scene::remove(MeshHandle which, Place place) {
  there(which, meshes_, "mesh", place);
  const std::string name = mesh_names_[which.index];
  for (std::size_t i = 0; mesh_users_[which.index] > 0; ++i) {
    const Node& node = nodes_.things[i];
    if (node.mesh == which) refuse_used("mesh", name, fmt::format("node \"{}\"", node.name), place);
  }
  mesh_names_[which.index].clear();
  meshes_.vacate(which.index, name, {});
  ++versions_.structure;
}

void Scene::remove(TextureHandle which, Place place) {
  const std::string name = there(which, textures_, "texture", place).name;
  for (const Material& material : materials_.things) {
    for (const MapInfo& map : material_maps) {
      if ((material.*map.use).texture == which)
        refuse_used("texture", name, fmt::format("the {} of material \"{}\"", map.name, material.name), place);
    }
  }
  textures_.vacate(which.index, name, {.name = {}, .image = no_image()});
  ++versions_.structure;
}

void Scene::remove(MaterialHandle which, Place place) {
  const std::string name = there(which, materials_, "material", place).name;
  for (const Node& node : nodes_.things) {
    if (node.material == which) refuse_used("material", name, fmt::format("node \"{}\"", node.name), place);
  }
  for (const Variant& variant : variants_.things) {
    const bool used = std::any_of(variant.materials.begin(), variant.materials.end(),
                                  [&](const auto& swap) { return swap.first == which || swap.second == which; }) ||
                      std::any_of(variant.choices.begin(), variant.choices.end(),
                                  [&](const auto& choice) { return choice.second == which; });
    if (used) refuse_used("material", name, fmt::format("variant \"{}\"", variant.name), place);
  }
  materials_.vacate(which.index, name, {});
  ++versions_.structure;
}

void Scene::remove(LightHandle which, Place place) {
  drop_tags(light_tags_, there(which, lights_, "light", place).tags);
  remove_from(lights_, which, "light", place);
}

void Scene::remove(AmbientLightHandle which, Place place) {
  remove_from(ambient_lights_, which, "light", place);
}

void Scene::remove(EnvironmentHandle which, Place place) {
  remove_from(environments_, which, "environment", place);
}

void Scene::remove(FogHandle which, Place place) {
  remove_from(fogs_, which, "fog", place);
}

void Scene::remove(ViewHandle which, Place place) {
  remove_from(views_, which, "view", place);
}

void Scene::remove_variant(std::string_view name, Place place) {
  variant_there(name, place);
  variants_.erase(variants_.by_name.find(std::string(name))->second);
  ++versions_.structure;
}

Scene Scene::packed() const {
  Scene made;
  std::vector<MeshHandle> meshes(meshes_.things.size());
  std::vector<TextureHandle> textures(textures_.things.size());
  std::vector<MaterialHandle> materials(materials_.things.size());
  std::vector<NodeHandle> nodes(nodes_.things.size());
  for (std::size_t i = 0; i < meshes.size(); ++i) {
    if (meshes_.slots.is_filled(static_cast<std::uint32_t>(i)))
      meshes[i] = made.add_mesh(mesh_names_[i], meshes_.things[i]);
  }
  for (std::size_t i = 0; i < textures.size(); ++i) {
    if (textures_.slots.is_filled(static_cast<std::uint32_t>(i))) textures[i] = made.add_texture(textures_.things[i]);
  }
  for (std::size_t i = 0; i < materials.size(); ++i) {
    if (!materials_.slots.is_filled(static_cast<std::uint32_t>(i))) continue;
    Material material = materials_.things[i];
    for (const MapInfo& map : material_maps) {
      if (TextureUse& use = material.*map.use; use.valid()) use.texture = textures[use.texture.index];
    }
    materials[i] = made.add_material(std::move(material));
  }
  const auto moved = [](auto handle, const auto& handles) { return handle.valid() ? handles[handle.index] : handle; };
  for (const std::uint32_t i : parents_first_) {
    if (!nodes_.slots.is_filled(i)) continue;
    Node node = nodes_.things[i];
    node.parent = moved(node.parent, nodes);
    node.mesh = moved(node.mesh, meshes);
    node.material = moved(node.material, materials);
    nodes[i] = made.add_node(std::move(node));
  }
  for (Light light : lights_.things) {
    light.node = moved(light.node, nodes);
    made.add_light(std::move(light));
  }
  for (const AmbientLight& light : ambient_lights_.things) made.add_light(light);
  for (const Environment& environment : environments_.things) made.add_environment(environment);
  for (const Fog& fog : fogs_.things) made.add_fog(fog);
  for (Variant variant : variants_.things) {
    for (auto& [from, to] : variant.materials) from = moved(from, materials), to = moved(to, materials);
    for (auto& [node, to] : variant.choices) node = moved(node, nodes), to = moved(to, materials);
    made.add_variant(std::move(variant));
  }
  for (View view : views_.things) {
    view.node = moved(view.node, nodes);
    made.add_view(std::move(view));
  }
  return made;
}

}  // namespace periscena
