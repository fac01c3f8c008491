#include "model/gltf/import.h"

#include <periscena/base/error.h>

#include <fmt/format.h>

#include <algorithm>
#include <numeric>

namespace periscena::gltf {
namespace {

enum Mode { points, lines, line_loop, line_strip, triangles, triangle_strip, triangle_fan };

/// Indices of separate lines or triangles for those that share corners (glTF 2.0, 3.7.2.1).
std::vector<std::uint32_t> separate(std::span<const std::uint32_t> in, std::uint64_t mode) {
  std::vector<std::uint32_t> out;
  const std::size_t n = in.size();
  switch (mode) {
    case line_loop:
    case line_strip:
      for (std::size_t i = 0; i + 1 < n; ++i) out.insert(out.end(), {in[i], in[i + 1]});
      if (mode == line_loop && n > 1) out.insert(out.end(), {in[n - 1], in[0]});
      break;
    case triangle_strip:
      for (std::size_t i = 0; i + 2 < n; ++i) out.insert(out.end(), {in[i], in[i + 1 + i % 2], in[i + 2 - i % 2]});
      break;
    default:
      for (std::size_t i = 0; i + 2 < n; ++i) out.insert(out.end(), {in[i + 1], in[i + 2], in[0]});
  }
  return out;
}

}  // namespace

Stream<std::uint32_t> Importer::read_indices(const JsonReader& primitive, std::size_t vertices, Primitive& kind) {
  const std::uint64_t mode = primitive.whole("mode", triangles);
  if (mode > triangle_fan) primitive.at("mode").refuse(fmt::format("is {}, but must be 0 to 6", mode));
  kind = mode == points ? Primitive::points : mode <= line_strip ? Primitive::lines : Primitive::triangles;
  Stream<std::uint32_t> indices;
  if (const auto accessor = primitive.index("indices", document_.count("accessors"), "accessors")) {
    indices = accessors_.indices(*accessor);
  } else {
    document_.budget().spend(vertices, 4, primitive);
    std::vector<std::uint32_t> all(vertices);
    std::iota(all.begin(), all.end(), 0u);
    indices = std::move(all);
  }
  if (!indices.empty()) {
    const std::uint32_t largest = *std::max_element(indices.begin(), indices.end());
    if (largest >= vertices) {
      primitive.refuse(fmt::format("has index {}, but there are {} vertices", largest, vertices),
                       "indices count from 0");
    }
  }
  if (mode == line_loop || mode == line_strip || mode == triangle_strip || mode == triangle_fan) {
    document_.budget().spend(indices.size(), 12, primitive);
    return separate(indices.values(), mode);
  }
  const std::size_t each = kind == Primitive::triangles ? 3 : kind == Primitive::lines ? 2 : 1;
  if (indices.size() % each == 0) return indices;
  warn("incomplete-primitive",
       fmt::format("{} has {} indices, which is not a multiple of {}", primitive.path(), indices.size(), each),
       "the last ones are left out");
  std::vector<std::uint32_t> whole = indices.copy();
  whole.resize(whole.size() / each * each);
  return whole;
}

MeshHandle Importer::read_mesh(const JsonReader& primitive, const MeshNames& names, const Material& material) {
  const JsonReader attributes = primitive.at("attributes");
  const std::size_t accessor_count = document_.count("accessors");
  const auto attribute = [&](const char* key) { return attributes.index(key, accessor_count, "accessors"); };
  const auto position = attribute("POSITION");
  if (!position) return {};  // nothing to draw (glTF 2.0, 3.7.2.1)
  const auto normal = attribute("NORMAL"), tangent = normal ? attribute("TANGENT") : std::nullopt,
             uv = attribute("TEXCOORD_0"), second_uv = attribute("TEXCOORD_1"), color = attribute("COLOR_0");
  const std::uint64_t mode = primitive.whole("mode", triangles);
  // Primitives of the same accessors are one mesh, whatever their materials.
  constexpr std::size_t none = ~std::size_t{0};
  std::vector<std::size_t> key{names.copy, *position, mode,
                               primitive.index("indices", accessor_count, "accessors").value_or(none)};
  for (const auto& accessor : {normal, tangent, uv, second_uv, color}) key.push_back(accessor.value_or(none));
  const bool needs_tangents = mode >= triangles && material.normal_map.valid() && !tangent;
  key.push_back(needs_tangents ? static_cast<std::size_t>(1 + material.normal_map.uv_set) : 0);
  if (const auto known = known_meshes_.find(key); known != known_meshes_.end()) return known->second;

  Mesh mesh;
  mesh.positions = accessors_.floats<Vec3>(*position);
  if (normal) mesh.normals = accessors_.floats<Vec3>(*normal);
  if (tangent) mesh.tangents = accessors_.floats<Vec4>(*tangent);
  if (uv) mesh.uv = accessors_.floats<Vec2>(*uv);
  if (second_uv) mesh.second_uv = accessors_.floats<Vec2>(*second_uv);
  if (color) mesh.colors = accessors_.colors(*color);
  mesh.indices = read_indices(primitive, mesh.positions.size(), mesh.primitive);
  if (mesh.indices.empty()) return {};
  const auto expect_count = [&](const char* what, std::size_t count) {
    if (count != 0 && count != mesh.positions.size())
      primitive.refuse(fmt::format("has {} {} for {} positions", count, what, mesh.positions.size()));
  };
  expect_count("normals", mesh.normals.size());
  expect_count("tangents", mesh.tangents.size());
  expect_count("texture coordinates", mesh.uv.size());
  expect_count("second texture coordinates", mesh.second_uv.size());
  expect_count("colors", mesh.colors.size());
  constexpr std::size_t whole_corner = 96;
  if (mesh.primitive == Primitive::triangles && mesh.normals.empty()) {
    document_.budget().spend(mesh.indices.size(), whole_corner, primitive);
    mesh = with_flat_normals(mesh);
  }
  if (needs_tangents) {
    document_.budget().spend(mesh.indices.size(), 2 * whole_corner, primitive);
    const bool by_second = material.normal_map.uv_set == 1;
    if (by_second) std::swap(mesh.uv, mesh.second_uv);
    mesh = with_tangents(mesh);
    if (by_second) std::swap(mesh.uv, mesh.second_uv);
  }
  Scene& scene = result_.scene;
  const std::string free =
      mesh_names_.next(names.name, [&](const std::string& n) { return scene.find_mesh(n).valid(); });
  try {
    return known_meshes_[key] = scene.add_mesh(free, std::move(mesh));
  } catch (const Mistake& mistake) {
    primitive.refuse(fmt::format("can't be drawn: {}", mistake.diagnostics()[0].message),
                     mistake.diagnostics()[0].mend);
  }
}

Importer::Shape Importer::read_primitive(const JsonReader& primitive, const MeshNames& names) {
  Shape shape;
  const auto material = primitive.index("material", materials_.size(), "materials");
  if (const auto variants = primitive.extension("KHR_materials_variants")) {
    for (const JsonReader& mapping : variants->items("mappings")) {
      const std::size_t other = mapping.at("material").index(materials_.size(), "materials");
      for (const JsonReader& variant : mapping.items("variants"))
        shape.variants.emplace_back(variant.index(variant_choices_.size(), "variants"), materials_[other]);
    }
  }
  if (material) shape.material = materials_[*material];
  shape.mesh = read_mesh(primitive, names, material ? result_.scene.materials()[shape.material.index] : Material());
  return shape;
}

void Importer::warn_of_morphs(const JsonReader& mesh) {
  for (const JsonReader& primitive : mesh.items("primitives")) {
    if (!primitive.has("targets")) continue;
    warn("unsupported-morphs", fmt::format("{} has morph targets, which are not supported", mesh.path()),
         "it is drawn as it is without them");
    return;
  }
}

void Importer::add_meshes() {
  if (const auto variants = document_.root().extension("KHR_materials_variants"))
    variant_choices_.resize(variants->items("variants").size());
  for (std::size_t i = 0; i < document_.count("meshes"); ++i) {
    const JsonReader mesh = document_.item("meshes", i);
    MeshNames names{mesh.text("name", "")};
    if (names.name.empty()) names.name = fmt::format("mesh {}", i);
    if (const auto own = mesh.own()) names.copy = own->whole("copy", 0);
    std::vector<Shape>& shapes = shapes_.emplace_back();
    for (const JsonReader& primitive : mesh.at("primitives").items())
      shapes.push_back(read_primitive(primitive, names));
    warn_of_morphs(mesh);
  }
}

}  // namespace periscena::gltf
