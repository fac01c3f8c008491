#include "draw/scene/scene_meshes.h"

#include "draw/scene/blocks.h"

#include <periscena/batch/geometry.h>
#include <periscena/gl/bindings.h>

#include <algorithm>

namespace periscena::draw {
namespace {

int index_bytes_of(const Scene& scene) {
  int bytes = 2;
  for (const Mesh& mesh : scene.meshes()) bytes = std::max(bytes, mesh.index_bytes());
  return bytes;
}

/// Values of a stream; of one that is not there, as many of `missing`.
template <class T, class Write>
void put_stream(const Stream<T>& values, std::size_t count, const T& missing, const Write& write) {
  // Straight from where they lie, which may be the memory of a file.
  if (!values.empty()) return write(values.bytes());
  const std::vector<T> filler(count, missing);
  write(std::as_bytes(std::span(filler)));
}

}  // namespace

std::array<std::uint64_t, SceneMeshes::row_count> SceneMeshes::counts(const Mesh& mesh) {
  return {mesh.positions.size(), mesh.indices.size(), mesh.colors.size(), mesh.second_uv.size()};
}

std::size_t SceneMeshes::element_bytes(Row row) const {
  return row == index ? static_cast<std::size_t>(index_bytes_) : row == color ? sizeof(Vec4) : sizeof(Vec2);
}

bool SceneMeshes::fits(const Scene& scene) const {
  if (index_bytes_of(scene) != index_bytes_) return false;
  std::array<std::uint64_t, row_count> wanted{};
  for (const Mesh& mesh : scene.meshes()) {
    for (std::size_t row = 0; row < row_count; ++row) wanted[row] += counts(mesh)[row];
  }
  // Neither mostly holes, nor so large that draw commands could not count it when it has grown.
  constexpr std::uint64_t most_vertices = 0x3FFFFFFF, most_indices = 0x7FFFFFFF;
  return wanted[vertex] >= buffers_[vertex].ranges.size() / 4 && buffers_[vertex].ranges.size() < most_vertices &&
         buffers_[index].ranges.size() < most_indices && wanted[vertex] < most_vertices && wanted[index] < most_indices;
}

void SceneMeshes::make_streams() {
  namespace at = gl::binding;
  const auto add = [&](std::uint32_t attribute, int components) {
    streams_.push_back({attribute, components, components * static_cast<int>(sizeof(float)), {}});
  };
  add(at::position_attribute, 3);
  add(at::normal_attribute, 3);
  add(at::tangent_attribute, 4);
  add(at::uv_attribute, 2);
}

void SceneMeshes::take(const Scene& scene) {
  std::vector<batch::MeshSize> sizes;
  for (const Mesh& mesh : scene.meshes())
    sizes.push_back({mesh.positions.size(), mesh.indices.size(), mesh.colors.size(), mesh.second_uv.size()});
  batch::lay_out(sizes);  // refuses what draw commands can't count
  if (streams_.empty()) {
    make_streams();
    index_bytes_ = index_bytes_of(scene);
  }
  std::unordered_multimap<const Vec3*, Held*> known;
  for (Held& held : held_) known.emplace(held.mesh.positions.values().data(), &held);
  std::vector<Held> now(scene.meshes().size());
  std::vector<std::size_t> others;
  for (std::size_t i = 0; i < now.size(); ++i) {
    const Mesh& mesh = scene.meshes()[i];
    auto [same, end] = known.equal_range(mesh.positions.values().data());
    while (same != end && !same->second->mesh.is_copy_of(mesh)) ++same;
    if (same == end) {
      now[i] = {mesh, {}, counts(mesh)};
      others.push_back(i);
    } else {
      now[i] = std::move(*same->second);
      known.erase(same);
    }
  }
  for (const auto& [place, held] : known) {
    for (std::size_t row = 0; row < row_count; ++row)
      buffers_[row].ranges.give_back(held->first[row], held->count[row]);
  }
  held_ = std::move(now);
  try {
    place_all(others);
  } catch (...) {
    *this = SceneMeshes();  // to begin again with
    throw;
  }
}

/// @param others  meshes that were not there
void SceneMeshes::place_all(std::span<const std::size_t> others) {
  // All at once where there was nothing before.
  const bool first = buffers_[vertex].ranges.size() == 0;
  for (std::size_t row = 0; row < row_count; ++row) {
    std::uint64_t wanted = 0;
    for (const std::size_t i : others) wanted += held_[i].count[row];
    if (first) make_room(static_cast<Row>(row), wanted);
  }
  for (const std::size_t i : others) place(held_[i]);
  // Storage blocks are bound though nothing has them.
  for (const Row row : {color, second_uv}) {
    if (buffers_[row].ranges.size() == 0) make_room(row, 1);
  }
}

/// Has so many more elements at the end.
void SceneMeshes::make_room(Row row, std::uint64_t elements) {
  RowBuffer& buffer = buffers_[row];
  const std::size_t before = buffer.ranges.size();
  buffer.ranges.grow(before + elements);
  if (elements == 0) return;
  const auto grown = [&](gl::Buffer& values, std::size_t bytes, const char* label) {
    gl::Buffer larger = gl::Buffer::writable(buffer.ranges.size() * bytes, label);
    if (before > 0) larger.copy_from(values, before * bytes);
    values = std::move(larger);
  };
  static const char* const rows[] = {"", "scene indices", "scene colors", "scene second texture coordinates"};
  static const char* const streams[] = {"scene positions", "scene normals", "scene tangents",
                                        "scene texture coordinates"};
  if (row != vertex) return grown(buffer.values, element_bytes(row), rows[row]);
  for (std::size_t i = 0; i < streams_.size(); ++i)
    grown(streams_[i].values, static_cast<std::size_t>(streams_[i].stride), streams[i]);
}

void SceneMeshes::place(Held& held) {
  for (std::size_t i = 0; i < row_count; ++i) {
    const auto row = static_cast<Row>(i);
    FreeRanges& ranges = buffers_[row].ranges;
    std::optional<std::uint64_t> at = ranges.take(held.count[row]);
    if (!at) {
      // Half as much again, so that what comes one by one is not copied each time. Storage blocks have a largest size.
      const std::uint64_t missing = ranges.missing(held.count[row]);
      make_room(row, row == vertex || row == index ? std::max(missing, ranges.size() / 2) : missing);
      at = ranges.take(held.count[row]);
    }
    held.first[row] = *at;
  }
  if (held.count[vertex] == 0) return;
  put(
      held,
      [&](const gl::Buffer& into, std::size_t offset, std::span<const std::byte> bytes) {
        into.write(offset, bytes);
        bytes_sent_ += bytes.size();
      },
      true);
  put_indices(held);
}

/// @param missing_too  what programs read of vertices that have no such property
template <class Write>
void SceneMeshes::put(const Held& held, const Write& write, bool missing_too) const {
  const Mesh& mesh = held.mesh;
  const std::size_t count = held.count[vertex];
  const auto put_one = [&](std::size_t stream, const auto& values, const auto& missing) {
    if (values.empty() && !missing_too) return;
    put_stream(values, count, missing, [&](std::span<const std::byte> bytes) {
      const VertexStream& into = streams_[stream];
      write(into.values, held.first[vertex] * static_cast<std::size_t>(into.stride), bytes);
    });
  };
  put_one(0, mesh.positions, Vec3::zero());
  put_one(1, mesh.normals, Vec3::zero());
  put_one(2, mesh.tangents, Vec4(0, 0, 0, 1));
  put_one(3, mesh.uv, Vec2::zero());
  if (!mesh.colors.empty()) write(buffers_[color].values, held.first[color] * sizeof(Vec4), mesh.colors.bytes());
  if (!mesh.second_uv.empty())
    write(buffers_[second_uv].values, held.first[second_uv] * sizeof(Vec2), mesh.second_uv.bytes());
}

void SceneMeshes::put_indices(const Held& held) {
  const gl::Buffer& into = buffers_[index].values;
  const std::size_t at = held.first[index] * static_cast<std::size_t>(index_bytes_);
  const Stream<std::uint32_t>& indices = held.mesh.indices;
  if (index_bytes_ == 4) {
    into.write(at, indices.bytes());
  } else {
    const std::vector<std::uint16_t> narrow(indices.begin(), indices.end());
    into.write(at, std::as_bytes(std::span(narrow)));
  }
  bytes_sent_ += indices.size() * static_cast<std::size_t>(index_bytes_);
}

void SceneMeshes::write(const gl::PassContext& context, std::uint32_t number, const Mesh& mesh) {
  Held& held = held_[number];
  held.mesh = mesh;
  put(
      held,
      [&](const gl::Buffer& into, std::size_t offset, std::span<const std::byte> bytes) {
        context.write(into, offset, bytes);
      },
      false);
}

gl::VertexArray SceneMeshes::vertex_array(const gl::Buffer& nodes) const {
  gl::VertexArray made("scene");
  std::uint32_t slot = 0;
  for (const VertexStream& stream : streams_) {
    if (stream.values.size() == 0) continue;  // of a scene without meshes
    made.add_floats(stream.attribute, slot, stream.components, 0);
    made.set_vertices(slot++, stream.values, stream.stride);
  }
  made.add_integer(gl::binding::object_index_attribute, slot, 0);
  made.set_vertices(slot, nodes, sizeof(std::uint32_t));
  made.set_per_instance(slot);
  if (buffers_[index].values.size() > 0) made.set_indices(buffers_[index].values);
  return made;
}

gl::DrawCommand SceneMeshes::command(const batch::Command& command) const {
  const Held& held = held_[command.mesh];
  return {static_cast<std::uint32_t>(held.count[index]), command.count, static_cast<std::uint32_t>(held.first[index]),
          static_cast<std::int32_t>(held.first[vertex]), command.first};
}

std::uint32_t SceneMeshes::colors_of(MeshHandle mesh) const {
  const Held& held = held_[mesh.index];
  return held.count[color] == 0 ? ObjectBlock::none
                                : static_cast<std::uint32_t>(held.first[color] - held.first[vertex]);
}

std::uint32_t SceneMeshes::second_uv_of(MeshHandle mesh) const {
  const Held& held = held_[mesh.index];
  return held.count[second_uv] == 0 ? ObjectBlock::none
                                    : static_cast<std::uint32_t>(held.first[second_uv] - held.first[vertex]);
}

}  // namespace periscena::draw
