#include "draw/scene/scene_buffers.h"

#include <periscena/base/error.h>
#include <periscena/base/names.h>
#include <periscena/batch/geometry.h>

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numeric>

namespace periscena::draw {
namespace {

constexpr std::size_t fewest_scattered = 64;  // fewer are copied

}  // namespace

NodeTree::NodeTree(const Scene& scene) : first_(scene.nodes().size() + 1) {
  for (const Node& node : scene.nodes()) {
    if (node.parent.valid()) ++first_[node.parent.index + 1];
  }
  std::partial_sum(first_.begin(), first_.end(), first_.begin());
  children_.resize(first_.back());
  std::vector<std::uint32_t> next = first_;
  for (std::uint32_t i = 0; i < scene.nodes().size(); ++i) {
    if (const NodeHandle parent = scene.nodes()[i].parent; parent.valid()) children_[next[parent.index]++] = i;
  }
}

SceneBuffers::SceneBuffers(std::shared_ptr<const Scene> scene, std::shared_ptr<const Scene> source,
                           std::shared_ptr<TextureArrays> textures, std::shared_ptr<SceneMeshes> meshes,
                           gl::Device& device)
    : scene_(std::move(scene)),
      source_(std::move(source)),
      room_{static_cast<std::size_t>(device.capabilities().limit("MAX_SHADER_STORAGE_BLOCK_SIZE"))},
      meshes_(std::move(meshes)),
      materials_(*scene_, std::move(textures), device.capabilities().texture_handles, room_),
      mesh_bounds_(batch::mesh_bounds(*scene_)),
      worlds_(scene_->nodes().size(), Transform::identity()),
      bounds_(scene_->nodes().size()),
      mirrored_(std::make_unique<bool[]>(scene_->nodes().size())),
      motions_(device, *scene_, room_.most_bytes),
      blocks_(scene_->nodes().size()),
      moving_(moved_by_cpu(*scene_, motions_)),
      tree_(*scene_),
      placed_at_(scene_->nodes().size()) {
  to_place_.reserve(placed_at_.size());
  if (!scene_->is_in_order()) {
    ranks_.resize(placed_at_.size());
    for (std::uint32_t rank = 0; const std::uint32_t node : scene_->parents_first()) ranks_[node] = rank++;
  }
  room_.expect("vertex colours", meshes_->colors().size());
  room_.expect("second texture coordinates", meshes_->second_uvs().size());
  for (std::size_t i = 0; i < blocks_.size(); ++i) {
    const Node& node = scene_->nodes()[i];
    if (!node.mesh.valid()) continue;
    blocks_[i].colors = meshes_->colors_of(node.mesh);
    blocks_[i].second_uv = meshes_->second_uv_of(node.mesh);
  }
  if (blocks_.empty()) return;
  objects_ = gl::Buffer::writable(blocks_.size() * sizeof(ObjectBlock), "scene objects");
  const auto is_dynamic = [](const Node& node) { return node.dynamic; };
  if (blocks_.size() >= 2 * fewest_scattered && blocks_.size() <= objects_a_block() &&
      std::ranges::any_of(source_->nodes(), is_dynamic))
    scatter_.emplace(device);
  const auto most = static_cast<std::size_t>(device.capabilities().limit("MAX_TEXTURE_BUFFER_SIZE"));
  const std::size_t texels = blocks_.size() * sizeof(ObjectBlock) / texel_bytes;
  if (blocks_.size() > objects_a_block() || texels > most || !materials_.make_texels(most)) return;
  object_texels_ = gl::BufferTexture(objects_, Format::rgba32ui, "scene objects");
}

std::vector<std::string> SceneBuffers::texel_lines() const {
  if (!has_texels()) return {};
  return {"#define SCENE_TEXELS", fmt::format("#define MATERIAL_TEXELS {}", sizeof(MaterialBlock) / texel_bytes)};
}

void SceneBuffers::put_texels(const gl::Program& program, const Dress& dress, BoundTextures& into) const {
  if (!has_texels()) return;
  into.put(program, "object_texels", object_texels_.name(), 0);
  into.put(program, "material_number_texels", dress.number_texels.name(), 0);
  into.put(program, "material_texels", materials_.texels().name(), 0);
}

std::shared_ptr<SceneBuffers> SceneBuffers::shared(gl::PassSetup& setup, const std::shared_ptr<const Scene>& scene,
                                                   batch::Batching batching) {
  setup.watch([scene] { return scene->versions().structure; });
  const std::shared_ptr<const MergedTwin> twin = merged_twin(setup, scene, batching);
  const std::shared_ptr<const Scene>& drawn = twin ? twin->scene : scene;
  auto shared = setup.shared().get<SceneBuffers>(drawn, [&] {
    // Merging leaves textures as they are.
    const auto textures = setup.shared().get_fitting<TextureArrays>(
        scene, [&](const TextureArrays& known) { return known.fits(*scene); },
        [&] { return std::make_shared<TextureArrays>(*scene); });
    textures->take(*scene);
    // Merged scenes come and go; what merges them stays.
    const std::shared_ptr<const void> owner = drawn == scene ? std::shared_ptr<const void>(scene) : twin->merger;
    const auto meshes = setup.shared().get_fitting<SceneMeshes>(
        owner, [&](const SceneMeshes& known) { return known.fits(*drawn); },
        [&] { return std::make_shared<SceneMeshes>(*drawn); });
    meshes->take(*drawn);
    auto made = std::make_shared<SceneBuffers>(drawn, scene, textures, meshes, setup.device());
    if (twin) made->merging_ = twin->told;
    return made;
  });
  if (twin) shared->keep(twin);
  return shared;
}

std::uint32_t SceneBuffers::objects_a_block() const {
  static_assert(64 * sizeof(std::uint32_t) % 256 == 0);  // the materials of objects lie alike
  return room_.elements<ObjectBlock, 64>(Dress::no_receiver);
}

void SceneBuffers::expect_one_block(const char* what) const {
  if (blocks_.size() <= objects_a_block()) return;
  throw Mistake(
      "over-device-limit", {},
      fmt::format("{} wants all {} objects of the scene in one storage block, and one of this device holds {}", what,
                  blocks_.size(), objects_a_block()),
      "draw the scene as several scenes");
}

std::vector<NodeRange> moved_by_cpu(const Scene& scene, const Motions& motions) {
  std::vector<NodeRange> ranges;
  const std::vector<bool> moves = scene.timed_nodes();
  for (const std::uint32_t i : scene.parents_first()) {
    if (!moves[i] || motions.moved_here()[i]) continue;
    if (!ranges.empty() && ranges.back().first + ranges.back().count == i) {
      ++ranges.back().count;
    } else {
      ranges.push_back({i, 1});
    }
  }
  return ranges;
}

void SceneBuffers::bind_objects(gl::State& state, std::uint32_t block) const {
  bind_object_block(state, gl::binding::object_storage, objects_, block);
}

void SceneBuffers::bind_object_block(gl::State& state, std::uint32_t binding, const gl::Buffer& objects,
                                     std::uint32_t block) const {
  bind_block(state, binding, objects, objects_a_block() * sizeof(ObjectBlock), block);
}

void SceneBuffers::bind(gl::State& state, const Dress& dress, std::uint32_t block) const {
  bind_objects(state, block);
  bind_block(state, gl::binding::material_number_storage, dress.material_numbers,
             objects_a_block() * sizeof(std::uint32_t), block);
  state.bind_storage_block(gl::binding::mesh_color_storage, meshes_->colors().name());
  state.bind_storage_block(gl::binding::second_uv_storage, meshes_->second_uvs().name());
}

void SceneBuffers::keep(std::shared_ptr<const MergedTwin> twin) {
  if (std::find(twins_.begin(), twins_.end(), twin) == twins_.end()) twins_.push_back(std::move(twin));
}

Diagnostics SceneBuffers::diagnostics() const {
  Diagnostics found;
  if (bounds_.unsound_count() == 0) return found;
  std::vector<std::string> names;
  for (std::size_t i = 0; i < bounds_.size(); ++i) {
    if (!bounds_.is_sound(i) && !scene_->nodes()[i].name.empty()) names.push_back(scene_->nodes()[i].name);
  }
  const std::size_t count = bounds_.unsound_count();
  found.warning("bounds-not-finite", {},
                fmt::format("{} can't be told to be in view or not, and {} always drawn{}", counted(count, "object"),
                            count == 1 ? "is" : "are", names.empty() ? "" : ": " + quoted_list(names, 3)),
                "look for numbers that are not finite in where they stand and move");
  return found;
}

void SceneBuffers::place_node(std::uint32_t i, double seconds) {
  const Node& node = scene_->nodes()[i];
  const Scene& placed = i < source_->nodes().size() ? *source_ : *scene_;
  worlds_[i] = placed.world_transform(i, seconds, worlds_);
  // Of nodes that show nothing, too: texts follow them.
  blocks_[i].place(worlds_[i]);
  if (!node.mesh.valid()) return;
  const bool mirrored = worlds_[i].mirrors();
  if (mirrored != mirrored_[i]) ++windings_;
  mirrored_[i] = mirrored;
  bound_node(i);
}

void SceneBuffers::bound_node(std::uint32_t i) {
  const batch::MeshBounds& mesh = mesh_bounds_[scene_->nodes()[i].mesh.index];
  if (motions_.moved_here()[i]) {
    bounds_.set(i, swept_bounds(*scene_, i, {mesh.box.center(), mesh.radius}));
  } else {
    batch::place(bounds_, i, mesh, worlds_[i]);
  }
}

void SceneBuffers::write_nodes(const gl::PassContext& context, NodeRange range) {
  context.write(objects_, range.first * sizeof(ObjectBlock),
                std::as_bytes(std::span(blocks_).subspan(range.first, range.count)));
}

void SceneBuffers::keep_bounds_on_device() {
  if (!bounds_blocks_.empty() || blocks_.empty()) return;
  bounds_blocks_.resize(blocks_.size());
  bounds_buffer_ = gl::Buffer::writable(blocks_.size() * sizeof(BoundsBlock), "bounds");
  bounds_missing_ = true;
}

void SceneBuffers::fill_bounds(std::uint32_t node) {
  const bool empty = !scene_->nodes()[node].mesh.valid();
  const Vec3 middle = bounds_.center(node), half = empty ? Vec3(-1, -1, -1) : bounds_.half_size(node);
  bounds_blocks_[node] = {{middle.x(), middle.y(), middle.z(), bounds_.is_sound(node) ? 0.0f : 1.0f},
                          {half.x(), half.y(), half.z(), 0}};
}

void SceneBuffers::write_bounds(const gl::PassContext& context, NodeRange range) {
  if (bounds_blocks_.empty()) return;
  for (std::uint32_t i = 0; i < range.count; ++i) fill_bounds(range.first + i);
  context.write(bounds_buffer_, range.first * sizeof(BoundsBlock),
                std::as_bytes(std::span(bounds_blocks_).subspan(range.first, range.count)));
}

void SceneBuffers::update(const gl::PassContext& context) {
  const gl::FrameTime time = context.time();
  if (updated_ == time.number) return;
  const bool first = updated_ == 0;
  const bool later = first || time.seconds != seconds_;
  const bool set = source_->versions().nodes != nodes_seen_;
  const bool reshaped = source_->versions().meshes != meshes_seen_;
  moved_ = first || set || reshaped || (later && !moving_.empty());
  changed_ = moved_ || (later && motions_.moves_anything());
  materials_.end_frame(updated_);
  materials_.follow(context, *source_);
  updated_ = time.number;
  seconds_ = time.seconds;
  if (blocks_.empty()) return;
  if (reshaped) follow_meshes(context);
  if (!later && !set) return;
  const auto set_nodes = source_->nodes_set_since(nodes_seen_);
  const bool all = first || !set_nodes;
  if (all)
    place_all(context, time.seconds);
  else if (set)
    place_set_nodes(context, *set_nodes, time.seconds);
  nodes_seen_ = source_->versions().nodes;
  if (!later && !all) return;
  motions_.run(context, objects_, time.seconds);
  for (const NodeRange range : moving_) {
    for (std::uint32_t i = range.first; i < range.first + range.count; ++i) place_node(i, time.seconds);
    write_nodes(context, range);
    write_bounds(context, range);
  }
  if (bounds_missing_) write_bounds(context, {0, static_cast<std::uint32_t>(blocks_.size())});
  bounds_missing_ = false;
}

/// Sends the vertices of meshes that the program has changed, and bounds what shows them.
void SceneBuffers::follow_meshes(const gl::PassContext& context) {
  const std::vector<Mesh>& meshes = source_->meshes();
  std::vector<bool> changed(scene_->meshes().size());
  for (std::uint32_t i = 0; i < std::min(changed.size(), meshes.size()); ++i) {
    if (source_->mesh_version(i) <= meshes_seen_) continue;
    // One that nothing shows is not among those of a merged scene.
    changed[i] = source_->mesh_names()[i] == scene_->mesh_names()[i] && meshes[i].has_shape_of(scene_->meshes()[i]);
    if (!changed[i]) continue;
    meshes_->write(context, i, meshes[i]);
    mesh_bounds_[i] = batch::mesh_bounds(meshes[i]);
  }
  meshes_seen_ = source_->versions().meshes;
  for (std::uint32_t i = 0; i < blocks_.size(); ++i) {
    const MeshHandle mesh = scene_->nodes()[i].mesh;
    if (!mesh.valid() || !changed[mesh.index]) continue;
    bound_node(i);
    write_bounds(context, {i, 1});
  }
}

void SceneBuffers::collect_below(std::uint32_t node) {
  const std::size_t first = to_place_.size();
  const auto add = [&](std::uint32_t one) {
    if (placed_at_[one] == updated_) return;  // with all below
    placed_at_[one] = updated_;
    to_place_.push_back(one);
  };
  add(node);
  for (std::size_t i = first; i < to_place_.size(); ++i) {
    for (const std::uint32_t child : tree_.children(to_place_[i])) add(child);
  }
}

/// Places what the program has moved, and what hangs on that, and sends it.
void SceneBuffers::place_set_nodes(const gl::PassContext& context, std::span<const std::uint32_t> set, double seconds) {
  to_place_.clear();
  for (const std::uint32_t node : set) collect_below(node);
  const auto before = [&](std::uint32_t a, std::uint32_t b) { return ranks_[a] < ranks_[b]; };
  if (!ranks_.empty()) std::sort(to_place_.begin(), to_place_.end(), before);
  // Without ranks, parents come before their children.
  else if (!std::is_sorted(to_place_.begin(), to_place_.end()))
    std::sort(to_place_.begin(), to_place_.end());
  for (std::size_t i = 0; i < to_place_.size(); ++i) {
    constexpr std::size_t ahead = 8;  // they lie apart, so that no device foresees which is next
    if (i + ahead < to_place_.size()) fetch_node(to_place_[i + ahead]);
    place_node(to_place_[i], seconds);
  }
  if (!ranks_.empty()) std::sort(to_place_.begin(), to_place_.end());
  send_placed_nodes(context);
}

/// Into the cache, what place_node() reads and writes.
void SceneBuffers::fetch_node(std::uint32_t number) const {
  constexpr std::size_t line = 64;
  const auto fetch = [](const auto& thing) {
    const char* bytes = reinterpret_cast<const char*>(&thing);
    for (std::size_t i = 0; i < sizeof(thing); i += line) __builtin_prefetch(bytes + i);
  };
  fetch(scene_->nodes()[number].mesh);
  if (number < source_->nodes().size()) {
    const Node& node = source_->nodes()[number];
    fetch(node.parent);
    fetch(node.placement);
    fetch(node.dynamic);
  }
  fetch(worlds_[number]);
  fetch(blocks_[number]);
}

/// Sends those of to_place_, which are in order: in ranges, or, where most of that would be what has not moved, one by
/// one.
void SceneBuffers::send_placed_nodes(const gl::PassContext& context) {
  constexpr std::uint32_t longest_gap = 64;  // what did not move is sent along, rather than in another range
  const auto ranges = [&](const auto& take) {
    for (std::size_t i = 0; i < to_place_.size();) {
      const std::uint32_t first = to_place_[i];
      std::uint32_t end = first;
      for (; i < to_place_.size() && to_place_[i] - end <= longest_gap; ++i) end = to_place_[i] + 1;
      take(NodeRange{first, end - first});
    }
  };
  std::size_t sent = 0;
  ranges([&](NodeRange range) { sent += range.count; });
  if (!scatter_ || to_place_.size() < fewest_scattered || sent < 2 * to_place_.size()) {
    return ranges([&](NodeRange range) {
      write_nodes(context, range);
      write_bounds(context, range);
    });
  }
  sent_blocks_.clear();
  for (const std::uint32_t node : to_place_) sent_blocks_.push_back(blocks_[node]);
  scatter_->write<ObjectBlock>(context, objects_, to_place_, sent_blocks_);
  if (bounds_blocks_.empty()) return;
  sent_bounds_.clear();
  for (const std::uint32_t node : to_place_) {
    fill_bounds(node);
    sent_bounds_.push_back(bounds_blocks_[node]);
  }
  scatter_->write<BoundsBlock>(context, bounds_buffer_, to_place_, sent_bounds_);
}

void SceneBuffers::place_all(const gl::PassContext& context, double seconds) {
  const auto count = static_cast<std::uint32_t>(blocks_.size());
  for (const std::uint32_t i : scene_->parents_first()) place_node(i, motions_.moved_here()[i] ? 0 : seconds);
  write_nodes(context, {0, count});
  write_bounds(context, {0, count});
  bounds_missing_ = false;
}

}  // namespace periscena::draw
