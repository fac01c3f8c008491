#pragma once

#include <periscena/math/hierarchy.h>
#include <periscena/scene/mesh.h>

#include <memory>
#include <optional>
#include <span>
#include <string>
#include <unordered_map>
#include <vector>

namespace periscena {

using MeshHandle = Handle<struct MeshKind>;
using MaterialHandle = Handle<struct MaterialKind>;

/// How a surface answers light. Colours are linear.
struct Material {
  std::string name;
  Vec3 base_color = Vec3::Constant(0.8f);  ///< share of light sent back, 0..1 each
  Vec3 emission = Vec3::Zero();            ///< light of its own, nits

  /// A target that the pass reads under this name, added to the light of its own; empty for none. The picture fills one
  /// metre of the mesh's texture coordinates around 0. Passes without such a read leave it out.
  std::string shows = {};
  bool shows_mirrored = false;  ///< left and right exchanged, as a mirror does
};

/// Light from one direction, as from the sun.
struct DirectionalLight {
  std::string name;
  Vec3 direction = Vec3(0, -1, 0);  ///< that the light travels in; any length but 0
  Vec3 color = Vec3::Ones();        ///< linear, multiplied with the illuminance
  float illuminance = 1;            ///< lux on a surface that faces the light, >= 0
};

/// Light from everywhere: one colour from above, one from below, mixed by where the surface faces.
struct AmbientLight {
  std::string name;
  Vec3 sky = Vec3::Constant(0.1f);     ///< nits, linear
  Vec3 ground = Vec3::Constant(0.1f);  ///< nits, linear
};

/// A motion as a function of absolute time, so the same time gives the same place. It happens before the node's own
/// placement: axis and pivot are in the node's mesh coordinates.
struct Motion {
  enum class Kind {
    swing,  ///< to and fro about the axis, `from` to `to` and back, easing in and out like a cosine
    spin,   ///< round and round about the axis, a turn in each period
    slide,  ///< to and fro along the axis, `from` to `to` metres and back, easing like a cosine
  };
  Kind kind = Kind::swing;
  Vec3 axis = Vec3::UnitY();
  Vec3 pivot = Vec3::Zero();
  float from = 0;    ///< radians, or metres for slide
  float to = 0;      ///< radians, or metres for slide
  float period = 1;  ///< seconds, > 0
  float phase = 0;   ///< periods ahead

  /// Of a swing or slide: the share of each period that it rests at `from` (about time 0) and at `to` (half a period
  /// later). 0 or more, together less than 1.
  float hold_from = 0, hold_to = 0;

  /// Where the motion has taken a point at `seconds`.
  Transform at(double seconds) const;
};

/// A place in the tree that may show a mesh.
struct Node {
  std::string name;
  NodeHandle parent;
  MeshHandle mesh;
  MaterialHandle material;
  Transform placement = Transform::identity();  ///< to the parent's coordinates
  std::optional<Motion> motion;
};

/// A named camera.
struct View {
  std::string name;
  Camera camera;
};

/// What there is to draw: meshes, materials, a tree of nodes, lights and cameras, each found by its name.
class Scene {
 public:
  /// Names must not be taken, meshes must be sound, parents must be there before their children.
  /// @throws Mistake "taken-name", "broken-mesh", "unknown-parent", "not-finite", "bad-motion"
  MeshHandle add_mesh(std::string name, Mesh mesh, Place place = Place::here());
  MaterialHandle add_material(Material material, Place place = Place::here());
  NodeHandle add_node(Node node, Place place = Place::here());
  void add_light(DirectionalLight light, Place place = Place::here());
  void add_light(AmbientLight light, Place place = Place::here());
  void add_view(View view, Place place = Place::here());

  const std::vector<Mesh>& meshes() const { return meshes_; }
  const std::vector<std::string>& mesh_names() const { return mesh_names_; }
  const std::vector<Material>& materials() const { return materials_; }
  const std::vector<Node>& nodes() const { return nodes_; }
  const std::vector<DirectionalLight>& directional_lights() const { return directional_lights_; }
  const std::vector<AmbientLight>& ambient_lights() const { return ambient_lights_; }
  const std::vector<View>& views() const { return views_; }

  MeshHandle find_mesh(std::string_view name) const;
  MaterialHandle find_material(std::string_view name) const;
  NodeHandle find_node(std::string_view name) const;
  const DirectionalLight* find_directional_light(std::string_view name) const;
  const AmbientLight* find_ambient_light(std::string_view name) const;
  const View* find_view(std::string_view name) const;

  std::size_t triangle_count() const;  ///< as drawn: meshes count once for each node that shows them

  /// One node's world transform at a time, from those of the nodes before it. @param before  at least up to its parent
  Transform world_transform(std::uint32_t node, double seconds, std::span<const Transform> before) const;

  /// World transforms of all nodes at a time, in one sweep, without touching the heap.
  /// @param into  as many as there are nodes
  void world_transforms(double seconds, std::span<Transform> into) const;

 private:
  /// Where names are, for scenes of many thousand nodes.
  using Index = std::unordered_map<std::string, std::uint32_t>;

  Index mesh_index_, material_index_, node_index_;
  std::vector<Mesh> meshes_;
  std::vector<std::string> mesh_names_;
  std::vector<Material> materials_;
  std::vector<Node> nodes_;
  std::vector<DirectionalLight> directional_lights_;
  std::vector<AmbientLight> ambient_lights_;
  std::vector<View> views_;
};

}  // namespace periscena
