#pragma once

#include <periscena/math/hierarchy.h>
#include <periscena/scene/environment.h>
#include <periscena/scene/handle_slots.h>
#include <periscena/scene/light.h>
#include <periscena/scene/material.h>
#include <periscena/scene/mesh.h>
#include <periscena/scene/motion.h>

#include <map>
#include <memory>
#include <optional>
#include <span>
#include <string>
#include <unordered_map>
#include <vector>

namespace periscena {

using MeshHandle = Handle<struct MeshKind>;
using LightHandle = Handle<struct LightOfScene>;
using AmbientLightHandle = Handle<struct AmbientLightOfScene>;
using EnvironmentHandle = Handle<struct EnvironmentOfScene>;
using FogHandle = Handle<struct FogOfScene>;
using ViewHandle = Handle<struct ViewOfScene>;

/// A place in the tree that may show a mesh.
struct Node {
  std::string name = {};
  NodeHandle parent = {};
  MeshHandle mesh = {};
  MaterialHandle material = {};
  Transform placement = Transform::identity();  ///< to the parent's coordinates
  std::optional<Motion> motion = {};
  std::shared_ptr<const KeyedPlacement> keys = {};  ///< instead of `placement`, where there are any
  std::vector<std::string> tags = {};               ///< for passes to choose by; those of its parents count, too

  /// The program moves it, by Scene::set_local_transform: `placement` counts, and `motion` and `keys` rest.
  bool dynamic = false;

  bool visible = true;  ///< is it drawn, with all below it?

  /// To the parent's coordinates, at a time.
  Transform local(double seconds) const;

  /// Does its local transform depend on the time?
  bool is_timed() const { return !dynamic && (motion || keys); }

  bool operator==(const Node& other) const;
};

/// Which objects: by their tags and those of the objects above them.
struct Selection {
  std::optional<std::vector<std::string>> tags = {};  ///< those that have one of these; not set: all
  std::vector<std::string> without = {};              ///< but not those that have one of these

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

/// How often a scene was changed, by what was changed: what is made of it compares these with what they were.
struct SceneVersions {
  std::uint64_t structure = 0;  ///< what passes are made by: something was added, or has other maps, another parent, …
  std::uint64_t nodes = 0;      ///< local transforms of dynamic nodes
  std::uint64_t views = 0;      ///< cameras
  std::uint64_t lights = 0;     ///< values of lights, environments and fogs
  std::uint64_t materials = 0;  ///< values of materials
  std::uint64_t meshes = 0;     ///< vertices of dynamic meshes
  std::uint64_t textures = 0;   ///< pixels of textures

  bool operator==(const SceneVersions&) const = default;
};

/// What there is to draw: meshes, textures, materials, a tree of nodes, lights, environments, fog and cameras, each
/// found by its name.
///
/// A program may change a scene between frames, while runners draw it: the next frame shows what the scene is then.
/// Values (cameras, transforms of dynamic nodes, vertices of dynamic meshes, pixels, lights, fogs, materials) cost what
/// they touch. What changes the
/// structure (SceneVersions::structure) has each runner make the scene's buffers again before its next frame; programs
/// stay. One thread changes a scene, the one that runs its frames. Meshes, images and models may be made on others.
///
/// Handles stay valid until what they lead to is removed. Then they are stale, and stay so: what is added later has
/// handles of its own, also where it takes the removed thing's place in a list. In `nodes()`, `meshes()`,
/// `textures()` and `materials()`, an empty one without a name fills the place of what was removed.
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
  LightHandle add_light(Light light, Place place = Place::here());
  AmbientLightHandle add_light(AmbientLight light, Place place = Place::here());
  EnvironmentHandle add_environment(Environment environment, Place place = Place::here());
  FogHandle add_fog(Fog fog, Place place = Place::here());
  void add_variant(Variant variant, Place place = Place::here());
  ViewHandle add_view(View view, Place place = Place::here());

  /// As add_node, but after all other nodes, even where slots of removed ones are free.
  NodeHandle append_node(Node node, Place place = Place::here());

  /// Moves a node, with all below it. The first time it becomes dynamic, which changes the structure, unless it was
  /// added so. Numbers that are not finite are drawn as they come, and reported by the runner (`bounds-not-finite`).
  /// @throws Mistake "stale-handle"
  void set_local_transform(NodeHandle node, const Transform& transform, Place place = Place::here());

  /// Lets a node go: its motion and keys count again, where it has any. Changes the structure. @throws as above
  void release(NodeHandle node, Place place = Place::here());

  /// Changes what a node shows, or the material that it shows it with. Changes the structure.
  /// @throws Mistake "stale-handle", "unknown-mesh"
  void set_mesh(NodeHandle node, MeshHandle mesh, MaterialHandle material, Place place = Place::here());

  /// Hides a node, with all below it, or shows it again. Changes the structure. @throws Mistake "stale-handle"
  void set_visible(NodeHandle node, bool visible, Place place = Place::here());

  /// Replaces a node's tags, for passes to choose by. Changes the structure. @throws Mistake "stale-handle"
  void set_tags(NodeHandle node, std::vector<std::string> tags, Place place = Place::here());

  /// Moves a node, with all below it, to another parent; its local transform stays. Changes the structure.
  /// @param parent  invalid: none @throws Mistake "stale-handle", "parent-cycle"
  void set_parent(NodeHandle node, NodeHandle parent, Place place = Place::here());

  /// Puts another in the place of one that is there, under the same name. Changes the structure only where other code,
  /// textures or buffers are needed: a material with other maps, shading or alpha mode, or that begins or ceases to
  /// be metallic or to emit light; a light of another kind or range (finite or not), or that follows another node or
  /// has other tags; a fog of another kind; an environment of other images; a camera of another depth order, or that
  /// follows another node; a mesh of other indices or other properties, or more or fewer vertices, and one that was not
  /// dynamic, which it is from then on; a texture of another size, kind of numbers or sampling.
  /// @throws Mistake "stale-handle", and as add_…
  void change_mesh(MeshHandle which, Mesh mesh, Place place = Place::here());
  void change_texture(TextureHandle which, Texture texture, Place place = Place::here());

  /// Replaces a rectangle of a texture's picture. Sends that rectangle alone, and the mip levels, which are computed of
  /// the whole picture, where the texture's filter has some.
  /// @param part  of the picture's format @param left, top  where its upper left pixel goes
  /// @throws Mistake "stale-handle", "pixel-outside", "image-format"
  void change_texture(TextureHandle which, const Image& part, int left, int top, Place place = Place::here());

  void change_material(MaterialHandle which, Material material, Place place = Place::here());
  void change_light(LightHandle which, Light light, Place place = Place::here());
  void change_light(AmbientLightHandle which, AmbientLight light, Place place = Place::here());
  void change_environment(EnvironmentHandle which, Environment environment, Place place = Place::here());
  void change_fog(FogHandle which, Fog fog, Place place = Place::here());
  void change_view(ViewHandle which, View view, Place place = Place::here());

  /// Replaces the variant of that name. Changes the structure.
  /// @throws Mistake "unknown-variant"; "unknown-material" for handles that are stale
  void change_variant(Variant variant, Place place = Place::here());

  /// The same for the camera alone, which is what changes in most frames.
  void set_camera(ViewHandle which, const Camera& camera, Place place = Place::here());

  /// Removes a node with all below it, and the lights and views that follow one of them. Changes the structure, as
  /// all removal does. @throws Mistake "stale-handle"
  void remove(NodeHandle node, Place place = Place::here());

  /// Removes what nothing uses any more. @throws Mistake "stale-handle"; "in-use", with the node, material or variant
  /// that uses it
  void remove(MeshHandle which, Place place = Place::here());
  void remove(TextureHandle which, Place place = Place::here());
  void remove(MaterialHandle which, Place place = Place::here());

  /// Removes one of these. A pass that names it can't be drawn from then on: the runner says so.
  /// @throws Mistake "stale-handle"
  void remove(LightHandle which, Place place = Place::here());
  void remove(AmbientLightHandle which, Place place = Place::here());
  void remove(EnvironmentHandle which, Place place = Place::here());
  void remove(FogHandle which, Place place = Place::here());
  void remove(ViewHandle which, Place place = Place::here());
  void remove_variant(std::string_view name, Place place = Place::here());  ///< @throws Mistake "unknown-variant"

  /// What a handle leads to. References are good until something of the same kind is added or removed.
  /// @throws Mistake "stale-handle"
  const Mesh& at(MeshHandle which, Place place = Place::here()) const;
  const Texture& at(TextureHandle which, Place place = Place::here()) const;
  const Material& at(MaterialHandle which, Place place = Place::here()) const;
  const Node& at(NodeHandle which, Place place = Place::here()) const;
  const Light& at(LightHandle which, Place place = Place::here()) const;
  const AmbientLight& at(AmbientLightHandle which, Place place = Place::here()) const;
  const Environment& at(EnvironmentHandle which, Place place = Place::here()) const;
  const Fog& at(FogHandle which, Place place = Place::here()) const;
  const View& at(ViewHandle which, Place place = Place::here()) const;

  /// Is the node still there? No removed one is, nor an invalid handle.
  bool has(NodeHandle node) const { return nodes_.slots.is_valid(node); }

  /// The handle of a node by its number; invalid where it was removed.
  NodeHandle node_handle(std::uint32_t number) const { return nodes_.slots.handle<struct NodeKind>(number); }

  /// The numbers of all nodes, parents before children.
  std::span<const std::uint32_t> parents_first() const { return parents_first_; }

  /// Is every parent's number lower than those of its children? So it is until set_parent says otherwise.
  bool is_in_order() const { return in_order_; }

  /// The same scene without the empty places of what was removed, in an order in which parents come first; numbers and
  /// handles are others.
  Scene packed() const;

  const std::vector<Mesh>& meshes() const { return meshes_.things; }
  const std::vector<std::string>& mesh_names() const { return mesh_names_; }
  const std::vector<Texture>& textures() const { return textures_.things; }
  const std::vector<Material>& materials() const { return materials_.things; }
  const std::vector<Node>& nodes() const { return nodes_.things; }
  const std::vector<Light>& lights() const { return lights_.things; }
  const std::vector<AmbientLight>& ambient_lights() const { return ambient_lights_.things; }
  const std::vector<Environment>& environments() const { return environments_.things; }
  const std::vector<Fog>& fogs() const { return fogs_.things; }
  const std::vector<Variant>& variants() const { return variants_.things; }
  const std::vector<View>& views() const { return views_.things; }

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

  /// By name; invalid when there is none.
  LightHandle light_handle(std::string_view name) const;
  AmbientLightHandle ambient_light_handle(std::string_view name) const;
  EnvironmentHandle environment_handle(std::string_view name) const;
  FogHandle fog_handle(std::string_view name) const;
  ViewHandle view_handle(std::string_view name) const;

  const SceneVersions& versions() const { return versions_; }

  /// Nodes whose local transform was set since, in that order, some perhaps several times; nothing when that is longer
  /// ago than is remembered: any may have been then. @param since  SceneVersions::nodes
  std::optional<std::span<const std::uint32_t>> nodes_set_since(std::uint64_t since) const;

  /// SceneVersions::meshes when the vertices of a mesh were last changed; 0: never.
  std::uint64_t mesh_version(std::uint32_t mesh) const { return mesh_versions_[mesh]; }

  std::size_t triangle_count() const;  ///< as drawn: meshes count once for each node that shows them

  /// All tags of nodes, each once, sorted.
  std::vector<std::string> tags() const;
  bool has_tag(std::string_view tag) const { return tags_.contains(tag); }

  bool has_light_tag(std::string_view tag) const { return light_tags_.contains(tag); }

  /// Is there a light of any kind that has this name or tag?
  bool has_light(std::string_view name_or_tag) const;

  /// By node: is it chosen? Hidden nodes are not.
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

  /// By node: may its place change, by time or by the program? Others are static.
  std::vector<bool> moving_nodes() const;

  /// By node: may its place or its shape change?
  std::vector<bool> changing_nodes() const;

  /// By node: is it hidden, by itself or with one that it hangs on?
  std::vector<bool> hidden_nodes() const;

  /// By node: does its place depend on the time?
  std::vector<bool> timed_nodes() const;

 private:
  /// Things of one kind, their handles, and the slots of these by name.
  template <class Thing>
  struct List {
    std::vector<Thing> things;
    HandleSlots slots;
    std::unordered_map<std::string, std::uint32_t> by_name;

    const Thing* find(std::string_view name) const;
    template <class Kind>
    Handle<Kind> handle(std::string_view name) const;

    /// Behind the others; or, for things whose numbers are in use elsewhere, in the lowest free slot above another.
    /// @return its slot
    std::uint32_t append(Thing thing);
    std::uint32_t put(Thing thing, const std::string& name, std::uint32_t above = HandleSlots::none);

    /// Those behind it move up; or something empty takes its place.
    void erase(std::uint32_t slot);
    void vacate(std::uint32_t slot, const std::string& name, Thing empty);
  };

  static void expect_sound(const Texture& texture, const Place& place);
  void expect_sound(const Material& material, const Place& place) const;
  void expect_sound(const Light& light, const Place& place) const;
  void expect_sound(const View& view, const Place& place) const;
  void expect_sound(const Variant& variant, const Place& place) const;
  Variant& variant_there(std::string_view name, const Place& place);
  void expect_shown(const Node& node, const Place& place) const;
  void expect_parent(NodeHandle parent, std::string_view child, const Place& place) const;
  void replace_texture(TextureHandle which, Texture texture, const Place& place);
  template <class Kind, class Thing>
  const Thing& there(Handle<Kind> which, const List<Thing>& list, const char* what, const Place& place) const;
  template <class Kind, class Thing>
  Thing& there(Handle<Kind> which, List<Thing>& list, const char* what, const Place& place);
  template <class Kind, class Thing>
  void remove_from(List<Thing>& list, Handle<Kind> which, const char* what, const Place& place);
  bool light_is_taken(std::string_view name) const;
  NodeHandle put_node(Node node, std::uint32_t above, const Place& place);
  void use_mesh(MeshHandle mesh, std::uint32_t change);
  void find_order();

  List<Mesh> meshes_;
  std::vector<std::string> mesh_names_;
  std::vector<std::uint32_t> mesh_users_;     ///< by mesh: how many nodes show it
  std::vector<std::uint64_t> mesh_versions_;  ///< by mesh
  List<Texture> textures_;
  List<Material> materials_;
  List<Node> nodes_;
  List<Light> lights_;
  List<AmbientLight> ambient_lights_;
  List<Environment> environments_;
  List<Fog> fogs_;
  List<Variant> variants_;
  List<View> views_;
  std::map<std::string, std::uint32_t, std::less<>> tags_, light_tags_;  ///< how many have each
  std::vector<std::uint32_t> parents_first_;
  std::vector<std::uint32_t> child_counts_;  ///< by node
  bool in_order_ = true;
  SceneVersions versions_;
  std::vector<std::uint32_t> set_nodes_;  ///< the latest, see nodes_set_since
};

}  // namespace periscena
