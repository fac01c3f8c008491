#include <periscena/batch/merge.h>

#include <fmt/format.h>

#include <algorithm>
#include <map>
#include <set>
#include <tuple>

namespace periscena::batch {
namespace {

/// What may become one mesh.
struct GroupKey {
  std::uint32_t material;
  std::set<std::string> tags;

  auto operator<=>(const GroupKey&) const = default;
};

struct Piece {
  std::uint32_t node;
  Vec3 middle;
  std::size_t triangles, vertices;
};

class Merging {
 public:
  Merging(const Scene& scene, const MergeLimits& limits)
      : scene_(scene), limits_(limits), worlds_(scene.nodes().size(), Transform::identity()) {
    scene.world_transforms(0, worlds_);
  }

  Merge run() {
    std::map<GroupKey, std::vector<Piece>> groups = find_groups();
    if (const std::size_t triangles = triangles_of(groups); triangles > limits_.triangles_in_all)
      return {.scene = {}, .too_many = triangles};
    for (auto& [key, pieces] : groups) {
      if (pieces.size() >= limits_.fewest) split(key, pieces);
    }
    if (merged_.empty()) return {};
    return {.scene = rebuilt(), .objects = gone_.size(), .meshes = merged_.size()};
  }

 private:
  struct Merged {
    GroupKey key;
    Mesh mesh;
  };

  std::map<GroupKey, std::vector<Piece>> find_groups() {
    const std::vector<bool> moves = scene_.moving_nodes(), hidden = scene_.hidden_nodes();
    std::set<std::uint32_t> chosen_singly;
    for (const Variant& variant : scene_.variants()) {
      for (const auto& choice : variant.choices) chosen_singly.insert(choice.first.index);
    }
    std::vector<std::set<std::string>> tags(scene_.nodes().size());
    std::map<GroupKey, std::vector<Piece>> groups;
    for (const std::uint32_t i : scene_.parents_first()) {
      const Node& node = scene_.nodes()[i];
      if (node.parent.valid()) tags[i] = tags[node.parent.index];
      tags[i].insert(node.tags.begin(), node.tags.end());
      if (!moves[i] && !hidden[i] && !chosen_singly.contains(i) && may_merge(node, worlds_[i])) {
        const Mesh& mesh = scene_.meshes()[node.mesh.index];
        groups[{node.material.index, tags[i]}].push_back(
            {i, worlds_[i].apply_to_point(mesh.bounds().center()), mesh.triangle_count(), mesh.positions.size()});
      }
    }
    return groups;
  }

  /// Of those groups that are large enough.
  std::size_t triangles_of(const std::map<GroupKey, std::vector<Piece>>& groups) const {
    std::size_t sum = 0;
    for (const auto& [key, pieces] : groups) {
      if (pieces.size() < limits_.fewest) continue;
      for (const Piece& piece : pieces) sum += piece.triangles;
    }
    return sum;
  }

  bool may_merge(const Node& node, const Transform& world) const {
    if (!node.mesh.valid() || !node.material.valid()) return false;
    const Mesh& mesh = scene_.meshes()[node.mesh.index];
    const bool plain = mesh.primitive == Primitive::triangles && mesh.colors.empty() && mesh.second_uv.empty() &&
                       mesh.triangle_count() <= limits_.triangles_each;
    const bool ordered = scene_.materials()[node.material.index].alpha_mode == Material::AlphaMode::blend;
    const Box bounds = mesh.bounds().transformed(world);
    // Flat or boundless ones have no normals, or no place, that could be baked.
    const float volume = world.matrix().corner<3>().determinant();
    return plain && !ordered && volume != 0 && is_finite(bounds.min) && is_finite(bounds.max);
  }

  /// Halves along the longest axis until each part is small enough.
  void split(const GroupKey& key, std::span<Piece> pieces) {
    std::size_t triangles = 0, vertices = 0;
    Box box;
    for (const Piece& piece : pieces) {
      triangles += piece.triangles;
      vertices += piece.vertices;
      box.include(piece.middle);
    }
    if (pieces.size() == 1) return;  // it stays as it is
    if (triangles <= limits_.triangles && vertices <= limits_.vertices) return bake(key, pieces);
    const int axis = box.size().largest_axis();
    std::sort(pieces.begin(), pieces.end(), [axis](const Piece& a, const Piece& b) {
      return std::tuple(a.middle[axis], a.node) < std::tuple(b.middle[axis], b.node);
    });
    split(key, pieces.first(pieces.size() / 2));
    split(key, pieces.subspan(pieces.size() / 2));
  }

  void bake(const GroupKey& key, std::span<Piece> pieces) {
    std::sort(pieces.begin(), pieces.end(), [](const Piece& a, const Piece& b) { return a.node < b.node; });
    MeshBuilder builder;
    for (const Piece& piece : pieces) {
      builder.append(scene_.meshes()[scene_.nodes()[piece.node].mesh.index], worlds_[piece.node]);
      gone_.insert(piece.node);
    }
    merged_.push_back({key, builder.build()});
  }

  /// The same scene, its nodes under the same numbers: those that were baked show nothing, and meshes that nothing
  /// shows any more are left out.
  Scene rebuilt() const {
    Scene made = scene_;
    std::vector<bool> shown(scene_.meshes().size());
    for (std::uint32_t i = 0; i < scene_.nodes().size(); ++i) {
      const MeshHandle mesh = scene_.nodes()[i].mesh;
      if (!mesh.valid()) continue;
      if (gone_.contains(i))
        made.set_mesh(scene_.node_handle(i), {}, scene_.nodes()[i].material);
      else
        shown[mesh.index] = true;
    }
    for (std::uint32_t i = 0; i < shown.size(); ++i) {
      const MeshHandle mesh = scene_.find_mesh(scene_.mesh_names()[i]);
      if (!shown[i] && mesh.index == i) made.remove(mesh);
    }
    for (const Merged& one : merged_) {
      Node node;
      node.name = free_name(made, fmt::format("merged, {}", scene_.materials()[one.key.material].name));
      node.mesh = made.add_mesh(node.name, one.mesh);
      node.material = made.find_material(scene_.materials()[one.key.material].name);
      node.tags.assign(one.key.tags.begin(), one.key.tags.end());
      made.append_node(std::move(node));
    }
    return made;
  }

  static std::string free_name(const Scene& scene, const std::string& wanted) {
    std::string name = wanted;
    for (int number = 2; scene.find_node(name).valid() || scene.find_mesh(name).valid(); ++number)
      name = fmt::format("{} {}", wanted, number);
    return name;
  }

  const Scene& scene_;
  MergeLimits limits_;
  std::vector<Transform> worlds_;
  std::set<std::uint32_t> gone_;
  std::vector<Merged> merged_;
};

}  // namespace

Merge merged(const Scene& scene, const MergeLimits& limits) {
  return Merging(scene, limits).run();
}

}  // namespace periscena::batch
