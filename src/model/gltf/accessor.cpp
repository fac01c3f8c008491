#include "model/gltf/accessor.h"

#include <periscena/base/error.h>

#include <fmt/format.h>

#include <array>
#include <cstring>

namespace periscena::gltf {
namespace {

constexpr int signed_byte = 5120, unsigned_byte = 5121, signed_short = 5122, unsigned_short = 5123, unsigned_int = 5125,
              float_number = 5126;

std::size_t component_size(const JsonReader& type) {
  switch (type.whole()) {
    case signed_byte:
    case unsigned_byte: return 1;
    case signed_short:
    case unsigned_short: return 2;
    case unsigned_int:
    case float_number: return 4;
    default: type.refuse(fmt::format("is {}, which is no component type", type.whole()), "5120 to 5123, 5125 or 5126");
  }
}

int component_count(const JsonReader& type) {
  const std::string name = type.text();
  constexpr std::array<std::pair<std::string_view, int>, 7> types{
      {{"SCALAR", 1}, {"VEC2", 2}, {"VEC3", 3}, {"VEC4", 4}, {"MAT2", 4}, {"MAT3", 9}, {"MAT4", 16}}};
  for (const auto& [known, count] : types) {
    if (name == known) return count;
  }
  type.refuse(fmt::format("is \"{}\", which is no type", name), "SCALAR, VEC2, VEC3, VEC4, MAT2, MAT3 or MAT4");
}

/// Numbers of one kind as floats. @param stride  bytes from one value to the next
template <class Number>
void convert_rows(const std::byte* from, std::size_t stride, std::size_t count, std::size_t components, bool normalized,
                  float* into) {
  for (std::size_t i = 0; i < count; ++i, from += stride, into += components) {
    for (std::size_t k = 0; k < components; ++k) {
      Number number;
      std::memcpy(&number, from + k * sizeof(Number), sizeof(number));
      into[k] = static_cast<float>(number);
      if (std::is_integral_v<Number> && normalized)
        into[k] = std::max(into[k] / static_cast<float>(std::numeric_limits<Number>::max()), -1.0f);
    }
  }
}

using Convert = void (*)(const std::byte*, std::size_t, std::size_t, std::size_t, bool, float*);

Convert converter(int component_type) {
  switch (component_type) {
    case signed_byte: return convert_rows<std::int8_t>;
    case unsigned_byte: return convert_rows<std::uint8_t>;
    case signed_short: return convert_rows<std::int16_t>;
    case unsigned_short: return convert_rows<std::uint16_t>;
    case unsigned_int: return convert_rows<std::uint32_t>;
    default: return convert_rows<float>;
  }
}

template <class Number>
void widen(const std::byte* from, std::size_t stride, std::span<std::uint32_t> into) {
  for (std::uint32_t& value : into) {
    Number number;
    std::memcpy(&number, from, sizeof(number));
    value = number;
    from += stride;
  }
}

std::uint32_t whole_at(const std::byte* from, std::size_t bytes) {
  std::uint32_t value = 0;
  std::memcpy(&value, from, bytes);
  return value;
}

}  // namespace

std::size_t Accessors::count(std::size_t index) const {
  return document_.item("accessors", index).at("count").whole(0xFFFFFFFE);
}

std::string Accessors::type(std::size_t index) const {
  return document_.item("accessors", index).at("type").text();
}

void Accessors::read_view(const JsonReader& accessor, Layout& into) {
  const auto view_index = accessor.index("bufferView", document_.count("bufferViews"), "bufferViews");
  const std::size_t value_bytes = into.component_bytes * static_cast<std::size_t>(into.components);
  into.stride = value_bytes;
  if (!view_index) return;
  const Part view = document_.view(*view_index);
  const JsonReader json = document_.item("bufferViews", *view_index);
  into.stride = json.whole("byteStride", value_bytes);
  if (into.stride < value_bytes || into.stride > 252 + value_bytes)
    json.refuse(fmt::format("has a byteStride of {} for values of {} bytes", into.stride, value_bytes));
  const std::uint64_t offset = accessor.whole("byteOffset", 0);
  const std::uint64_t size = view.size;
  if (into.count > 0 &&
      (offset > size || value_bytes > size - offset || into.count - 1 > (size - offset - value_bytes) / into.stride)) {
    accessor.refuse(fmt::format("has {} values of {} bytes from byte {} on, in a buffer view of {} bytes", into.count,
                                into.stride, offset, size));
  }
  if (into.count == 0) return;
  // Whole rows, so that what is interleaved is read once for all of it.
  const std::uint64_t lead = offset % into.stride, first = offset - lead;
  const std::uint64_t length = std::min<std::uint64_t>(
      size - first, (into.count - 1) * into.stride + std::max<std::uint64_t>(into.stride, lead + value_bytes));
  into.bytes = document_.read(view, first, length, accessor);
  into.bytes.bytes = into.bytes.bytes.subspan(lead);
}

Accessors::Layout Accessors::layout(std::size_t index) {
  const JsonReader accessor = document_.item("accessors", index);
  Layout layout;
  const JsonReader type = accessor.at("componentType");
  layout.component_bytes = component_size(type);
  layout.component_type = static_cast<int>(type.whole());
  layout.components = component_count(accessor.at("type"));
  layout.count = count(index);
  layout.normalized = accessor.boolean("normalized", false);
  layout.sparse = accessor.has("sparse");
  read_view(accessor, layout);
  return layout;
}

std::vector<float> Accessors::to_floats(std::size_t index, const Layout& layout) {
  const JsonReader accessor = document_.item("accessors", index);
  document_.budget().spend(layout.count, 4 * static_cast<std::size_t>(layout.components), accessor);
  const auto components = static_cast<std::size_t>(layout.components);
  std::vector<float> values(layout.count * components);
  if (!layout.bytes.bytes.empty()) {
    converter(layout.component_type)(layout.bytes.bytes.data(), layout.stride, layout.count, components,
                                     layout.normalized, values.data());
  }
  if (layout.sparse) apply_sparse(accessor, layout, values);
  return values;
}

void Accessors::apply_sparse(const JsonReader& accessor, const Layout& layout, std::span<float> into) {
  const JsonReader sparse = accessor.at("sparse"), indices = sparse.at("indices"), values = sparse.at("values");
  const std::uint64_t count = sparse.at("count").whole(layout.count);
  Layout index_layout;
  index_layout.component_type = static_cast<int>(indices.at("componentType").whole());
  index_layout.component_bytes = component_size(indices.at("componentType"));
  index_layout.count = count;
  if (!indices.has("bufferView") || !values.has("bufferView")) sparse.refuse("lacks a bufferView");
  read_view(indices, index_layout);
  Layout value_layout = layout;
  value_layout.count = count;
  value_layout.bytes = {};
  read_view(values, value_layout);
  const Convert convert = converter(layout.component_type);
  const auto components = static_cast<std::size_t>(layout.components);
  for (std::size_t i = 0; i < count; ++i) {
    const std::uint32_t at =
        whole_at(index_layout.bytes.bytes.data() + i * index_layout.stride, index_layout.component_bytes);
    if (at >= layout.count) indices.refuse(fmt::format("has index {}, but there are {} values", at, layout.count));
    convert(value_layout.bytes.bytes.data() + i * value_layout.stride, value_layout.stride, 1, components,
            layout.normalized, &into[at * components]);
  }
}

template <class Vector>
Stream<Vector> Accessors::floats(std::size_t index) {
  constexpr int wanted = static_cast<int>(Vector::size());
  const auto key = std::pair(index, wanted);
  if (const auto known = streams_.find(key); known != streams_.end())
    return *static_cast<const Stream<Vector>*>(known->second.get());
  const Layout found = layout(index);
  if (found.components != wanted) {
    document_.item("accessors", index).refuse(fmt::format("is {}, where VEC{} is wanted", type(index), wanted));
  }
  Stream<Vector> stream;
  const bool as_wanted = found.component_type == float_number && found.stride == sizeof(Vector) && !found.sparse &&
                         reinterpret_cast<std::uintptr_t>(found.bytes.bytes.data()) % alignof(float) == 0;
  if (as_wanted && !found.bytes.bytes.empty()) {
    stream =
        Stream<Vector>({reinterpret_cast<const Vector*>(found.bytes.bytes.data()), found.count}, found.bytes.keeper);
  } else {
    auto values = std::make_shared<const std::vector<float>>(to_floats(index, found));
    stream = Stream<Vector>({reinterpret_cast<const Vector*>(values->data()), found.count}, values);
  }
  streams_[key] = std::make_shared<const Stream<Vector>>(stream);
  return stream;
}

template Stream<Vec2> Accessors::floats(std::size_t);
template Stream<Vec3> Accessors::floats(std::size_t);
template Stream<Vec4> Accessors::floats(std::size_t);
template Stream<Matrix<float, 1, 1>> Accessors::floats(std::size_t);

Stream<Vec4> Accessors::colors(std::size_t index) {
  if (type(index) != "VEC3") return floats<Vec4>(index);
  const auto key = std::pair(index, -4);
  if (const auto known = streams_.find(key); known != streams_.end())
    return *static_cast<const Stream<Vec4>*>(known->second.get());
  const Stream<Vec3> rgb = floats<Vec3>(index);
  document_.budget().spend(rgb.size(), sizeof(Vec4), document_.item("accessors", index));
  std::vector<Vec4> colors;
  colors.reserve(rgb.size());
  for (const Vec3& color : rgb) colors.emplace_back(color.x(), color.y(), color.z(), 1);
  Stream<Vec4> stream(std::move(colors));
  streams_[key] = std::make_shared<const Stream<Vec4>>(stream);
  return stream;
}

Stream<std::uint32_t> Accessors::indices(std::size_t index) {
  const auto key = std::pair(index, 0);
  if (const auto known = streams_.find(key); known != streams_.end())
    return *static_cast<const Stream<std::uint32_t>*>(known->second.get());
  const JsonReader accessor = document_.item("accessors", index);
  const Layout found = layout(index);
  const bool whole = found.component_type == unsigned_byte || found.component_type == unsigned_short ||
                     found.component_type == unsigned_int;
  if (found.components != 1 || !whole || found.sparse || found.bytes.bytes.empty())
    accessor.refuse("can't be indices", "indices are unsigned whole numbers, one each, in a buffer view");
  Stream<std::uint32_t> stream;
  const bool as_wanted = found.component_bytes == 4 && found.stride == 4 &&
                         reinterpret_cast<std::uintptr_t>(found.bytes.bytes.data()) % 4 == 0;
  if (as_wanted) {
    stream = Stream<std::uint32_t>({reinterpret_cast<const std::uint32_t*>(found.bytes.bytes.data()), found.count},
                                   found.bytes.keeper);
  } else {
    document_.budget().spend(found.count, 4, accessor);
    std::vector<std::uint32_t> values(found.count);
    const auto convert = found.component_bytes == 1   ? widen<std::uint8_t>
                         : found.component_bytes == 2 ? widen<std::uint16_t>
                                                      : widen<std::uint32_t>;
    convert(found.bytes.bytes.data(), found.stride, values);
    stream = Stream<std::uint32_t>(std::move(values));
  }
  streams_[key] = std::make_shared<const Stream<std::uint32_t>>(stream);
  return stream;
}

}  // namespace periscena::gltf
