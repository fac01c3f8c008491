#pragma once

#include <periscena/math/hierarchy.h>
#include <periscena/scene/environment.h>
#include <periscena/scene/light.h>
#include <periscena/scene/material.h>
#include <periscena/scene/mesh.h>
#include <periscena/scene/motion.h>

#include <memory>
#include <optional>
#include <set>
#include <span>
#include <string>
#include <unordered_map>
#include <vector>

namespace periscena {

using MeshHandle = Handle<struct MeshKind>;

/// A place in the tree that may show a mesh.
struct Node {
  std::string name;
  NodeHandle parent;
  MeshHandle mesh;
  MaterialHandle material;
  Transform placement = Transform::identity();  ///< to the parent's coordinates
  std::optional<Motion> motion;
  std::shared_ptr<const KeyedPlacement> keys;  ///< instead of `placement`, where there are any
  std::vector<std::string> tags;               ///< for passes to choose by; those of its parents count, too

  /// To the parent's coordinates, at a time.
  Transform local(double seconds) const;

  bool moves() const { return motion || keys; }

  bool operator==(const Node& other) const;
};

/// Which objects: by their tags and those of the objects above them.
struct Selection {
  std::optional<std::vector<std::string>> tags;  ///< those that have one of these; not set: all
  std::vector<std::string> without;              ///< but not those that have one of these

  bool operator==(const Selection&) const = default;
};

/// The same scene in another dress: other materials, and some objects left out.
struct Variant {
  std::string name;
  Selection objects;
  std::vector<std::pair<MaterialHandle, MaterialHandle>> materials;  ///< the second wherever the first is
  std::vector<std::pair<NodeHandle, MaterialHandle>> choices;        ///< of single objects; they go before `materials`

  bool operator==(const Variant&) const = default;
};

/// A named camera.
struct View {
  std::string name;
  Camera camera;
  NodeHandle node = {};  ///< the camera is in its coordinates, and follows it; none: the world's

  /// The camera in the world. Sizes in the scene do not change its lens. @param world  of the node
  Camera placed(const Transform& world) const;

  bool operator==(const View&) const = default;
};

/// What there is to draw: meshes, textures, materials, a tree of nodes, lights, environments, fog and cameras, each
/// found by its name.
class Scene {
 public:
  Scene();
  Scene(const Scene&);
  Scene(Scene&&) noexcept;
  Scene& operator=(const Scene&);
  Scene& operator=(Scene&&) noexcept;
  ~Scene();

  /// Names must not be taken, meshes must be sound, parents must be there before their children.
  /// @throws Mistake "taken-name", "broken-mesh", "unknown-parent", "not-finite", "bad-motion", "bad-light",
  /// "bad-texture", "unknown-texture"
  MeshHandle add_mesh(std::string name, Mesh mesh, Place place = Place::here());
  TextureHandle add_texture(Texture texture, Place place = Place::here());
  MaterialHandle add_material(Material material, Place place = Place::here());
  NodeHandle add_node(Node node, Place place = Place::here());
  void add_light(Light light, Place place = Place::here());
  void add_light(AmbientLight light, Place place = Place::here());
  void add_environment(Environment environment, Place place = Place::here());
  void add_fog(Fog fog, Place place = Place::here());
  void add_variant(Variant variant, Place place = Place::here());
  void add_view(View view, Place place = Place::here());

  /// Puts another in the place of one that is there, under the same name. @throws as add_…
  void change_material(MaterialHandle which, Material material, Place place = Place::here());

  const std::vector<Mesh>& meshes() const { return meshes_; }
  const std::vector<std::string>& mesh_names() const { return mesh_names_; }
  const std::vector<Texture>& textures() const { return textures_; }
  const std::vector<Material>& materials() const { return materials_; }
  const std::vector<Node>& nodes() const { return nodes_; }
  const std::vector<Light>& lights() const { return lights_; }
  const std::vector<AmbientLight>& ambient_lights() const { return ambient_lights_; }
  const std::vector<Environment>& environments() const { return environments_; }
  const std::vector<Fog>& fogs() const { return fogs_; }
  const std::vector<Variant>& variants() const { return variants_; }
  const std::vector<View>& views() const { return views_; }

  MeshHandle find_mesh(std::string_view name) const;
  TextureHandle find_texture(std::string_view name) const;
  MaterialHandle find_material(std::string_view name) const;
  NodeHandle find_node(std::string_view name) const;
  const Light* find_light(std::string_view name) const;
  const AmbientLight* find_ambient_light(std::string_view name) const;
  const Environment* find_environment(std::string_view name) const;
  const Fog* find_fog(std::string_view name) const;
  const Variant* find_variant(std::string_view name) const;
  const View* find_view(std::string_view name) const;

  std::size_t triangle_count() const;  ///< as drawn: meshes count once for each node that shows them

  /// All tags of nodes, each once, sorted.
  std::vector<std::string> tags() const;
  bool has_tag(std::string_view tag) const { return tags_.contains(tag); }

  bool has_light_tag(std::string_view tag) const { return light_tags_.contains(tag); }

  /// Is there a light of any kind that has this name or tag?
  bool has_light(std::string_view name_or_tag) const;

  /// By node: is it chosen?
  std::vector<bool> chosen(const Selection& selection) const;

  /// By node: the material that it has in a variant; in none when it is null.
  std::vector<MaterialHandle> materials_of_nodes(const Variant* variant) const;

  /// One node's world transform at a time, from those of the nodes before it. @param before  at least up to its parent
  Transform world_transform(std::uint32_t node, double seconds, std::span<const Transform> before) const;

  /// World transforms of all nodes at a time, in one sweep, without touching the heap.
  /// @param into  as many as there are nodes
  void world_transforms(double seconds, std::span<Transform> into) const;

  /// Do both show the same, by the same names? Variants are compared by what they make of the nodes; environments by
  /// their images.
  bool operator==(const Scene& other) const;

  /// By node: does its place depend on the time?
  std::vector<bool> moving_nodes() const;

 private:
  /// Where names are, for scenes of many thousand nodes.
  using Index = std::unordered_map<std::string, std::uint32_t>;

  void expect_sound(const Material& material, const Place& place) const;
  bool light_is_taken(std::string_view name) const;

  Index mesh_index_, texture_index_, material_index_, node_index_, light_index_, ambient_index_, environment_index_,
      fog_index_, variant_index_, view_index_;
  std::set<std::string, std::less<>> tags_, light_tags_;
  std::vector<Mesh> meshes_;
  std::vector<std::string> mesh_names_;
  std::vector<Texture> textures_;
  std::vector<Material> materials_;
  std::vector<Node> nodes_;
  std::vector<Light> lights_;
  std::vector<AmbientLight> ambient_lights_;
  std::vector<Environment> environments_;
  std::vector<Fog> fogs_;
  std::vector<Variant> variants_;
  std::vector<View> views_;
};

}  // namespace periscena
