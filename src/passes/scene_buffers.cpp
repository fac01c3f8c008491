#include "passes/scene_buffers.h"

#include "passes/merged_twin.h"

#include <periscena/base/error.h>
#include <periscena/base/names.h>
#include <periscena/batch/geometry.h>

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

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

void CameraBlock::shift(const Vec2& by) {
  if (by.isZero(0)) return;
  Mat4 there = Mat4::Identity(), back = Mat4::Identity();
  there.block<2, 1>(0, 3) = by;
  back.block<2, 1>(0, 3) = -by;
  projection = there * projection;
  view_projection = there * view_projection;
  inverse_view_projection = inverse_view_projection * back;
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
      .member("x", &ObjectBlock::x)
      .member("colors", &ObjectBlock::colors)
      .member("y", &ObjectBlock::y)
      .member("second_uv", &ObjectBlock::second_uv)
      .member("z", &ObjectBlock::z)
      .member("origin", &ObjectBlock::origin);
}

void ObjectBlock::place(const Transform& world) {
  const Mat4& matrix = world.matrix();
  x = matrix.col(0).head<3>();
  y = matrix.col(1).head<3>();
  z = matrix.col(2).head<3>();
  origin = matrix.col(3).head<3>();
}

gl::BlockLayout MaterialBlock::layout() {
  gl::BlockLayout layout = gl::describe_block<MaterialBlock>("Materials", "materials")
                               .member("base_color", &MaterialBlock::base_color)
                               .member("emission", &MaterialBlock::emission)
                               .member("specular", &MaterialBlock::specular)
                               .member("factors", &MaterialBlock::factors);
  layout.members.push_back({"numbers", gl::ValueType::ivec4, offsetof(MaterialBlock, numbers)});
  for (std::size_t i = 0; i < map_count; ++i) {
    const std::size_t at = offsetof(MaterialBlock, maps) + i * sizeof(MapBlock);
    const std::string map = material_maps[i].name;
    layout.members.push_back({map + ".u", gl::ValueType::vec4, at + offsetof(MapBlock, u)});
    layout.members.push_back({map + ".v", gl::ValueType::vec4, at + offsetof(MapBlock, v)});
    layout.members.push_back({map + ".handle", gl::ValueType::uvec2, at + offsetof(MapBlock, handle)});
  }
  return layout;
}

gl::BlockLayout BoundsBlock::layout() {
  return gl::describe_block<BoundsBlock>("BoundsOfNodes", "bounds")
      .member("middle", &BoundsBlock::middle)
      .member("half_size", &BoundsBlock::half_size);
}

namespace {

MapBlock map_block(const TextureUse& use, const Scene& scene, int layer) {
  const Eigen::Matrix<float, 2, 3> to_image = texture_matrix(use, scene.textures());
  MapBlock block;
  block.u << to_image.row(0).transpose(), static_cast<float>(layer);
  block.v << to_image.row(1).transpose(), static_cast<float>(use.uv_set);
  return block;
}

MaterialBlock material_block(std::uint32_t number, const Scene& scene, const MaterialTextures& textures, int picture) {
  const Material& material = scene.materials()[number];
  MaterialBlock block;
  block.base_color << material.base_color, material.alpha;
  block.emission << material.emission, material.alpha_mode == Material::AlphaMode::mask ? material.alpha_cutoff : 0;
  block.specular << material.specular, material.shininess;
  block.factors = {material.metallic, material.roughness, material.normal_scale, material.occlusion_strength};
  block.numbers[0] = static_cast<std::int32_t>(material.shading);
  block.numbers[1] = picture;
  block.numbers[2] = material.alpha_mode == Material::AlphaMode::blend;
  for (std::size_t i = 0; i < map_count; ++i) {
    const TextureUse& use = material.*material_maps[i].use;
    block.maps[i] = map_block(use, scene, textures.place(use, material_maps[i]).layer);
    const std::uint64_t handle = textures.handle(textures.set_of(number), i);
    block.maps[i].handle[0] = static_cast<std::uint32_t>(handle);
    block.maps[i].handle[1] = static_cast<std::uint32_t>(handle >> 32);
  }
  return block;
}

/// All values of one stream of all meshes; `missing` where a mesh has none.
template <class T>
gl::Buffer upload_stream(const Scene& scene, Stream<T> Mesh::*stream, const T& missing, const char* label) {
  std::size_t count = 0;
  for (const Mesh& mesh : scene.meshes()) count += mesh.positions.size();
  gl::Buffer buffer = gl::Buffer::writable(count * sizeof(T), label);
  std::size_t at = 0;
  for (const Mesh& mesh : scene.meshes()) {
    const Stream<T>& values = mesh.*stream;
    // Straight from where they lie, which may be the memory of a file.
    if (!values.empty()) {
      buffer.write(at, values.bytes());
    } else {
      const std::vector<T> filler(mesh.positions.size(), missing);
      buffer.write(at, std::as_bytes(std::span(filler)));
    }
    at += mesh.positions.size() * sizeof(T);
  }
  return buffer;
}

/// The values of those meshes that have them, one after the other.
template <class T>
gl::Buffer upload_sparse(const Scene& scene, Stream<T> Mesh::*stream, const char* label) {
  std::size_t count = 0;
  for (const Mesh& mesh : scene.meshes()) count += (mesh.*stream).size();
  gl::Buffer buffer = gl::Buffer::writable(std::max<std::size_t>(1, count) * sizeof(T), label);
  std::size_t at = 0;
  for (const Mesh& mesh : scene.meshes()) {
    if (!(mesh.*stream).empty()) buffer.write(at, (mesh.*stream).bytes());
    at += (mesh.*stream).bytes().size();
  }
  return buffer;
}

}  // namespace

SceneBuffers::SceneBuffers(std::shared_ptr<const Scene> scene, const gl::Capabilities& device)
    : scene_(std::move(scene)),
      most_block_bytes_(static_cast<std::size_t>(device.limit("MAX_SHADER_STORAGE_BLOCK_SIZE"))),
      mesh_bounds_(batch::mesh_bounds(*scene_)),
      worlds_(scene_->nodes().size(), Transform::identity()),
      bounds_(scene_->nodes().size()),
      mirrored_(std::make_unique<bool[]>(scene_->nodes().size())),
      textures_(*scene_, device.texture_handles),
      motions_(*scene_, most_block_bytes_),
      blocks_(scene_->nodes().size()),
      moving_(moved_by_cpu(*scene_, motions_)) {
  if (!scene_->meshes().empty()) upload_meshes();
  expect_block("vertex colours", mesh_colors_.size());
  expect_block("second texture coordinates", second_uvs_.size());
  fill_materials();
  if (!blocks_.empty()) objects_ = gl::Buffer::writable(blocks_.size() * sizeof(ObjectBlock), "scene objects");
}

std::shared_ptr<SceneBuffers> SceneBuffers::shared(gl::PassSetup& setup, const std::shared_ptr<const Scene>& scene,
                                                   batch::Batching batching) {
  const std::shared_ptr<const MergedTwin> twin = merged_twin(setup, scene, batching);
  const std::shared_ptr<const Scene>& drawn = twin ? twin->scene : scene;
  return setup.shared().get<SceneBuffers>(drawn.get(), [&] {
    auto made = std::make_shared<SceneBuffers>(drawn, setup.device().capabilities());
    if (twin) made->merging_ = twin->told;
    return made;
  });
}

void SceneBuffers::expect_block(const char* what, std::size_t bytes) const {
  if (bytes <= most_block_bytes_) return;
  throw Mistake("over-device-limit", {},
                fmt::format("the {} of the scene take {} bytes, and a storage block of this device holds {}", what,
                            bytes, most_block_bytes_),
                "draw it as several scenes");
}

namespace {

/// How many elements fit into a storage block, in steps so that each block begins where blocks may begin: at multiples
/// of 256 bytes, which every device takes.
template <std::size_t step>
std::uint32_t elements_a_block(std::size_t most_bytes, std::size_t element_bytes) {
  return static_cast<std::uint32_t>(
      std::clamp<std::size_t>(most_bytes / element_bytes / step * step, step, Dress::no_receiver));
}

}  // namespace

std::uint32_t SceneBuffers::materials_a_block() const {
  constexpr std::size_t step = 16;
  static_assert(step * sizeof(MaterialBlock) % 256 == 0);
  return elements_a_block<step>(most_block_bytes_, sizeof(MaterialBlock));
}

std::uint32_t SceneBuffers::objects_a_block() const {
  constexpr std::size_t step = 64;
  static_assert(step * sizeof(ObjectBlock) % 256 == 0 && step * sizeof(std::uint32_t) % 256 == 0);
  return elements_a_block<step>(most_block_bytes_, sizeof(ObjectBlock));
}

void SceneBuffers::expect_one_block(const char* what) const {
  if (blocks_.size() <= objects_a_block()) return;
  throw Mistake(
      "over-device-limit", {},
      fmt::format("{} wants all {} objects of the scene in one storage block, and one of this device holds {}", what,
                  blocks_.size(), objects_a_block()),
      "draw the scene as several scenes");
}

void SceneBuffers::upload_meshes() {
  std::vector<batch::MeshSize> sizes;
  for (const Mesh& mesh : scene_->meshes()) {
    sizes.push_back({mesh.positions.size(), mesh.indices.size(), mesh.colors.size(), mesh.second_uv.size()});
    index_bytes_ = std::max(index_bytes_, mesh.index_bytes());
  }
  const std::vector<batch::MeshStart> starts = batch::lay_out(sizes);
  for (std::size_t i = 0; i < sizes.size(); ++i) {
    const batch::MeshStart& at = starts[i];
    ranges_.push_back({at.index, static_cast<std::uint32_t>(sizes[i].indices), static_cast<std::int32_t>(at.vertex),
                       sizes[i].colors == 0 ? ObjectBlock::none : at.color - at.vertex,
                       sizes[i].second_uvs == 0 ? ObjectBlock::none : at.second_uv - at.vertex});
  }
  namespace at = gl::binding;
  const auto add = [&](std::uint32_t attribute, int components, gl::Buffer buffer, int stride) {
    streams_.push_back({attribute, components, stride, std::move(buffer)});
  };
  const Scene& scene = *scene_;
  add(at::position_attribute, 3, upload_stream<Vec3>(scene, &Mesh::positions, Vec3::Zero(), "scene positions"),
      sizeof(Vec3));
  add(at::normal_attribute, 3, upload_stream<Vec3>(scene, &Mesh::normals, Vec3::Zero(), "scene normals"), sizeof(Vec3));
  add(at::tangent_attribute, 4,
      upload_stream<PackedVec4>(scene, &Mesh::tangents, PackedVec4(0, 0, 0, 1), "scene tangents"), sizeof(PackedVec4));
  add(at::uv_attribute, 2, upload_stream<Vec2>(scene, &Mesh::uv, Vec2::Zero(), "scene texture coordinates"),
      sizeof(Vec2));
  upload_indices();
  mesh_colors_ = upload_sparse(scene, &Mesh::colors, "scene colors");
  second_uvs_ = upload_sparse(scene, &Mesh::second_uv, "scene second texture coordinates");
}

void SceneBuffers::upload_indices() {
  std::size_t count = 0;
  for (const Mesh& mesh : scene_->meshes()) count += mesh.indices.size();
  indices_ = gl::Buffer::writable(count * static_cast<std::size_t>(index_bytes_), "scene indices");
  std::size_t at = 0;
  for (const Mesh& mesh : scene_->meshes()) {
    if (index_bytes_ == 2) {
      const std::vector<std::uint16_t> narrow(mesh.indices.begin(), mesh.indices.end());
      indices_.write(at, std::as_bytes(std::span(narrow)));
    } else {
      indices_.write(at, mesh.indices.bytes());
    }
    at += mesh.indices.size() * static_cast<std::size_t>(index_bytes_);
  }
}

gl::VertexArray SceneBuffers::vertex_array(const gl::Buffer& nodes) const {
  gl::VertexArray made("scene");
  std::uint32_t slot = 0;
  for (const VertexStream& stream : streams_) {
    made.add_floats(stream.attribute, slot, stream.components, 0);
    made.set_vertices(slot++, stream.values, stream.stride);
  }
  made.add_integer(gl::binding::object_index_attribute, slot, 0);
  made.set_vertices(slot, nodes, sizeof(std::uint32_t));
  made.set_per_instance(slot);
  if (indices_.size() > 0) made.set_indices(indices_);
  return made;
}

std::vector<NodeRange> moved_by_cpu(const Scene& scene, const Motions& motions) {
  std::vector<NodeRange> ranges;
  const std::vector<bool> moves = scene.moving_nodes();
  for (std::uint32_t i = 0; i < moves.size(); ++i) {
    if (!moves[i] || motions.moved_here()[i]) continue;
    if (!ranges.empty() && ranges.back().first + ranges.back().count == i) {
      ++ranges.back().count;
    } else {
      ranges.push_back({i, 1});
    }
  }
  return ranges;
}

void SceneBuffers::fill_materials() {
  std::vector<MaterialBlock> blocks;
  for (const Material& material : scene_->materials()) {
    const auto block = static_cast<std::uint32_t>(blocks.size()) / materials_a_block();
    const auto number = static_cast<std::uint32_t>(blocks.size());
    blocks.push_back(material_block(number, *scene_, textures_, picture_number(material)));
    state_of_material_.push_back(state_number(number, block));
  }
  if (!blocks.empty()) materials_ = gl::Buffer::holding(std::as_bytes(std::span(blocks)), "scene materials");
  for (std::size_t i = 0; i < blocks_.size(); ++i) {
    const Node& node = scene_->nodes()[i];
    if (!node.mesh.valid()) continue;
    blocks_[i].colors = ranges_[node.mesh.index].colors;
    blocks_[i].second_uv = ranges_[node.mesh.index].second_uv;
  }
}

namespace {

/// The place of a value in a list of different ones, to which it is added if need be.
template <class T>
std::uint32_t number_in(std::vector<T>& known, const T& value) {
  const auto found = std::find(known.begin(), known.end(), value);
  const auto number = static_cast<std::uint32_t>(found - known.begin());
  if (found == known.end()) known.push_back(value);
  return number;
}

}  // namespace

std::uint32_t SceneBuffers::state_number(std::uint32_t number, std::uint32_t block) {
  const Material& material = scene_->materials()[number];
  MaterialState state;
  state.block = block;
  if (textures_.way() != TextureWay::handles) state.textures = textures_.sets()[textures_.set_of(number)];
  state.surface = material.surface.empty() ? 0 : number_in(surfaces_, material.surface) + 1;
  state.double_sided = material.double_sided;
  state.blended = material.alpha_mode == Material::AlphaMode::blend;
  return number_in(states_, state);
}

std::string SceneBuffers::difference(std::uint32_t before, std::uint32_t after) const {
  const MaterialState &a = states_[before], &b = states_[after];
  const auto surface = [&](std::uint32_t number) {
    return number == 0 ? std::string("no GLSL of its own") : fmt::format("GLSL of its own, {}", surfaces_[number - 1]);
  };
  if (a.surface != b.surface) return surface(b.surface);
  if (a.block != b.block) return fmt::format("a storage block of this device holds {} materials", materials_a_block());
  const TextureSet &had = a.textures, &has = b.textures;
  for (std::size_t i = 0; i < map_count; ++i) {
    if (had.arrays[i] != has.arrays[i]) {
      return fmt::format("{}: {} instead of {}", material_maps[i].name, textures_.description(has.arrays[i]),
                         textures_.description(had.arrays[i]));
    }
    if (had.samplers[i] != has.samplers[i])
      return fmt::format("{}: filtered or wrapped otherwise", material_maps[i].name);
  }
  if (a.double_sided != b.double_sided) return b.double_sided ? "both sides are drawn" : "only front faces are drawn";
  return b.blended ? "blended" : "not blended";
}

int SceneBuffers::picture_number(const Material& material) {
  if (material.shows.empty()) return 0;
  const auto number = static_cast<int>(number_in(shown_, material.shows)) + 1;
  return material.shows_mirrored ? -number : number;
}

std::shared_ptr<const Dress> SceneBuffers::dress(const Variant* variant, const std::vector<bool>& receivers) {
  for (const KnownDress& known : dresses_) {
    if (known.variant == variant && known.receivers == receivers) return known.dress;
  }
  auto made = std::make_shared<Dress>();
  std::vector<std::uint32_t> numbers;
  for (const MaterialHandle material : scene_->materials_of_nodes(variant)) {
    const std::uint32_t number = material.valid() ? material.index : 0, in_block = number % materials_a_block();
    const bool receives = receivers.empty() || receivers[numbers.size()];
    numbers.push_back(receives ? in_block : in_block | Dress::no_receiver);
    const std::uint32_t state = material.valid() ? state_of_material_[number] : 0;
    // Only what is found by handle could differ within a command.
    const bool by_handle = material.valid() && textures_.way() == TextureWay::handles;
    made->traits.push_back({.state = state,
                            .blended = material.valid() && states_[state].blended,
                            .textures = by_handle ? textures_.set_of(number) : 0});
  }
  if (!numbers.empty())
    made->material_numbers = gl::Buffer::holding(std::as_bytes(std::span(numbers)), "material numbers");
  return dresses_.emplace_back(variant, receivers, std::move(made)).dress;
}

namespace {

/// Binds one of the blocks that the elements of a buffer lie in.
void bind_block(gl::State& state, std::uint32_t binding, const gl::Buffer& buffer, std::size_t block_bytes,
                std::uint32_t block) {
  const std::size_t at = block * block_bytes;
  state.bind_storage_block(binding, buffer.name(), at, std::min(block_bytes, buffer.size() - at));
}

}  // namespace

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
  state.bind_storage_block(gl::binding::mesh_color_storage, mesh_colors_.name());
  state.bind_storage_block(gl::binding::second_uv_storage, second_uvs_.name());
}

void SceneBuffers::bind_materials(gl::State& state, const MaterialState& material) const {
  bind_block(state, gl::binding::material_storage, materials_, materials_a_block() * sizeof(MaterialBlock),
             material.block);
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
  worlds_[i] = scene_->world_transform(i, seconds, worlds_);
  // Of nodes that show nothing, too: texts follow them.
  blocks_[i].place(worlds_[i]);
  if (!node.mesh.valid()) return;
  const bool mirrored = worlds_[i].mirrors();
  if (mirrored != mirrored_[i]) ++windings_;
  mirrored_[i] = mirrored;
  const batch::MeshBounds& mesh = mesh_bounds_[node.mesh.index];
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

void SceneBuffers::write_bounds(const gl::PassContext& context, NodeRange range) {
  if (bounds_blocks_.empty()) return;
  const std::span<BoundsBlock> written = std::span(bounds_blocks_).subspan(range.first, range.count);
  for (std::uint32_t i = 0; i < range.count; ++i) {
    const std::uint32_t node = range.first + i;
    const bool empty = !scene_->nodes()[node].mesh.valid();
    const Vec3 middle = bounds_.center(node), half = empty ? Vec3(-1, -1, -1) : bounds_.half_size(node);
    written[i] = {{middle.x(), middle.y(), middle.z(), bounds_.is_sound(node) ? 0.0f : 1.0f},
                  {half.x(), half.y(), half.z(), 0}};
  }
  context.write(bounds_buffer_, range.first * sizeof(BoundsBlock), std::as_bytes(written));
}

void SceneBuffers::update(const gl::PassContext& context) {
  const gl::FrameTime time = context.time();
  if (updated_ == time.number) return;
  const bool first = updated_ == 0;
  const bool later = first || time.seconds != seconds_;
  moved_ = first || (later && !moving_.empty());
  changed_ = moved_ || (later && motions_.moves_anything());
  textures_.end_frame(updated_);
  updated_ = time.number;
  seconds_ = time.seconds;
  if (blocks_.empty() || !later) return;
  if (first) place_all(context, time.seconds);
  motions_.run(context, objects_, time.seconds);
  for (const NodeRange range : moving_) {
    for (std::uint32_t i = range.first; i < range.first + range.count; ++i) place_node(i, time.seconds);
    write_nodes(context, range);
    write_bounds(context, range);
  }
  if (bounds_missing_) write_bounds(context, {0, static_cast<std::uint32_t>(blocks_.size())});
  bounds_missing_ = false;
}

void SceneBuffers::place_all(const gl::PassContext& context, double seconds) {
  const auto count = static_cast<std::uint32_t>(blocks_.size());
  for (std::uint32_t i = 0; i < count; ++i) place_node(i, motions_.moved_here()[i] ? 0 : seconds);
  write_nodes(context, {0, count});
}

gl::DrawCommand SceneBuffers::command(const batch::Command& command) const {
  const MeshRange& range = ranges_[command.mesh];
  return {range.index_count, command.count, range.first_index, range.base_vertex, command.first};
}

}  // namespace periscena::passes
