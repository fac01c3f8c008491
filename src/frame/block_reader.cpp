#include "frame/sections.h"

#include <periscena/base/error.h>
#include <periscena/image/files.h>
#include <periscena/scene/blocks.h>

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace periscena {
namespace {

struct BlockKeys {
  Vec3 block = Vec3::ones();
  Value heights;
  Reference picture, parent;
  int levels = 8;
  std::vector<Reference> materials;
  std::vector<std::string> tags;
  Value transform;
  bool underside = false;
};

const Keys<BlockKeys>& block_keys() {
  static const auto keys = [] {
    Keys<BlockKeys> k;
    k.key("block", &BlockKeys::block, {.unit = "metres", .minimum = 0, .above_minimum = true}, "Size of each block")
        .key("heights", &BlockKeys::heights, {},
             "Rows of numbers, the farthest (least z) first: how many blocks stand on each other there")
        .key("picture", &BlockKeys::picture, {}, "Instead of heights: a picture, a pixel for each column")
        .key("levels", &BlockKeys::levels, {.minimum = 1, .maximum = BlockGrid::longest},
             "Of a picture: how high white is, in blocks")
        .key("materials", &BlockKeys::materials, {.required = true},
             "From the top of each column down; the last goes on to the ground")
        .key("underside", &BlockKeys::underside, {}, "Are faces drawn that look down to the ground?")
        .key("parent", &BlockKeys::parent, {}, "An object that they follow")
        .key("tags", &BlockKeys::tags, {}, "As of objects")
        .key("transform", &BlockKeys::transform, {}, "As of objects; the origin is the corner of least x, y and z");
    return k;
  }();
  return keys;
}

using Rows = std::vector<std::vector<int>>;

/// @return empty when something is wrong with it, which was told
Rows read_heights(const Value& value, const std::string& what, Diagnostics& problems) {
  const auto refuse = [&](const Value& at, const std::string& cause) {
    problems.error("wrong-type", at.place, cause, "write heights = [[1, 2, 2], [1, 1, 2]]: rows of equal length");
    return Rows();
  };
  if (!value.array() || value.array()->empty())
    return refuse(value, fmt::format("the heights of {} want rows, but this is {}", what, value.describe()));
  Rows rows;
  for (const Value& row : *value.array()) {
    if (!row.array() || row.array()->empty())
      return refuse(row, fmt::format("a row of the heights of {} is {}", what, row.describe()));
    if (!rows.empty() && row.array()->size() != rows[0].size()) {
      return refuse(row, fmt::format("a row of the heights of {} is {} long, and the first {}", what,
                                     row.array()->size(), rows[0].size()));
    }
    std::vector<int>& numbers = rows.emplace_back();
    for (const Value& one : *row.array()) {
      double number = -1;
      if (!one.number(number) || number != std::floor(number) || number < 0 || number > BlockGrid::longest) {
        return refuse(one, fmt::format("a height of {} is {}, and should be a whole number from 0 to {}", what,
                                       one.describe(), BlockGrid::longest));
      }
      numbers.push_back(static_cast<int>(number));
    }
  }
  return rows;
}

Rows rows_of(const Image& image, int levels) {
  if (image.is_outline()) return {{levels}};
  Rows rows(static_cast<std::size_t>(image.height()), std::vector<int>(static_cast<std::size_t>(image.width())));
  const double white = image.is_eight_bit() ? 255 : 1;
  for (int y = 0; y < image.height(); ++y) {
    for (int x = 0; x < image.width(); ++x) {
      const double share = image.at(x, y)[0] / white;
      rows[static_cast<std::size_t>(y)][static_cast<std::size_t>(x)] =
          static_cast<int>(std::lround(std::clamp(std::isfinite(share) ? share : 0.0, 0.0, 1.0) * levels));
    }
  }
  return rows;
}

int longest_column(const Rows& rows) {
  int longest = 1;
  for (const auto& row : rows) longest = std::max(longest, *std::max_element(row.begin(), row.end()));
  return longest;
}

BlockGrid grid_of(const Rows& rows, const BlockKeys& given) {
  const int highest = longest_column(rows);
  const auto last = static_cast<int>(given.materials.size());
  return BlockGrid::of_heights(
      static_cast<int>(rows[0].size()), highest, static_cast<int>(rows.size()), given.block,
      [&](int x, int z) { return rows[static_cast<std::size_t>(z)][static_cast<std::size_t>(x)]; },
      [last](int below) { return static_cast<std::uint8_t>(std::min(below + 1, last)); });
}

/// A node that carries one for each material.
void add_objects(const ValueMember& section, const BlockKeys& given, const Rows& rows, const Transform& placement,
                 Scene& scene) {
  const BlockGrid grid = grid_of(rows, given);
  Node carrier;
  carrier.name = section.name;
  carrier.tags = given.tags;
  carrier.placement = placement;
  if (!given.parent.empty()) carrier.parent = scene.find_node(given.parent.name);
  const NodeHandle parent = scene.add_node(carrier);
  for (const BlockGrid::Part& part : grid.parts(given.underside)) {
    const std::string& material = given.materials[part.kind - 1u].name;
    Node node;
    node.name = fmt::format("{}, {}", section.name, part.kind);
    node.parent = parent;
    node.mesh = scene.add_mesh(node.name, part.mesh);
    node.material = scene.find_material(material);
    scene.add_node(node);
  }
}

void read_one(const ValueMember& section, const SceneSource& source, Scene& scene, Diagnostics& problems) {
  const std::string what = fmt::format("blocks \"{}\"", section.name);
  BlockKeys given;
  block_keys().read(section.value, what, given, problems);
  report_unknown_keys(section.value, what, block_keys().names(), problems);
  for (const Reference& material : given.materials) {
    expect_found(
        material, scene.find_material(material.name).valid(), what, "material",
        [&] { return names_of(scene.materials()); }, problems);
  }
  expect_found(
      given.parent, scene.find_node(given.parent.name).valid(), what, "object", [&] { return names_of(scene.nodes()); },
      problems);
  const Transform placement = read_transform(given.transform, what, problems);
  if (given.heights.empty() == given.picture.empty()) {
    problems.error("missing-key", section.place, fmt::format("{} needs one of heights and picture", what),
                   "write heights = [[1, 2, 2], [1, 1, 2]]");
  }
  if (given.materials.size() > 255 || (section.value.find("materials") && given.materials.empty())) {
    problems.error("out-of-range", section.place, fmt::format("{} has {} materials", what, given.materials.size()),
                   "give it 1 to 255");
  }
  Rows rows;
  if (!given.heights.empty()) rows = read_heights(given.heights, what, problems);
  if (problems.has_errors()) return;
  collect_mistakes(section.place, problems, [&] {
    if (!given.picture.empty()) {
      const auto path = path_beside(given.picture, source.folder);
      rows = rows_of(*source.pictures.read(path, PictureReader::Use::data), given.levels);
    }
    add_objects(section, given, source.outlines() ? Rows{{longest_column(rows)}} : rows, placement, scene);
  });
}

}  // namespace

void read_blocks(const Value& root, const SceneSource& source, Scene& scene, Diagnostics& diagnostics) {
  for (const ValueMember* section : named_tables(root, "blocks", diagnostics)) {
    Diagnostics problems;
    read_one(*section, source, scene, problems);
    diagnostics.append(problems);
  }
}

SectionInfo block_section() {
  return {"[blocks.NAME]",
          "Columns of blocks, as brickwork or terrain: one object for each material, without the faces between blocks.",
          block_keys().infos(),
          "[blocks.bank]\nblock     = [1, 0.5, 1]\nheights   = [[1, 2, 3, 2], [1, 1, 2, 1]]\nmaterials = [\"grass\", "
          "\"earth\"]\n"};
}

}  // namespace periscena
