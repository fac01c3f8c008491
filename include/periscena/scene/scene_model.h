#pragma once

#include <periscena/base/names.h>
#include <periscena/scene/scene.h>

#include <memory>
#include <string>
#include <string_view>
#include <vector>

namespace periscena {

/// A copy of a model in a scene. Scene::remove(root) takes it out as a whole.
struct ModelInstance {
  std::shared_ptr<const Scene> model;
  NodeHandle root = {};                  ///< all of the copy is below it
  std::vector<NodeHandle> nodes = {};    ///< by the number of a node in the model
  std::vector<LightHandle> lights = {};  ///< by the number of a light in the model
  std::vector<ViewHandle> views = {};    ///< by the number of a view in the model

  /// By the names that they have in the model; invalid when there is none.
  NodeHandle node(std::string_view name) const;
  LightHandle light(std::string_view name) const;
  ViewHandle view(std::string_view name) const;
};

/// A model in a scene: its meshes, textures and materials are there once, for any number of copies.
///
///     SceneModel boat(*scene, "boat", read_model("boat.glb").scene);
///     ModelInstance left = boat.place(*scene, {.name = "left", .placement = Transform::translate({-2, 0, 0})});
///     scene->set_local_transform(left.node("rudder"), …);
///     scene->remove(left.root);
///
/// Names begin with the model's: its material "oak" is "boat/oak" in the scene, and so are meshes, textures, variants,
/// environments, fogs and ambient lights. Those of a copy begin with the copy's: its node "rudder" is "left/rudder",
/// and so are lights and views.
class SceneModel {
 public:
  /// Adds to the scene what copies share. @throws Mistake "taken-name", with the scene as it was
  SceneModel(Scene& scene, std::string name, Scene model, Place place = Place::here());

  /// Adds a copy. @param scene  the one that the model is in
  /// @param root  a node of any parent, below which the copy is put. Without a name it gets the model's, with a number
  /// where that is taken
  /// @throws Mistake "taken-name", "stale-handle" after remove(); as Scene::add_node; each with the scene as it was
  ModelInstance place(Scene& scene, Node root = {}, Place place = Place::here());

  /// Removes what copies shared, once they are gone. @throws Mistake "in-use" with a node that still shows some of it
  void remove(Scene& scene, Place place = Place::here());

  const std::string& name() const { return name_; }
  const Scene& model() const { return *model_; }

  /// By the numbers in the model.
  const std::vector<MeshHandle>& meshes() const { return meshes_; }
  const std::vector<TextureHandle>& textures() const { return textures_; }
  const std::vector<MaterialHandle>& materials() const { return materials_; }

  /// A variant's name in the scene. @param variant  its name in the model
  std::string variant_name(std::string_view variant) const { return in_scene(variant); }

 private:
  std::string in_scene(std::string_view name) const { return name_ + "/" + std::string(name); }
  std::string_view in_model(std::string_view name) const;
  void expect_free(const Scene& scene, const Place& place) const;
  void expect_unused(const Scene& scene, const Place& place) const;
  void add_variants(Scene& scene, const Place& place);

  std::string name_;
  std::shared_ptr<const Scene> model_;
  std::vector<MeshHandle> meshes_;
  std::vector<TextureHandle> textures_;
  std::vector<MaterialHandle> materials_;
  std::vector<EnvironmentHandle> environments_;
  std::vector<FogHandle> fogs_;
  std::vector<AmbientLightHandle> ambient_lights_;
  FreeNames root_names_;
};

}  // namespace periscena
