#include <periscena/batch/draw_list.h>

#include <algorithm>
#include <cmath>
#include <tuple>

namespace periscena::batch {
namespace {

// The key, from its highest bit: 1 blended, 26 state, 4 primitive, 1 winding, 32 mesh. All but the mesh make a run.
constexpr int mesh_bits = 32, mirrored_at = mesh_bits, primitive_at = mirrored_at + 1, state_at = primitive_at + 4,
              blended_at = 63;
constexpr std::uint32_t most_states = 1u << (blended_at - state_at);

std::uint64_t key_of(const Traits& traits, Primitive primitive, bool mirrored, std::uint32_t mesh) {
  return std::uint64_t{traits.blended} << blended_at | std::uint64_t{traits.state} << state_at |
         static_cast<std::uint64_t>(primitive) << primitive_at | std::uint64_t{mirrored} << mirrored_at | mesh;
}

Run run_of(std::uint64_t key) {
  Run run;
  run.blended = key >> blended_at & 1;
  run.state = static_cast<std::uint32_t>(key >> state_at) & (most_states - 1);
  run.primitive = static_cast<Primitive>(key >> primitive_at & 15);
  run.mirrored = key >> mirrored_at & 1;
  return run;
}

bool same_run(const Run& a, const Run& b) {
  return std::tuple(a.blended, a.state, a.primitive, a.mirrored) ==
         std::tuple(b.blended, b.state, b.primitive, b.mirrored);
}

}  // namespace

const std::vector<std::string>& batching_names() {
  static const std::vector<std::string> names{"automatic", "commands", "instances", "one_by_one", "merged"};
  return names;
}

Batching parse_batching(const std::string& name) {
  const auto& names = batching_names();
  return static_cast<Batching>(std::find(names.begin(), names.end(), name) - names.begin());
}

std::vector<MeshBounds> mesh_bounds(const Scene& scene) {
  std::vector<MeshBounds> bounds;
  for (const Mesh& mesh : scene.meshes()) {
    MeshBounds& found = bounds.emplace_back(MeshBounds{mesh.bounds(), -1});
    if (found.box.empty()) continue;
    const Vec3 middle = found.box.center();
    float farthest = 0;
    for (const Vec3& position : mesh.positions) farthest = std::max(farthest, (position - middle).squaredNorm());
    found.radius = std::sqrt(farthest);
  }
  return bounds;
}

void place(BoundsSet& bounds, std::size_t index, const MeshBounds& mesh, const Transform& world) {
  const Sphere ball = Sphere{mesh.box.center(), mesh.radius}.transformed(world);
  bounds.set(index, mesh.box.transformed(world), ball.radius);
}

void DrawList::sort(const Scene& scene, std::span<const bool> mirrored, std::span<const Traits> traits,
                    const std::vector<bool>& chosen) {
  const auto& scene_nodes = scene.nodes();
  items_.clear();
  for (std::uint32_t i = 0; i < scene_nodes.size(); ++i) {
    const MeshHandle mesh = scene_nodes[i].mesh;
    if (!mesh.valid() || (!chosen.empty() && !chosen[i])) continue;
    const Traits own = traits.empty() ? Traits{} : traits[i];
    items_.push_back({key_of(own, scene.meshes()[mesh.index].primitive, mirrored[i] && !own.any_winding, mesh.index), i,
                      mesh.index});
  }
  std::sort(items_.begin(), items_.end(),
            [](const Item& a, const Item& b) { return std::tuple(a.key, a.node) < std::tuple(b.key, b.node); });
  const auto blended =
      std::find_if(items_.begin(), items_.end(), [](const Item& item) { return item.key >> blended_at; });
  opaque_ = static_cast<std::size_t>(blended - items_.begin());
  nodes_.reserve(items_.size());
  commands_.reserve(items_.size());
  runs_.reserve(items_.size());
  blended_.reserve(items_.size() - opaque_);
}

void DrawList::append(const Item& item) {
  const bool one_each = batching_ == Batching::commands || batching_ == Batching::one_by_one;
  const bool one_call_each = batching_ == Batching::instances || batching_ == Batching::one_by_one;
  const Run run = run_of(item.key);
  const bool goes_on = !runs_.empty() && same_run(runs_.back(), run);
  const auto position = static_cast<std::uint32_t>(nodes_.size());
  nodes_.push_back(item.node);
  if (goes_on && !one_each && commands_.back().mesh == item.mesh) {
    ++commands_.back().count;
    return;
  }
  commands_.push_back({item.mesh, position, 1});
  if (!goes_on || one_call_each) {
    runs_.push_back(run);
    runs_.back().first = static_cast<std::uint32_t>(commands_.size() - 1);
  }
  ++runs_.back().count;
}

void DrawList::take_all() {
  nodes_.clear();
  commands_.clear();
  runs_.clear();
  for (const Item& item : items_) append(item);
}

void DrawList::cull(const BoundsSet& bounds, const Frustum& view, const Vec3& eye) {
  nodes_.clear();
  commands_.clear();
  runs_.clear();
  blended_.clear();
  if (items_.empty()) return;
  visible_.resize(bounds.padded_size());
  bounds.cull(view, visible_);
  for (std::size_t i = 0; i < opaque_; ++i) {
    if (visible_[items_[i].node]) append(items_[i]);
  }
  for (std::size_t i = opaque_; i < items_.size(); ++i) {
    const std::uint32_t node = items_[i].node;
    if (visible_[node]) blended_.push_back({(bounds.center(node) - eye).squaredNorm(), static_cast<std::uint32_t>(i)});
  }
  std::sort(blended_.begin(), blended_.end(), [&](const Distance& a, const Distance& b) {
    return std::tuple(-a.squared, items_[a.item].node) < std::tuple(-b.squared, items_[b.item].node);
  });
  for (const Distance& seen : blended_) append(items_[seen.item]);
}

}  // namespace periscena::batch
