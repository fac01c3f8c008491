#include <periscena/scene/scene_model.h>

#include <periscena/base/error.h>
#include <periscena/base/names.h>

#include <fmt/format.h>

#include <algorithm>

namespace periscena {
namespace {

void expect_free_name(bool taken, const char* what, const std::string& name, const Place& place) {
  if (!taken) return;
  throw Mistake("taken-name", place, fmt::format("there is a {} \"{}\" already", what, name),
                "put the model in under another name");
}

/// The handle that a model's handle became, where it leads to something.
template <class HandleType>
HandleType moved(HandleType handle, const std::vector<HandleType>& handles) {
  return handle.valid() ? handles[handle.index] : handle;
}

}  // namespace

NodeHandle ModelInstance::node(std::string_view name) const {
  return moved(model->find_node(name), nodes);
}

LightHandle ModelInstance::light(std::string_view name) const {
  return moved(model->light_handle(name), lights);
}

ViewHandle ModelInstance::view(std::string_view name) const {
  return moved(model->view_handle(name), views);
}

SceneModel::SceneModel(Scene& scene, std::string name, Scene model, Place place)
    : name_(std::move(name)), model_(std::make_shared<const Scene>(model.packed())) {
  expect_free(scene, place);
  for (std::size_t i = 0; i < model_->meshes().size(); ++i)
    meshes_.push_back(scene.add_mesh(in_scene(model_->mesh_names()[i]), model_->meshes()[i], place));
  for (Texture texture : model_->textures()) {
    texture.name = in_scene(texture.name);
    textures_.push_back(scene.add_texture(std::move(texture), place));
  }
  for (Material material : model_->materials()) {
    material.name = in_scene(material.name);
    for (const MapInfo& map : material_maps) {
      TextureUse& use = material.*map.use;
      use.texture = moved(use.texture, textures_);
    }
    materials_.push_back(scene.add_material(std::move(material), place));
  }
  for (Environment environment : model_->environments()) {
    environment.name = in_scene(environment.name);
    environments_.push_back(scene.add_environment(std::move(environment), place));
  }
  for (Fog fog : model_->fogs()) {
    fog.name = in_scene(fog.name);
    fogs_.push_back(scene.add_fog(std::move(fog), place));
  }
  for (AmbientLight light : model_->ambient_lights()) {
    light.name = in_scene(light.name);
    ambient_lights_.push_back(scene.add_light(std::move(light), place));
  }
  add_variants(scene, place);
}

void SceneModel::add_variants(Scene& scene, const Place& place) {
  for (Variant variant : model_->variants()) {
    variant.name = in_scene(variant.name);
    for (auto& [from, to] : variant.materials) {
      from = moved(from, materials_);
      to = moved(to, materials_);
    }
    variant.choices.clear();  // those of the copies come with them
    scene.add_variant(std::move(variant), place);
  }
}

void SceneModel::expect_free(const Scene& scene, const Place& place) const {
  const auto expect = [&](const char* what, const auto& names, auto taken) {
    for (const std::string& name : names) {
      const std::string full = in_scene(name);
      expect_free_name(taken(full), what, full, place);
    }
  };
  const auto all_names = [](const auto& things) {
    std::vector<std::string> names;  // with the empty one
    for (const auto& thing : things) names.push_back(thing.name);
    return names;
  };
  expect("mesh", model_->mesh_names(), [&](const auto& name) { return scene.find_mesh(name).valid(); });
  expect("texture", all_names(model_->textures()), [&](const auto& name) { return scene.find_texture(name).valid(); });
  expect("material", all_names(model_->materials()),
         [&](const auto& name) { return scene.find_material(name).valid(); });
  expect("environment", all_names(model_->environments()),
         [&](const auto& name) { return scene.find_environment(name) != nullptr; });
  expect("fog", all_names(model_->fogs()), [&](const auto& name) { return scene.find_fog(name) != nullptr; });
  expect("light", all_names(model_->ambient_lights()),
         [&](const auto& name) { return scene.find_light(name) || scene.find_ambient_light(name); });
  expect("variant", all_names(model_->variants()),
         [&](const auto& name) { return scene.find_variant(name) != nullptr; });
}

ModelInstance SceneModel::place(Scene& scene, Node root, Place place) {
  for (const MeshHandle mesh : meshes_) scene.at(mesh, place);
  for (const MaterialHandle material : materials_) scene.at(material, place);
  if (root.name.empty())
    root.name = root_names_.next(name_, [&](const std::string& name) { return scene.find_node(name).valid(); });
  const std::string prefix = root.name + "/";
  const auto in_copy = [&](const std::string& name) { return name.empty() ? name : prefix + name; };
  for (const Node& node : model_->nodes()) {
    if (!node.name.empty())
      expect_free_name(scene.find_node(in_copy(node.name)).valid(), "node", in_copy(node.name), place);
  }
  for (const Light& light : model_->lights()) {
    const std::string name = in_copy(light.name);
    expect_free_name(scene.find_light(name) || scene.find_ambient_light(name), "light", name, place);
  }
  for (const View& view : model_->views())
    expect_free_name(scene.find_view(in_copy(view.name)) != nullptr, "view", in_copy(view.name), place);

  ModelInstance made{.model = model_};
  made.root = scene.add_node(std::move(root), place);
  const auto node_of = [&](NodeHandle node) { return node.valid() ? made.nodes[node.index] : made.root; };
  made.nodes.resize(model_->nodes().size());
  for (const std::uint32_t i : model_->parents_first()) {
    Node node = model_->nodes()[i];
    node.name = in_copy(node.name);
    node.parent = node_of(node.parent);
    node.mesh = moved(node.mesh, meshes_);
    node.material = moved(node.material, materials_);
    made.nodes[i] = scene.add_node(std::move(node), place);
  }
  for (Light light : model_->lights()) {
    light.name = in_copy(light.name);
    light.node = node_of(light.node);
    made.lights.push_back(scene.add_light(std::move(light), place));
  }
  for (View view : model_->views()) {
    view.name = in_copy(view.name);
    view.node = node_of(view.node);
    made.views.push_back(scene.add_view(std::move(view), place));
  }
  for (const Variant& variant : model_->variants()) {
    const Variant* there = scene.find_variant(in_scene(variant.name));
    if (variant.choices.empty() || !there) continue;
    Variant changed = *there;
    for (const auto& [node, material] : variant.choices)
      changed.choices.emplace_back(node_of(node), moved(material, materials_));
    scene.change_variant(std::move(changed), place);
  }
  return made;
}

void SceneModel::expect_unused(const Scene& scene, const Place& place) const {
  const auto holds = [](const auto& handles, auto one) {
    return std::find(handles.begin(), handles.end(), one) != handles.end();
  };
  const auto refuse = [&](const std::string& user) {
    throw Mistake("in-use", place, fmt::format("model \"{}\" is used by {}", name_, user),
                  "remove its copies first, and let others use something else");
  };
  for (const Node& node : scene.nodes()) {
    const bool uses =
        (node.mesh.valid() && holds(meshes_, node.mesh)) || (node.material.valid() && holds(materials_, node.material));
    if (uses) refuse(fmt::format("node \"{}\"", node.name));
  }
  for (const Material& material : scene.materials()) {
    if (material.name.starts_with(in_scene(""))) continue;
    for (const MapInfo& map : material_maps) {
      if (const TextureHandle texture = (material.*map.use).texture; texture.valid() && holds(textures_, texture))
        refuse(fmt::format("material \"{}\"", material.name));
    }
  }
  for (const Variant& variant : scene.variants()) {
    const auto ours = [&](MaterialHandle material) { return holds(materials_, material); };
    const bool uses =
        std::any_of(variant.materials.begin(), variant.materials.end(),
                    [&](const auto& swap) { return ours(swap.first) || ours(swap.second); }) ||
        std::any_of(variant.choices.begin(), variant.choices.end(), [&](const auto& one) { return ours(one.second); });
    if (uses && !model_->find_variant(in_model(variant.name))) refuse(fmt::format("variant \"{}\"", variant.name));
  }
}

std::string_view SceneModel::in_model(std::string_view name) const {
  return name.starts_with(in_scene("")) ? name.substr(name_.size() + 1) : std::string_view();
}

void SceneModel::remove(Scene& scene, Place place) {
  for (const MeshHandle mesh : meshes_) scene.at(mesh, place);
  for (const MaterialHandle material : materials_) scene.at(material, place);
  expect_unused(scene, place);
  // Of what no handle of ours is needed for, the program may have removed some itself.
  for (const Variant& variant : model_->variants()) {
    if (scene.find_variant(in_scene(variant.name))) scene.remove_variant(in_scene(variant.name), place);
  }
  for (const MaterialHandle material : materials_) scene.remove(material, place);
  for (std::size_t i = 0; i < textures_.size(); ++i) {
    if (scene.find_texture(in_scene(model_->textures()[i].name)) == textures_[i]) scene.remove(textures_[i], place);
  }
  for (const MeshHandle mesh : meshes_) scene.remove(mesh, place);
  for (std::size_t i = 0; i < environments_.size(); ++i) {
    if (scene.environment_handle(in_scene(model_->environments()[i].name)) == environments_[i])
      scene.remove(environments_[i], place);
  }
  for (std::size_t i = 0; i < fogs_.size(); ++i) {
    if (scene.fog_handle(in_scene(model_->fogs()[i].name)) == fogs_[i]) scene.remove(fogs_[i], place);
  }
  for (std::size_t i = 0; i < ambient_lights_.size(); ++i) {
    if (scene.ambient_light_handle(in_scene(model_->ambient_lights()[i].name)) == ambient_lights_[i])
      scene.remove(ambient_lights_[i], place);
  }
}

}  // namespace periscena
