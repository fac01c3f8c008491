#include "frame/sections.h"

#include <periscena/base/error.h>
#include <periscena/base/names.h>

#include <fmt/format.h>

#include <algorithm>

namespace periscena {
namespace {

struct MeshKeys {
  std::string kind;
  Vec3 size = Vec3::ones();
  float radius = 0.5f, height = 1, tube = 0.1f;
  int segments = 32;
};

const Keys<MeshKeys>& mesh_keys() {
  static const auto keys = [] {
    Keys<MeshKeys> k;
    k.key("kind", &MeshKeys::kind,
          {.choices = {"box", "plane", "cylinder", "cone", "sphere", "torus"}, .required = true},
          "The shape; all are centred at the origin, cylinders and cones along Y, planes and tori in XZ")
        .key("size", &MeshKeys::size, {.unit = "metres", .minimum = 0},
             "Width, height, depth of a box; width and depth (x and z) of a plane")
        .key("radius", &MeshKeys::radius, {.unit = "metres", .minimum = 0, .above_minimum = true},
             "Of a cylinder, a cone's base, a sphere, or to the middle of a torus' tube")
        .key("height", &MeshKeys::height, {.unit = "metres", .minimum = 0, .above_minimum = true},
             "Of a cylinder or a cone")
        .key("tube", &MeshKeys::tube, {.unit = "metres", .minimum = 0, .above_minimum = true},
             "Radius of a torus' tube")
        .key("segments", &MeshKeys::segments, {.minimum = 1, .maximum = 4096},
             "Around a round shape, or along each side of a plane");
    return k;
  }();
  return keys;
}

Mesh make_mesh(const MeshKeys& given) {
  if (given.kind == "box") return shapes::box(given.size);
  if (given.kind == "plane") return shapes::plane(given.size.x(), given.size.z(), given.segments);
  if (given.kind == "cylinder") return shapes::cylinder(given.radius, given.height, given.segments);
  if (given.kind == "cone") return shapes::cone(given.radius, given.height, given.segments);
  if (given.kind == "sphere") return shapes::sphere(given.radius, given.segments);
  return shapes::torus(given.radius, given.tube, given.segments, std::max(3, given.segments / 2));
}

/// About how many vertices a shape has.
std::size_t vertex_count(const MeshKeys& given) {
  const auto segments = static_cast<std::size_t>(given.segments);
  if (given.kind == "box") return 24;
  if (given.kind == "plane") return (segments + 1) * (segments + 1);
  if (given.kind == "sphere" || given.kind == "torus") return (segments + 1) * (segments / 2 + 1);
  return 6 * (segments + 1);
}

void read_meshes(const Value& root, const SceneSource& source, Scene& scene, Diagnostics& diagnostics) {
  // A few lines must not ask for all memory: with 60 bytes each, and indices, here and on the device.
  constexpr std::size_t most_vertices = 9'000'000;
  constexpr int coarse = 8;
  std::size_t vertices = 0;
  for (const ValueMember* section : named_tables(root, "mesh", diagnostics)) {
    const std::string what = fmt::format("mesh \"{}\"", section->name);
    MeshKeys given;
    Diagnostics found;
    mesh_keys().read(section->value, what, given, found);
    report_unknown_keys(section->value, what, mesh_keys().names(), found);
    vertices += vertex_count(given);
    if (vertices > most_vertices) {
      found.error("scene-size", section->place,
                  fmt::format("with {}, generated meshes have {} vertices, over {}", what, vertices, most_vertices),
                  "use fewer segments; meshes that are shown several times count once");
    }
    if (source.outlines()) given.segments = std::min(given.segments, coarse);
    if (!found.has_errors())
      collect_mistakes(section->place, found, [&] { scene.add_mesh(section->name, make_mesh(given)); });
    diagnostics.append(found);
    // Objects that show it should not be told off as well.
    if (!scene.find_mesh(section->name).valid()) scene.add_mesh(section->name, shapes::box(Vec3::ones()));
  }
}

}  // namespace

std::vector<const ValueMember*> named_tables(const Value& root, const std::string& section, Diagnostics& diagnostics) {
  std::vector<const ValueMember*> found;
  const Value* value = root.find(section);
  if (!value) return found;
  const Value::Table* table = value->table();
  if (!table) {
    diagnostics.error("wrong-type", value->place, fmt::format("\"{}\" is {}", section, value->describe()),
                      fmt::format("write a table for each: [{}.NAME]", section));
    return found;
  }
  for (const ValueMember& member : *table) {
    if (member.value.table()) {
      found.push_back(&member);
    } else {
      diagnostics.error(
          "wrong-type", member.place,
          fmt::format("\"{}.{}\" wants a table, but this is {}", section, member.name, member.value.describe()),
          fmt::format("write [{}.NAME], then the keys; a name with a dot needs quotes: [{}.\"scene.color\"]", section,
                      section));
    }
  }
  return found;
}

std::vector<const Value*> listed_tables(const Value& root, const std::string& section, Diagnostics& diagnostics) {
  std::vector<const Value*> found;
  const Value* value = root.find(section);
  if (!value) return found;
  const Value::Array* list = value->array();
  if (!list) {
    diagnostics.error("wrong-type", value->place, fmt::format("\"{}\" is {}", section, value->describe()),
                      fmt::format("write two brackets, once for each: [[{}]]", section));
    return found;
  }
  for (const Value& item : *list) {
    if (item.table()) {
      found.push_back(&item);
    } else {
      diagnostics.error("wrong-type", item.place,
                        fmt::format("\"{}\" wants tables, but this is {}", section, item.describe()),
                        fmt::format("write [[{}]], then the keys", section));
    }
  }
  return found;
}

std::filesystem::path path_beside(const Reference& file, const std::filesystem::path& folder) {
  const std::filesystem::path said_in(file.place.file_name());
  const bool in_file = file.place.source && !said_in.string().starts_with("--");
  return (in_file ? said_in.parent_path() : folder) / file.name;
}

void read_scene_sections(const Value& root, const SceneSource& source, Models& models, Scene& scene,
                         Diagnostics& diagnostics) {
  read_meshes(root, source, scene, diagnostics);
  read_textures(root, source, scene, diagnostics);
  read_materials(root, source.folder, scene, diagnostics);
  if (root.find("object")) read_objects(root, models, scene, diagnostics);
  read_blocks(root, source, scene, diagnostics);
  read_lights(root, scene, diagnostics);
  read_environments(root, source, scene, diagnostics);
  read_fogs(root, scene, diagnostics);
  read_variants(root, scene, diagnostics);
  read_views(root, source.aspect, scene, diagnostics);
}

const std::vector<std::string>& scene_section_names() {
  static const std::vector<std::string> names{"mesh",  "texture",     "material", "model",   "object", "blocks",
                                              "light", "environment", "fog",      "variant", "view"};
  return names;
}

std::vector<SectionInfo> scene_sections() {
  std::vector<SectionInfo> sections{
      {"[mesh.NAME]", "A shape for objects to show.", mesh_keys().infos(),
       "[mesh.post]\nkind   = \"cylinder\"\nradius = 0.1\nheight = 1.2\n"},
  };
  const auto add = [&](std::vector<SectionInfo> more) {
    for (SectionInfo& section : more) sections.push_back(std::move(section));
  };
  add(material_sections());
  add({model_section()});
  add(object_sections());
  add({block_section()});
  add(light_sections());
  add({view_section()});
  return sections;
}

}  // namespace periscena
