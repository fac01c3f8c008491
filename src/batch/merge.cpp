#include <periscena/batch/merge.h>

#include <fmt/format.h>

#include <algorithm>
#include <map>
#include <set>
#include <tuple>

namespace periscena::batch {

/// What an object was when it was merged.
struct Signature {
  std::uint32_t node;
  std::uint64_t mesh;  ///< see MergeMemory::mesh_ids
  Transform world;

  bool operator==(const Signature& other) const {
    return node == other.node && mesh == other.mesh && world.matrix() == other.world.matrix();
  }
};

struct RememberedGroup {
  std::vector<Signature> pieces;
  std::vector<Mesh> meshes = {};         ///< that they became
  std::vector<std::uint32_t> gone = {};  ///< nodes whose objects are in these
};

struct MergeMemory {
  using Groups = std::map<std::pair<std::uint32_t, std::set<std::string>>, RememberedGroup>;

  MergeLimits limits = {};
  Groups groups = {};             ///< by material and tags
  std::vector<Mesh> meshes = {};  ///< of the scene; they keep their values, so that no other has the same place
  std::vector<std::uint64_t> mesh_ids = {};  ///< by mesh: another whenever it is another
  std::uint64_t last_id = 0;

  void look_at(const std::vector<Mesh>& now) {
    mesh_ids.resize(now.size());
    meshes.resize(now.size());
    for (std::size_t i = 0; i < now.size(); ++i) {
      if (mesh_ids[i] != 0 && meshes[i].is_copy_of(now[i])) continue;
      mesh_ids[i] = ++last_id;
      meshes[i] = now[i];
    }
  }
};

namespace {

/// What may become one mesh.
struct GroupKey {
  std::uint32_t material;
  std::uint32_t tags;  ///< number in TagSets

  auto operator<=>(const GroupKey&) const = default;
};

/// Sets of tags, by their nodes' own and those of their parents; each is there once.
class TagSets {
 public:
  TagSets() { number({}); }

  /// The set of a node. @param above  that of its parent; 0: it has none
  std::uint32_t below(std::uint32_t above, const std::vector<std::string>& own) {
    if (own.empty()) return above;
    std::set<std::string> all = *sets_[above];
    all.insert(own.begin(), own.end());
    return number(std::move(all));
  }

  const std::set<std::string>& at(std::uint32_t number) const { return *sets_[number]; }

 private:
  std::uint32_t number(std::set<std::string> set) {
    const auto [known, added] = numbers_.emplace(std::move(set), static_cast<std::uint32_t>(sets_.size()));
    if (added) sets_.push_back(&known->first);
    return known->second;
  }

  std::map<std::set<std::string>, std::uint32_t> numbers_;
  std::vector<const std::set<std::string>*> sets_;
};

struct Piece {
  std::uint32_t node;
  Vec3 middle;
  std::size_t triangles, vertices;
};

class Merging {
 public:
  Merging(const Scene& scene, MergeMemory& memory)
      : scene_(scene),
        limits_(memory.limits),
        memory_(memory),
        worlds_(scene.nodes().size(), Transform::identity()),
        gone_(scene.nodes().size()) {
    scene.world_transforms(0, worlds_);
    for (const Mesh& mesh : scene.meshes()) bounds_.push_back(mesh.bounds());
    memory.look_at(scene.meshes());
  }

  Merge run() {
    std::map<GroupKey, std::vector<Piece>> groups = find_groups();
    if (const std::size_t triangles = triangles_of(groups); triangles > limits_.triangles_in_all)
      return {.scene = {}, .too_many = triangles};
    // By the tags themselves, not by their numbers: those hang on the order of the nodes.
    std::vector<std::pair<const GroupKey, std::vector<Piece>>*> in_order;
    for (auto& group : groups) in_order.push_back(&group);
    std::sort(in_order.begin(), in_order.end(), [&](const auto* a, const auto* b) {
      return std::tie(a->first.material, tag_sets_.at(a->first.tags)) <
             std::tie(b->first.material, tag_sets_.at(b->first.tags));
    });
    MergeMemory::Groups now;
    for (auto* group : in_order) {
      if (group->second.size() >= limits_.fewest) now.insert(merged_group(group->first, group->second));
    }
    memory_.groups = std::move(now);
    if (merged_.empty()) return {};
    return {.scene = rebuilt(),
            .objects = static_cast<std::size_t>(std::count(gone_.begin(), gone_.end(), true)),
            .meshes = merged_.size()};
  }

 private:
  struct Merged {
    GroupKey key;
    Mesh mesh;
  };

  std::map<GroupKey, std::vector<Piece>> find_groups() {
    const std::vector<bool> moves = scene_.changing_nodes(), hidden = scene_.hidden_nodes();
    std::vector<bool> chosen_singly(scene_.nodes().size());
    for (const Variant& variant : scene_.variants()) {
      for (const auto& choice : variant.choices) chosen_singly[choice.first.index] = true;
    }
    std::vector<std::uint32_t> tags(scene_.nodes().size());
    std::map<GroupKey, std::vector<Piece>> groups;
    for (const std::uint32_t i : scene_.parents_first()) {
      const Node& node = scene_.nodes()[i];
      tags[i] = tag_sets_.below(node.parent.valid() ? tags[node.parent.index] : 0, node.tags);
      if (!moves[i] && !hidden[i] && !chosen_singly[i] && may_merge(node, worlds_[i])) {
        const Mesh& mesh = scene_.meshes()[node.mesh.index];
        const Vec3 middle = worlds_[i].apply_to_point(bounds_[node.mesh.index].center());
        groups[{node.material.index, tags[i]}].push_back({i, middle, mesh.triangle_count(), mesh.positions.size()});
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
    const Box bounds = bounds_[node.mesh.index].transformed(world);
    // Flat or boundless ones have no normals, or no place, that could be baked.
    const float volume = world.matrix().corner<3>().determinant();
    return plain && !ordered && volume != 0 && is_finite(bounds.min) && is_finite(bounds.max);
  }

  /// Merges a group, or takes what it became before.
  MergeMemory::Groups::value_type merged_group(const GroupKey& key, std::span<Piece> pieces) {
    std::vector<Signature> signatures;
    signatures.reserve(pieces.size());
    for (const Piece& piece : pieces) {
      const std::uint32_t mesh = scene_.nodes()[piece.node].mesh.index;
      signatures.push_back({piece.node, memory_.mesh_ids[mesh], worlds_[piece.node]});
    }
    MergeMemory::Groups::key_type name{key.material, tag_sets_.at(key.tags)};
    const auto known = memory_.groups.find(name);
    if (known != memory_.groups.end() && known->second.pieces == signatures) {
      for (const Mesh& mesh : known->second.meshes) merged_.push_back({key, mesh});
      for (const std::uint32_t node : known->second.gone) gone_[node] = true;
      return {std::move(name), std::move(known->second)};
    }
    const std::size_t first = merged_.size();
    split(key, pieces);
    RememberedGroup group{std::move(signatures), {}};
    for (std::size_t i = first; i < merged_.size(); ++i) group.meshes.push_back(merged_[i].mesh);
    for (const Piece& piece : pieces) {
      if (gone_[piece.node]) group.gone.push_back(piece.node);
    }
    return {std::move(name), std::move(group)};
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
    std::size_t vertices = 0, triangles = 0;
    for (const Piece& piece : pieces) {
      vertices += piece.vertices;
      triangles += piece.triangles;
    }
    builder.vertices.reserve(vertices);
    builder.indices.reserve(3 * triangles);
    for (const Piece& piece : pieces) {
      builder.append(scene_.meshes()[scene_.nodes()[piece.node].mesh.index], worlds_[piece.node]);
      gone_[piece.node] = true;
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
      if (gone_[i])
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
      const std::set<std::string>& tags = tag_sets_.at(one.key.tags);
      node.tags.assign(tags.begin(), tags.end());
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
  MergeMemory& memory_;
  std::vector<Transform> worlds_;
  std::vector<Box> bounds_;  ///< by mesh
  std::vector<bool> gone_;   ///< by node: was it merged?
  TagSets tag_sets_;
  std::vector<Merged> merged_;
};

}  // namespace

Merger::Merger(const MergeLimits& limits) : memory_(new MergeMemory{.limits = limits}) {}

Merger::Merger(Merger&&) noexcept = default;
Merger& Merger::operator=(Merger&&) noexcept = default;
Merger::~Merger() = default;

Merge Merger::merge(const Scene& scene) {
  return Merging(scene, *memory_).run();
}

Merge merged(const Scene& scene, const MergeLimits& limits) {
  return Merger(limits).merge(scene);
}

}  // namespace periscena::batch
