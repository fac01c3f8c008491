#include "narrowboat.h"

#include <algorithm>
#include <set>

namespace osier_lock {

using namespace periscena;

namespace {

/// What the variants of the boat swap: those of what she is made of.
void keep_variants_of(Scene& scene, const std::set<MaterialHandle>& shown) {
  for (Variant variant : std::vector<Variant>(scene.variants())) {
    std::erase_if(variant.materials, [&](const auto& swap) { return !shown.contains(swap.first); });
    if (variant.name == "night")
      scene.change_variant(variant);
    else
      scene.remove_variant(variant.name);
  }
}

}  // namespace

Scene narrowboat(Scene scene) {
  // A node that does not sway takes the place of hers.
  const NodeHandle swaying = scene.find_node("narrowboat"), boat = scene.add_node({.name = "boat"});
  for (std::uint32_t i = 0; i < scene.nodes().size(); ++i) {
    if (scene.nodes()[i].parent == swaying) scene.set_parent(scene.node_handle(i), boat);
  }
  for (std::uint32_t i = 0; i < scene.nodes().size(); ++i) {
    const NodeHandle node = scene.node_handle(i);
    if (node.valid() && node != boat && !scene.at(node).parent.valid()) scene.remove(node);
  }
  while (!scene.lights().empty()) scene.remove(scene.light_handle(scene.lights()[0].name));
  while (!scene.ambient_lights().empty()) scene.remove(scene.ambient_light_handle(scene.ambient_lights()[0].name));
  while (!scene.views().empty()) scene.remove(scene.view_handle(scene.views()[0].name));
  while (!scene.fogs().empty()) scene.remove(scene.fog_handle(scene.fogs()[0].name));

  std::set<MeshHandle> meshes;
  std::set<MaterialHandle> materials;
  for (const Node& node : scene.nodes()) {
    if (node.mesh.valid()) meshes.insert(node.mesh);
    if (node.material.valid()) materials.insert(node.material);
  }
  keep_variants_of(scene, materials);
  for (const auto& [from, to] : scene.find_variant("night")->materials) materials.insert(to);
  std::set<TextureHandle> textures;
  for (const MaterialHandle material : materials) {
    for (const MapInfo& map : material_maps) textures.insert((scene.at(material).*map.use).texture);
  }
  for (const std::string& name : std::vector<std::string>(scene.mesh_names())) {
    if (const MeshHandle mesh = scene.find_mesh(name); mesh.valid() && !meshes.contains(mesh)) scene.remove(mesh);
  }
  for (const Material& one : std::vector<Material>(scene.materials())) {
    const MaterialHandle material = scene.find_material(one.name);
    if (material.valid() && !materials.contains(material)) scene.remove(material);
  }
  for (const Texture& one : std::vector<Texture>(scene.textures())) {
    const TextureHandle texture = scene.find_texture(one.name);
    if (texture.valid() && !textures.contains(texture)) scene.remove(texture);
  }
  return scene.packed();
}

}  // namespace osier_lock
