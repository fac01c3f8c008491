#include "model/polygons.h"

#include <periscena/base/error.h>
#include <periscena/base/file.h>
#include <periscena/base/names.h>
#include <periscena/base/utf8.h>
#include <periscena/model/obj.h>

#include <fmt/format.h>
#include <tiny_obj_loader.h>

#include <algorithm>
#include <array>
#include <map>
#include <sstream>

namespace periscena {
namespace {

constexpr std::size_t most_text = std::size_t{1} << 30;

void note_latin(const std::string& file, Diagnostics& notes) {
  notes.note("latin-1", Place::file(file), fmt::format("{} is no UTF-8; it is read as Latin-1", file),
             "save it as UTF-8 if names look wrong");
}

/// @throws Error "path-outside"
std::filesystem::path path_beside_model(const std::filesystem::path& folder, const std::string& model,
                                        std::string file) {
  std::replace(file.begin(), file.end(), '\\', '/');
  const auto path = path_within(folder, file);
  if (!path) {
    fail("path-outside", Place::file(model), fmt::format("{} names \"{}\", which is not in its folder", model, file),
         "put the file itself beside the model, or below");
  }
  return *path;
}

/// Text as UTF-8: bytes that are none are taken for Latin-1, whose characters are the first of Unicode.
std::string as_utf8(std::string bytes, bool& was_latin) {
  constexpr std::string_view byte_order_mark = "\xEF\xBB\xBF";
  if (bytes.starts_with(byte_order_mark)) bytes.erase(0, byte_order_mark.size());
  was_latin = !is_utf8(bytes);
  if (!was_latin) return bytes;
  std::string text;
  for (const char c : bytes) append_character(static_cast<unsigned char>(c), text);
  return text;
}

/// Back again: how a program that writes Latin-1 names its files.
std::string as_latin(std::string_view text) {
  std::string bytes;
  while (!text.empty()) {
    const char32_t code = take_character(text);
    bytes += code < 0x100 ? static_cast<char>(code) : '?';
  }
  return bytes;
}

/// A picture of metallic in blue and of roughness in green, as materials want them together.
Image together(const Image& metallic, const Image* roughness) {
  if (metallic.is_outline()) return Image::outline(metallic.width(), metallic.height(), Format::rgba8);
  Image image(metallic.width(), metallic.height(), Format::rgba8);
  for (int y = 0; y < image.height(); ++y) {
    for (int x = 0; x < image.width(); ++x) {
      const double rough =
          roughness ? roughness->at(x * roughness->width() / image.width(), y * roughness->height() / image.height())[0]
                    : 255;
      image.set(x, y, {255, rough, metallic.at(x, y)[0], 255});
    }
  }
  return image;
}

/// Reads material files that lie beside the model, whole, so that each failure has its place.
class MaterialFiles final : public tinyobj::MaterialReader {
 public:
  MaterialFiles(std::filesystem::path folder, Diagnostics& notes, std::string name)
      : folder_(std::move(folder)), notes_(notes), name_(std::move(name)) {}

  bool operator()(const std::string& file, std::vector<tinyobj::material_t>* materials,
                  std::map<std::string, int>* names, std::string* warn, std::string* err) override {
    const std::filesystem::path path = path_beside_model(folder_, name_, file);
    try {
      bool latin = false;
      std::istringstream text(as_utf8(read_bytes(path, most_text), latin));
      if (latin) note_latin(path.lexically_normal().string(), notes_);
      tinyobj::LoadMtl(names, materials, &text, warn, err);
      return true;
    } catch (const Error& error) {
      notes_.warning("missing-materials", Place::file(name_), error.diagnostics()[0].message,
                     "objects that use it are grey");
      return false;
    }
  }

 private:
  std::filesystem::path folder_;
  Diagnostics& notes_;
  std::string name_;
};

class ObjImporter {
 public:
  ObjImporter(const std::filesystem::path& path, PictureReader* pictures)
      : name_(path.lexically_normal().string()),
        folder_(path.parent_path()),
        pictures_(pictures ? *pictures : own_pictures_) {}

  Import run(std::string bytes) {
    bool latin = false;
    expect_numbers(bytes);
    std::istringstream in(as_utf8(std::move(bytes), latin));
    if (latin) note_latin(name_, result_.notes);
    MaterialFiles files(folder_, result_.notes, name_);
    std::string warning, error;
    if (!tinyobj::LoadObj(&attributes_, &shapes_, &materials_, &warning, &error, &in, &files, false, false))
      refuse(error.empty() ? "can't be read" : error.substr(0, error.find('\n')));
    for (const tinyobj::material_t& material : materials_) handles_.push_back(add_material(material));
    for (const tinyobj::shape_t& shape : shapes_) add_shape(shape);
    if (result_.scene.nodes().empty()) refuse("holds nothing to draw");
    return std::move(result_);
  }

 private:
  /// Numbers of vertices that no int holds would be read as others.
  void expect_numbers(std::string_view text) const {
    constexpr std::string_view digits = "0123456789", largest = "2147483647";
    while (!text.empty()) {
      std::string_view line = text.substr(0, text.find('\n'));
      text.remove_prefix(std::min(text.size(), line.size() + 1));
      line.remove_prefix(std::min(line.size(), line.find_first_not_of(" \t")));
      if (line.size() < 2 || (line[0] != 'f' && line[0] != 'l' && line[0] != 'p')) continue;
      for (std::size_t at = line.find_first_of(digits); at != line.npos; at = line.find_first_of(digits, at)) {
        const std::string_view number = line.substr(at, line.find_first_not_of(digits, at) - at);
        at += number.size();
        const std::string_view value = number.substr(std::min(number.find_first_not_of('0'), number.size()));
        if (value.size() > largest.size() || (value.size() == largest.size() && value > largest))
          refuse(fmt::format("a face names vertex {:.20}, over {}", value, largest));
      }
    }
  }

  [[noreturn]] void refuse(const std::string& cause, const std::string& mend = "export the file again") const {
    fail("broken-obj", Place::file(name_), fmt::format("{}: {}", name_, cause), mend);
  }

  TextureUse map(const std::string& file, TextureHolds holds) {
    if (file.empty()) return {};
    Scene& scene = result_.scene;
    const std::string name = fmt::format("{}{}", file, holds == TextureHolds::data ? " (data)" : "");
    if (const TextureHandle known = scene.find_texture(name); known.valid()) return {.texture = known};
    const std::shared_ptr<const Image> image = read(file);
    if (!image) return {};
    return {.texture = scene.add_texture({.name = name, .image = image, .holds = holds})};
  }

  /// @return null, with a note, for what can't be read
  std::shared_ptr<const Image> read(const std::string& file) {
    std::filesystem::path path = path_beside_model(folder_, name_, file);
    std::error_code ignored;
    if (!std::filesystem::exists(path, ignored)) {
      const auto latin = path_beside_model(folder_, name_, as_latin(file));
      if (std::filesystem::exists(latin, ignored)) path = latin;
    }
    try {
      return pictures_.read(path);
    } catch (const Error& error) {
      result_.notes.warning("missing-texture", Place::file(name_), error.diagnostics()[0].message,
                            "the material goes without it");
      return nullptr;
    }
  }

  /// Two grey pictures become one.
  TextureUse metallic_map(const std::string& metallic, const std::string& roughness) {
    const std::string name = fmt::format("{} and {}", metallic, roughness.empty() ? "no roughness" : roughness);
    if (const TextureHandle known = result_.scene.find_texture(name); known.valid()) return {.texture = known};
    const std::shared_ptr<const Image> first = read(metallic), second = roughness.empty() ? nullptr : read(roughness);
    for (const auto& image : {first, second}) {
      if (!image || image->is_eight_bit()) continue;
      result_.notes.warning("unsupported-map", Place::file(name_),
                            fmt::format("{} holds floats, which can't be a metallic map here", name), "use 8 bits");
      return {};
    }
    if (!first) return {};
    return {.texture =
                result_.scene.add_texture({.name = name,
                                           .image = std::make_shared<const Image>(together(*first, second.get())),
                                           .holds = TextureHolds::data})};
  }

  void note_other_maps(const tinyobj::material_t& from) {
    const auto note = [&](const std::string& file, const char* what, const char* mend) {
      if (file.empty()) return;
      result_.notes.warning("unsupported-map", Place::file(name_),
                            fmt::format("material \"{}\" has {} (\"{}\"), which is not read", from.name, what, file),
                            mend);
    };
    note(from.bump_texname, "a map of heights", "give a map of normals: norm FILE");
    note(from.alpha_texname, "a map of alpha", "put it into the alpha of map_Kd");
    note(from.specular_texname, "a map of highlights", "say how rough it is: Pr, map_Pr");
    note(from.displacement_texname, "a map of displacements", "give a finer mesh");
  }

  MaterialHandle add_material(const tinyobj::material_t& from) {
    Scene& scene = result_.scene;
    Material material;
    material.name = material_names_.next(from.name.empty() ? "material" : from.name,
                                         [&](const std::string& name) { return scene.find_material(name).valid(); });
    const auto color = [](const tinyobj::real_t* rgb) -> Vec3 { return Vec3(rgb[0], rgb[1], rgb[2]).max(0).min(1); };
    material.base_color = from.diffuse_texname.empty() ? color(from.diffuse) : Vec3::ones();
    material.emission = Vec3(from.emission[0], from.emission[1], from.emission[2]).max(0);
    material.alpha = std::clamp(from.dissolve, 0.0f, 1.0f);
    if (material.alpha < 1) material.alpha_mode = Material::AlphaMode::blend;
    // Pr and Pm say how it is; without them there is the highlight of Ks and Ns.
    const bool measured =
        from.roughness > 0 || from.metallic > 0 || !from.roughness_texname.empty() || !from.metallic_texname.empty();
    if (measured) {
      material.roughness = std::clamp(from.roughness, 0.0f, 1.0f);
      material.metallic = std::clamp(from.metallic, 0.0f, 1.0f);
      if (!from.roughness_texname.empty()) material.roughness = 1;
      if (!from.metallic_texname.empty()) material.metallic = 1;
    } else {
      material.shading = Material::Shading::blinn_phong;
      material.specular = color(from.specular);
      material.shininess = std::clamp(from.shininess, 1.0f, 10000.0f);
    }
    material.base_color_map = map(from.diffuse_texname, TextureHolds::color);
    if (from.metallic_texname.empty()) {
      material.roughness_scale_map = map(from.roughness_texname, TextureHolds::data);
    } else {
      material.metallic_roughness_map = metallic_map(from.metallic_texname, from.roughness_texname);
    }
    note_other_maps(from);
    material.normal_map = map(from.normal_texname, TextureHolds::data);
    material.emission_map = map(from.emissive_texname, TextureHolds::color);
    return scene.add_material(std::move(material));
  }

  MaterialHandle material_of(int id) {
    if (id >= 0 && static_cast<std::size_t>(id) < handles_.size()) return handles_[static_cast<std::size_t>(id)];
    const MaterialHandle known = result_.scene.find_material("default");
    return known.valid() ? known : result_.scene.add_material({.name = "default"});
  }

  /// Corners of one mesh; equal ones are shared.
  struct Corners {
    std::vector<Vec3> positions, normals;
    std::vector<Vec2> uv;
    std::vector<Vec4> colors;
    std::vector<std::uint32_t> indices;
    std::map<std::array<int, 3>, std::uint32_t> known;
    bool all_normals = true, all_uv = true;
  };

  void expect_known(int value, std::size_t count, const char* what, bool required) const {
    if (value < (required ? 0 : -1) || (value >= 0 && static_cast<std::size_t>(value) >= count))
      refuse(fmt::format("a face names {} {}, but there are {}", what, value + 1, count));
  }

  void expect_vertex(const tinyobj::index_t& index) const {
    expect_known(index.vertex_index, attributes_.vertices.size() / 3, "vertex", true);
  }

  void add_corner(Corners& into, const tinyobj::index_t& index) {
    expect_vertex(index);
    expect_known(index.normal_index, attributes_.normals.size() / 3, "normal", false);
    expect_known(index.texcoord_index, attributes_.texcoords.size() / 2, "texture coordinates", false);
    const std::array key{index.vertex_index, index.normal_index, index.texcoord_index};
    const auto found = into.known.try_emplace(key, static_cast<std::uint32_t>(into.positions.size()));
    into.indices.push_back(found.first->second);
    if (!found.second) return;
    const auto three = [](const std::vector<tinyobj::real_t>& from, int at) {
      const auto i = static_cast<std::size_t>(at) * 3;
      return Vec3(from[i], from[i + 1], from[i + 2]);
    };
    into.positions.push_back(three(attributes_.vertices, index.vertex_index));
    into.all_normals = into.all_normals && index.normal_index >= 0;
    into.all_uv = into.all_uv && index.texcoord_index >= 0;
    into.normals.push_back(index.normal_index >= 0 ? three(attributes_.normals, index.normal_index) : Vec3::zero());
    if (index.texcoord_index >= 0) {
      const auto i = static_cast<std::size_t>(index.texcoord_index) * 2;
      into.uv.emplace_back(attributes_.texcoords[i], 1 - attributes_.texcoords[i + 1]);
    } else {
      into.uv.push_back(Vec2::zero());
    }
    const auto color = static_cast<std::size_t>(index.vertex_index) * 3;
    if (color + 2 < attributes_.colors.size())
      into.colors.emplace_back(attributes_.colors[color], attributes_.colors[color + 1], attributes_.colors[color + 2],
                               1);
  }

  void add_face(Corners& into, std::span<const tinyobj::index_t> corners) {
    if (corners.size() < 3) return;
    face_.clear();
    for (const tinyobj::index_t& corner : corners) {
      expect_vertex(corner);
      const auto i = static_cast<std::size_t>(corner.vertex_index) * 3;
      face_.emplace_back(attributes_.vertices[i], attributes_.vertices[i + 1], attributes_.vertices[i + 2]);
    }
    const auto triangles = triangulation_.triangulate(face_);
    if (!triangles) {
      refuse(fmt::format("has a face of {} corners that is not convex, which takes too long to take apart",
                         corners.size()),
             "let the program that wrote it make triangles");
    }
    for (const auto& triangle : *triangles) {
      for (const std::uint32_t corner : triangle) add_corner(into, corners[corner]);
    }
  }

  void add_shape(const tinyobj::shape_t& shape) {
    const std::string name = shape.name.empty() ? "shape" : shape.name;
    std::map<int, Corners> by_material;
    std::size_t first_corner = 0;
    for (std::size_t face = 0; face < shape.mesh.num_face_vertices.size(); ++face) {
      const std::size_t count = shape.mesh.num_face_vertices[face];
      const int material = face < shape.mesh.material_ids.size() ? shape.mesh.material_ids[face] : -1;
      add_face(by_material[material], std::span(shape.mesh.indices).subspan(first_corner, count));
      first_corner += count;
    }
    for (auto& [material, corners] : by_material) add_mesh(name, Primitive::triangles, material_of(material), corners);
    Corners lines, points;
    std::size_t first = 0;
    for (const int count : shape.lines.num_line_vertices) {
      for (int i = 0; i + 1 < count; ++i) {
        add_corner(lines, shape.lines.indices.at(first + static_cast<std::size_t>(i)));
        add_corner(lines, shape.lines.indices.at(first + static_cast<std::size_t>(i) + 1));
      }
      first += static_cast<std::size_t>(count);
    }
    for (const tinyobj::index_t& index : shape.points.indices) add_corner(points, index);
    if (!lines.indices.empty()) add_mesh(name + ", lines", Primitive::lines, material_of(-1), lines);
    if (!points.indices.empty()) add_mesh(name + ", points", Primitive::points, material_of(-1), points);
  }

  void add_mesh(const std::string& name, Primitive primitive, MaterialHandle material, Corners& corners) {
    Scene& scene = result_.scene;
    Mesh mesh;
    mesh.primitive = primitive;
    mesh.positions = std::move(corners.positions);
    if (corners.all_normals) mesh.normals = std::move(corners.normals);
    if (corners.all_uv) mesh.uv = std::move(corners.uv);
    if (corners.colors.size() == mesh.positions.size()) mesh.colors = std::move(corners.colors);
    mesh.indices = std::move(corners.indices);
    if (primitive == Primitive::triangles && mesh.normals.empty()) mesh = with_flat_normals(mesh);
    if (scene.materials()[material.index].normal_map.valid()) mesh = with_tangents(mesh);
    const std::string free = shape_names_.next(name, [&](const std::string& taken) {
      return scene.find_mesh(taken).valid() || scene.find_node(taken).valid();
    });
    Node node;
    node.name = free;
    try {
      node.mesh = scene.add_mesh(free, std::move(mesh));
    } catch (const Mistake& mistake) {
      refuse(mistake.diagnostics()[0].message);
    }
    node.material = material;
    scene.add_node(node);
  }

  std::string name_;
  std::filesystem::path folder_;
  Import result_;
  tinyobj::attrib_t attributes_;
  std::vector<tinyobj::shape_t> shapes_;
  std::vector<tinyobj::material_t> materials_;
  std::vector<MaterialHandle> handles_;
  PictureReader own_pictures_;
  PictureReader& pictures_;
  FreeNames material_names_, shape_names_;
  Triangulation triangulation_;
  std::vector<Vec3> face_;  ///< the corners of the one that is taken apart
};

}  // namespace

Import read_obj(const std::filesystem::path& path, PictureReader* pictures) {
  return ObjImporter(path, pictures).run(read_bytes(path, most_text));
}

}  // namespace periscena
