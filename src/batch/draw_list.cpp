#include <periscena/base/error.h>
#include <periscena/batch/draw_list.h>

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <tuple>

namespace periscena::batch {
namespace {

// The key, from its highest bit: 1 blended, 20 state, 6 block of objects, 4 primitive, 1 winding, 32 mesh. All but the
// mesh make a run.
constexpr int mesh_bits = 32, mirrored_at = mesh_bits, primitive_at = mirrored_at + 1, block_at = primitive_at + 4,
              state_at = block_at + 6, blended_at = 63;
constexpr std::uint32_t most_states = 1u << (blended_at - state_at), most_blocks = 1u << (state_at - block_at);

std::uint64_t key_of(const Traits& traits, std::uint32_t object_block, Primitive primitive, bool mirrored,
                     std::uint32_t mesh) {
  return std::uint64_t{traits.blended} << blended_at | std::uint64_t{traits.state} << state_at |
         std::uint64_t{object_block} << block_at | static_cast<std::uint64_t>(primitive) << primitive_at |
         std::uint64_t{mirrored} << mirrored_at | mesh;
}

/// @throws Mistake "over-device-limit"
void expect_in_key(std::size_t count, std::uint32_t most, const char* what) {
  if (count <= most) return;
  throw Mistake("over-device-limit", {},
                fmt::format("the scene wants {} {}, and a list of draws takes {}", count, what, most),
                "draw it as several scenes");
}

Run run_of(std::uint64_t key) {
  Run run;
  run.blended = key >> blended_at & 1;
  run.state = static_cast<std::uint32_t>(key >> state_at) & (most_states - 1);
  run.object_block = static_cast<std::uint32_t>(key >> block_at) & (most_blocks - 1);
  run.primitive = static_cast<Primitive>(key >> primitive_at & 15);
  run.mirrored = key >> mirrored_at & 1;
  return run;
}

bool same_run(const Run& a, const Run& b) {
  return std::tuple(a.blended, a.state, a.object_block, a.primitive, a.mirrored, a.view) ==
         std::tuple(b.blended, b.state, b.object_block, b.primitive, b.mirrored, b.view);
}

}  // namespace

const std::vector<std::string>& choices_of(Batching) {
  static const std::vector<std::string> names{"automatic", "unmerged", "commands", "instances", "one_by_one", "merged"};
  return names;
}

const std::vector<std::string>& choices_of(Culling) {
  static const std::vector<std::string> names{"host", "device"};
  return names;
}

const std::vector<std::string>& choices_of(Programs) {
  static const std::vector<std::string> names{"automatic", "families", "general"};
  return names;
}

const std::vector<std::string>& choices_of(LightBounds) {
  static const std::vector<std::string> names{"automatic", "none", "quads", "tiles", "clusters"};
  return names;
}

MeshBounds mesh_bounds(const Mesh& mesh) {
  MeshBounds found{mesh.bounds(), -1};
  if (found.box.empty()) return found;
  const Vec3 middle = found.box.center();
  float farthest = 0;
  for (const Vec3& position : mesh.positions) farthest = std::max(farthest, (position - middle).squared_norm());
  found.radius = std::sqrt(farthest);
  return found;
}

std::vector<MeshBounds> mesh_bounds(const Scene& scene) {
  std::vector<MeshBounds> bounds;
  for (const Mesh& mesh : scene.meshes()) bounds.push_back(mesh_bounds(mesh));
  return bounds;
}

void place(BoundsSet& bounds, std::size_t index, const MeshBounds& mesh, const Transform& world) {
  const Sphere ball = Sphere{mesh.box.center(), mesh.radius}.transformed(world);
  bounds.set(index, mesh.box.transformed(world), ball.radius);
}

void DrawList::sort(const Scene& scene, std::span<const bool> mirrored, std::span<const Traits> traits,
                    const std::vector<bool>& chosen, std::uint32_t objects_a_block) {
  const auto& scene_nodes = scene.nodes();
  items_.clear();
  expect_in_key((scene_nodes.size() + objects_a_block - 1) / objects_a_block, most_blocks, "storage blocks of objects");
  for (std::uint32_t i = 0; i < scene_nodes.size(); ++i) {
    const MeshHandle mesh = scene_nodes[i].mesh;
    if (!mesh.valid() || (!chosen.empty() && !chosen[i])) continue;
    const Traits own = traits.empty() ? Traits{} : traits[i];
    expect_in_key(own.state + std::size_t{1}, most_states, "states of materials");
    items_.push_back({key_of(own, i / objects_a_block, scene.meshes()[mesh.index].primitive,
                             mirrored[i] && !own.any_winding, mesh.index),
                      i, mesh.index, own.textures});
  }
  std::sort(items_.begin(), items_.end(), [](const Item& a, const Item& b) {
    return std::tuple(a.key, a.textures, a.node) < std::tuple(b.key, b.textures, b.node);
  });
  const auto blended =
      std::find_if(items_.begin(), items_.end(), [](const Item& item) { return item.key >> blended_at; });
  opaque_ = static_cast<std::size_t>(blended - items_.begin());
  run_ends_.clear();
  groups_.clear();
  for (std::size_t i = 0; i < opaque_; ++i) {
    const bool same_group = i > 0 && items_[i].key == items_[i - 1].key && items_[i].textures == items_[i - 1].textures;
    if (!same_group) {
      if (i > 0 && !same_run(run_of(items_[i - 1].key), run_of(items_[i].key))) run_ends_.push_back(groups_.size());
      groups_.push_back({i, i});
    }
    groups_.back().end = i + 1;
  }
  if (!groups_.empty()) run_ends_.push_back(groups_.size());
  item_nodes_.clear();
  for (const Item& item : items_) item_nodes_.push_back(item.node);
  nodes_.resize(items_.size() * most_views_);
  commands_.reserve(items_.size() * most_views_);
  runs_.reserve(items_.size() * most_views_);
  blended_.reserve(items_.size() - opaque_);
}

/// Draws the nodes that were kept last. @param instances  how many of them
void DrawList::draw(const Item& item, std::uint32_t view, std::uint32_t instances) {
  const bool one_each = batching_ == Batching::commands || batching_ == Batching::one_by_one;
  const bool one_call_each = batching_ == Batching::instances || batching_ == Batching::one_by_one;
  Run run = run_of(item.key);
  run.view = view;
  const bool goes_on = !runs_.empty() && same_run(runs_.back(), run);
  if (goes_on && !one_each && commands_.back().mesh == item.mesh && commands_.back().textures == item.textures) {
    commands_.back().count += instances;
    return;
  }
  commands_.push_back({item.mesh, static_cast<std::uint32_t>(node_count_) - instances, instances, item.textures});
  if (!goes_on || one_call_each) {
    runs_.push_back(run);
    runs_.back().first = static_cast<std::uint32_t>(commands_.size() - 1);
  }
  ++runs_.back().count;
}

void DrawList::append(const Item& item, std::uint32_t view) {
  nodes_[node_count_++] = item.node;
  draw(item, view, 1);
}

/// @param view  whose visible nodes are known
void DrawList::append_visible(const Group& group, std::uint32_t view) {
  const std::uint8_t* visible = visible_[view].data();
  if (batching_ == Batching::commands || batching_ == Batching::one_by_one) {
    for (std::size_t i = group.first; i < group.end; ++i)
      if (visible[item_nodes_[i]]) append(items_[i], view);
    return;
  }
  // Each is written, and the next one over those that are not visible: without a branch that can't be foreseen.
  std::size_t kept = node_count_;
  for (std::size_t i = group.first; i < group.end; ++i) {
    const std::uint32_t node = item_nodes_[i];
    nodes_[kept] = node;
    kept += visible[node];
  }
  const auto instances = static_cast<std::uint32_t>(kept - node_count_);
  node_count_ = kept;
  if (instances > 0) draw(items_[group.first], view, instances);
}

void DrawList::clear() {
  node_count_ = 0;
  commands_.clear();
  runs_.clear();
  blended_.clear();
  seen_ = 0;
}

void DrawList::take_all() {
  clear();
  for (const Item& item : items_) append(item);
  seen_ = items_.size();
}

void DrawList::cull(const BoundsSet& bounds, const Frustum& view, const Vec3& eye) {
  cull(bounds, std::span(&view, 1), eye);
}

void DrawList::cull(const BoundsSet& bounds, std::span<const Frustum> views, const Vec3& eye) {
  clear();
  if (items_.empty() || views.empty()) return;
  visible_.resize(std::max(visible_.size(), views.size()));
  for (std::size_t view = 0; view < views.size(); ++view) {
    visible_[view].resize(bounds.padded_size());
    bounds.cull(views[view], visible_[view]);
  }
  const auto count = static_cast<std::uint32_t>(views.size());
  nodes_.resize(std::max(nodes_.size(), items_.size() * views.size()));
  std::size_t first = 0;
  for (const std::size_t end : run_ends_) {
    for (std::uint32_t view = 0; view < count; ++view)
      for (std::size_t i = first; i < end; ++i) append_visible(groups_[i], view);
    first = end;
  }
  for (std::size_t i = opaque_; i < items_.size(); ++i) {
    const std::uint32_t node = items_[i].node;
    if (seen(node, count))
      blended_.push_back({(bounds.center(node) - eye).squared_norm(), static_cast<std::uint32_t>(i)});
  }
  std::sort(blended_.begin(), blended_.end(), [&](const Distance& a, const Distance& b) {
    return std::tuple(-a.squared, items_[a.item].node) < std::tuple(-b.squared, items_[b.item].node);
  });
  for (std::uint32_t view = 0; view < count; ++view) {
    for (const Distance& one : blended_) {
      if (visible_[view][items_[one.item].node]) append(items_[one.item], view);
    }
  }
  seen_ = node_count_;
  if (count == 1) return;
  seen_ = static_cast<std::size_t>(
      std::count_if(items_.begin(), items_.end(), [&](const Item& item) { return seen(item.node, count); }));
}

/// By any of so many views.
bool DrawList::seen(std::uint32_t node, std::uint32_t views) const {
  for (std::uint32_t view = 0; view < views; ++view) {
    if (visible_[view][node]) return true;
  }
  return false;
}

}  // namespace periscena::batch
