#include "passes/scene_buffers.h"

#include <algorithm>
#include <numeric>

namespace periscena::passes {

CameraBlock CameraBlock::of(const Camera& camera, float aspect) {
  const Transform view = camera.view();
  const Projection projection = camera.projection(aspect);
  CameraBlock block;
  block.view = view.matrix();
  block.projection = projection.matrix();
  block.view_projection.noalias() = block.projection * block.view;
  block.inverse_view_projection.noalias() = view.inverse().matrix() * projection.inverse();
  block.eye = camera.eye;
  block.near = camera.near;
  block.far = camera.far;
  return block;
}

namespace {

/// Blocks on the device that are in use.
struct KnownBlocks {
  struct Entry {
    std::vector<std::byte> bytes;
    std::weak_ptr<const gl::Buffer> buffer;
  };
  std::vector<Entry> entries;
};

}  // namespace

std::shared_ptr<const gl::Buffer> shared_block(gl::PassSetup& setup, std::span<const std::byte> bytes,
                                               std::string_view label) {
  static const int key = 0;
  const auto known = setup.shared().get<KnownBlocks>(&key, [] { return std::make_shared<KnownBlocks>(); });
  std::erase_if(known->entries, [](const KnownBlocks::Entry& entry) { return entry.buffer.expired(); });
  for (const KnownBlocks::Entry& entry : known->entries) {
    if (std::equal(entry.bytes.begin(), entry.bytes.end(), bytes.begin(), bytes.end())) return entry.buffer.lock();
  }
  auto made = std::make_shared<const gl::Buffer>(gl::Buffer::holding(bytes, label));
  known->entries.push_back({{bytes.begin(), bytes.end()}, made});
  return made;
}

gl::BlockLayout CameraBlock::layout() {
  return gl::describe_block<CameraBlock>("Camera")
      .member("view", &CameraBlock::view)
      .member("projection", &CameraBlock::projection)
      .member("view_projection", &CameraBlock::view_projection)
      .member("inverse_view_projection", &CameraBlock::inverse_view_projection)
      .member("eye", &CameraBlock::eye)
      .member("near", &CameraBlock::near)
      .member("far", &CameraBlock::far);
}

gl::BlockLayout ObjectBlock::layout() {
  return gl::describe_block<ObjectBlock>("Objects", "objects")
      .member("world", &ObjectBlock::world)
      .member("normals", &ObjectBlock::normals)
      .member("base_color", &ObjectBlock::base_color)
      .member("emission", &ObjectBlock::emission);
}

SceneBuffers::SceneBuffers(std::shared_ptr<const Scene> scene)
    : scene_(std::move(scene)),
      mesh_bounds_(batch::mesh_bounds(*scene_)),
      worlds_(scene_->nodes().size(), Transform::identity()),
      bounds_(scene_->nodes().size()),
      mirrored_(std::make_unique<bool[]>(scene_->nodes().size())),
      blocks_(scene_->nodes().size()),
      vertex_array_("scene") {
  if (!scene_->meshes().empty()) upload_meshes();
  find_moving_nodes();
  fill_materials();
  if (!blocks_.empty()) objects_ = gl::Buffer::writable(blocks_.size() * sizeof(ObjectBlock), "scene objects");
}

std::shared_ptr<SceneBuffers> SceneBuffers::shared(gl::PassSetup& setup, const std::shared_ptr<const Scene>& scene) {
  return setup.shared().get<SceneBuffers>(scene.get(), [&] { return std::make_shared<SceneBuffers>(scene); });
}

void SceneBuffers::upload_meshes() {
  std::vector<Vertex> vertices;
  std::vector<std::uint32_t> indices;
  for (const Mesh& mesh : scene_->meshes()) {
    ranges_.push_back({static_cast<std::uint32_t>(indices.size()), static_cast<std::uint32_t>(mesh.indices.size()),
                       static_cast<std::int32_t>(vertices.size())});
    vertices.insert(vertices.end(), mesh.vertices.begin(), mesh.vertices.end());
    indices.insert(indices.end(), mesh.indices.begin(), mesh.indices.end());
    index_bytes_ = std::max(index_bytes_, mesh.index_bytes());
  }
  vertices_ = gl::Buffer::holding(std::as_bytes(std::span(vertices)), "scene vertices");
  if (index_bytes_ == 2) {
    const std::vector<std::uint16_t> narrow(indices.begin(), indices.end());
    indices_ = gl::Buffer::holding(std::as_bytes(std::span(narrow)), "scene indices");
  } else {
    indices_ = gl::Buffer::holding(std::as_bytes(std::span(indices)), "scene indices");
  }
  std::vector<std::uint32_t> numbers(std::max<std::size_t>(1, scene_->nodes().size()));
  std::iota(numbers.begin(), numbers.end(), 0u);
  object_indices_ = gl::Buffer::holding(std::as_bytes(std::span(numbers)), "scene object indices");

  namespace at = gl::binding;
  constexpr std::uint32_t vertex_slot = 0, object_slot = 1;
  vertex_array_.add_floats(at::position_attribute, vertex_slot, 3, offsetof(Vertex, position));
  vertex_array_.add_floats(at::normal_attribute, vertex_slot, 3, offsetof(Vertex, normal));
  vertex_array_.add_floats(at::tangent_attribute, vertex_slot, 4, offsetof(Vertex, tangent));
  vertex_array_.add_floats(at::uv_attribute, vertex_slot, 2, offsetof(Vertex, uv));
  vertex_array_.add_integer(at::object_index_attribute, object_slot, 0);
  vertex_array_.set_vertices(vertex_slot, vertices_, sizeof(Vertex));
  vertex_array_.set_vertices(object_slot, object_indices_, sizeof(std::uint32_t));
  vertex_array_.set_per_instance(object_slot);
  vertex_array_.set_indices(indices_);
}

void SceneBuffers::find_moving_nodes() {
  const auto& nodes = scene_->nodes();
  std::vector<bool> moves(nodes.size());
  for (std::uint32_t i = 0; i < nodes.size(); ++i) {
    moves[i] = nodes[i].motion || (nodes[i].parent.valid() && moves[nodes[i].parent.index]);
    if (!moves[i]) continue;
    if (!moving_.empty() && moving_.back().first + moving_.back().count == i) {
      ++moving_.back().count;
    } else {
      moving_.push_back({i, 1});
    }
  }
}

void SceneBuffers::fill_materials() {
  for (std::size_t i = 0; i < blocks_.size(); ++i) {
    const Node& node = scene_->nodes()[i];
    if (!node.mesh.valid()) continue;
    const Material& material = scene_->materials()[node.material.index];
    blocks_[i].base_color << material.base_color, number_of(material);
    blocks_[i].emission.head<3>() = material.emission;
  }
}

float SceneBuffers::number_of(const Material& material) {
  if (material.shows.empty()) return 0;
  const auto known = std::find(shown_.begin(), shown_.end(), material.shows) - shown_.begin();
  if (static_cast<std::size_t>(known) == shown_.size()) shown_.push_back(material.shows);
  const auto number = static_cast<float>(known + 1);
  return material.shows_mirrored ? -number : number;
}

void SceneBuffers::place_node(std::uint32_t i, double seconds) {
  const Node& node = scene_->nodes()[i];
  worlds_[i] = scene_->world_transform(i, seconds, worlds_);
  if (!node.mesh.valid()) return;
  const bool mirrored = worlds_[i].mirrors();
  if (mirrored != mirrored_[i]) ++windings_;
  mirrored_[i] = mirrored;
  bounds_[i] = mesh_bounds_[node.mesh.index].transformed(worlds_[i]);
  blocks_[i].world = worlds_[i].matrix();
  blocks_[i].normals.topRows<3>() = worlds_[i].normal_matrix();
}

void SceneBuffers::write_nodes(NodeRange range) {
  objects_.write(range.first * sizeof(ObjectBlock),
                 std::as_bytes(std::span(blocks_).subspan(range.first, range.count)));
}

void SceneBuffers::update(gl::FrameTime time) {
  if (updated_ == time.number) return;
  const bool first = updated_ == 0;
  moved_ = first || (!moving_.empty() && time.seconds != seconds_);
  updated_ = time.number;
  seconds_ = time.seconds;
  if (!moved_ || blocks_.empty()) return;
  const NodeRange all{0, static_cast<std::uint32_t>(blocks_.size())};
  for (const NodeRange range : first ? std::span(&all, 1) : std::span<const NodeRange>(moving_)) {
    for (std::uint32_t i = range.first; i < range.first + range.count; ++i) place_node(i, time.seconds);
    write_nodes(range);
  }
}

gl::DrawCommand SceneBuffers::command(std::uint32_t node) const {
  const MeshRange& range = ranges_[scene_->nodes()[node].mesh.index];
  return {range.index_count, 1, range.first_index, range.base_vertex, node};
}

}  // namespace periscena::passes
