#include <periscena/passes/sprites.h>

#include "passes/shared_keys.h"
#include "passes/sprites/sprites_work.h"

#include <periscena/base/error.h>
#include <periscena/base/names.h>
#include <periscena/image/files.h>
#include <periscena/scene/sprite_sheet.h>

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace periscena::passes {
namespace {

std::vector<std::string> sheet_names(const Sprites& options) {
  std::vector<std::string> names;
  for (const SpriteSheet& sheet : options.sheets) names.push_back(sheet.name);
  return names;
}

/// @param number  from 1
void expect_sprite(const Sprites& options, const Sprite& sprite, std::size_t number, const Place& place,
                   Diagnostics& problems) {
  const auto what = [&] { return fmt::format("sprite {} of pass \"{}\"", number, options.name); };
  const auto place_of = [&](const Reference& name) { return name.place.known() ? name.place : place; };
  const auto sheet = find_sheet(options, sprite);
  if (!sheet) {
    const std::vector<std::string> names = sheet_names(options);
    const std::string cause = sprite.sheet.empty()
                                  ? fmt::format("{} names no sheet, and there are {}", what(), names.size())
                                  : fmt::format("{} names sheet \"{}\", which is not there", what(), sprite.sheet.name);
    problems.error("unknown-sheet", place_of(sprite.sheet), cause, name_hint(sprite.sheet.name, names));
    return;
  }
  const SpriteSheet& shown = options.sheets[*sheet];
  const std::vector<SpriteCell>& cells = shown.cells;
  const auto found = find_cell(options, sprite);
  if (!found) {
    std::vector<std::string> names;
    for (const SpriteCell& cell : cells) names.push_back(cell.name);
    problems.error(
        "unknown-cell", place_of(sprite.cell),
        fmt::format("{} shows \"{}\", which is no cell of sheet \"{}\"", what(), sprite.cell.name, shown.name),
        name_hint(sprite.cell.name, names));
    return;
  }
  const auto left = static_cast<int>(cells.size() - found->cell);
  if (sprite.cells < 1 || sprite.cells > left) {
    problems.error(
        "out-of-range", place,
        fmt::format("{} runs through {} cells, and the sheet has {} from there on", what(), sprite.cells, left),
        "give at least 1 and at most those");
  }
  const bool finite = is_finite(sprite.at) && is_finite(sprite.tint) && std::isfinite(sprite.width) &&
                      std::isfinite(sprite.rotation) && std::isfinite(sprite.alpha) &&
                      std::isfinite(sprite.cells_a_second);
  if (!finite || sprite.width < 0) {
    problems.error(finite ? "out-of-range" : "not-finite", place,
                   fmt::format("{} has {}", what(), finite ? "a negative width" : "a number that is not finite"),
                   "look for where it comes from");
  }
}

void expect_sound(const Sprites& options, const Place& place, Diagnostics& problems) {
  constexpr std::size_t most = 1u << 26;
  if (problems.has_errors() && options.sheets.empty()) return;  // why is told
  if (options.sheets.empty() || options.sprites.size() > most) {
    problems.error("no-sprites", place,
                   fmt::format("pass \"{}\" has {} sheets and {} sprites", options.name, options.sheets.size(),
                               options.sprites.size()),
                   fmt::format("give it at least one sheet, and at most {} sprites", most));
    return;
  }
  for (const SpriteSheet& sheet : options.sheets) {
    try {
      sheet.expect_sound(place);
    } catch (const Error& error) {
      problems.append(error.diagnostics());
      return;
    }
  }
  for (std::size_t i = 0; i < options.sprites.size(); ++i) {
    const Sprite& sprite = options.sprites[i];
    const Place& own = sprite.sheet.place.known() ? sprite.sheet.place : place;
    expect_sprite(options, sprite, i + 1, own, problems);
  }
}

const std::vector<std::string> flip_names{"none", "across", "up", "both"};

struct SheetKeys {
  std::string file, image;
  std::array<int, 2> grid{1, 1};
  std::optional<std::array<int, 3>> key_color;
};

struct SpriteKeys {
  Reference sheet, cell;
  std::array<float, 2> at{0, 0};
  std::string corner = "upper_left", flip = "none";
  float width = 0, rotate_degrees = 0, alpha = 1, cells_a_second = 0;
  std::array<float, 3> tint{1, 1, 1};
  int order = 0, cells = 1;
};

Keys<Sprites> sprites_keys() {
  Keys<Sprites> keys;
  keys.elsewhere("sheets", "table", {.required = true}, "By name: the path of a sheet's JSON, or a table")
      .elsewhere("sprite", "list of tables", {.required = true},
                 "What to draw: [[pass.sprite]], as often as there are sprites")
      .key("filter", &Sprites::filter, {.choices = {"nearest", "linear"}}, "How sheets are looked up")
      .key("least_alpha", &Sprites::least_alpha, {.minimum = 0, .maximum = 1},
           "0: blended by alpha; more: what has less alpha is left out, and the rest drawn whole");
  return keys;
}

Keys<SheetKeys> sheet_keys() {
  Keys<SheetKeys> keys;
  keys.key("file", &SheetKeys::file, {}, "A sheet's JSON")
      .key("image", &SheetKeys::image, {}, "A PNG")
      .key("grid", &SheetKeys::grid, {.minimum = 1}, "Columns and rows of an image's cells")
      .key("key_color", &SheetKeys::key_color, {.minimum = 0, .maximum = 255}, "Red, green and blue to cut out");
  return keys;
}

Keys<SpriteKeys> sprite_keys() {
  Keys<SpriteKeys> keys;
  keys.key("sheet", &SpriteKeys::sheet, {}, "May be left out when there is one")
      .key("cell", &SpriteKeys::cell, {}, "Left out, the first")
      .key("at", &SpriteKeys::at, {.unit = "pixels"}, "From the corner inward")
      .key("corner", &SpriteKeys::corner, {.choices = corner_names()}, "Of the picture, and of the sprite")
      .key("width", &SpriteKeys::width, {.unit = "pixels", .minimum = 0}, "0: as the cell is; the height follows")
      .key("rotate_degrees", &SpriteKeys::rotate_degrees, {.unit = "degrees"}, "About its middle, counter-clockwise")
      .key("tint", &SpriteKeys::tint, {.minimum = 0}, "Linear, multiplied")
      .key("alpha", &SpriteKeys::alpha, {.minimum = 0, .maximum = 1}, "Multiplied")
      .key("flip", &SpriteKeys::flip, {.choices = flip_names}, "Mirrored")
      .key("order", &SpriteKeys::order, {}, "Higher ones lie over lower ones")
      .key("cells", &SpriteKeys::cells, {.minimum = 1}, "To run through")
      .key("cells_a_second", &SpriteKeys::cells_a_second, {}, "How fast");
  return keys;
}

SpriteSheet read_one_sheet(const ValueMember& member, const PassSource& source, const std::string& what,
                           Diagnostics& problems) {
  static const Keys<SheetKeys> keys = sheet_keys();
  SheetKeys given;
  if (const std::string* path = member.value.text()) {
    given.file = *path;
  } else if (member.value.table()) {
    keys.read(member.value, what, given, problems);
    report_unknown_keys(member.value, what, keys.names(), problems);
  } else {
    problems.error("wrong-type", member.value.place, fmt::format("{} is {}", what, member.value.describe()),
                   "write the path of a JSON file, or { image = \"a.png\", grid = [4, 2] }");
  }
  if (given.file.empty() == given.image.empty()) {
    if (!problems.has_errors()) {
      problems.error("missing-key", member.value.place, fmt::format("{} needs one of file and image", what),
                     "write image = \"a.png\", grid = [4, 2]");
    }
    return {member.name, nullptr, {}};
  }
  SpriteSheet sheet = given.file.empty()
                          ? SpriteSheet::grid(member.name, source.pictures->read(source.folder / given.image),
                                              given.grid[0], given.grid[1], member.value.place)
                          : read_sheet(source.folder / given.file, source.pictures);
  sheet.name = member.name;
  if (given.key_color) sheet.cut_out(*given.key_color);
  return sheet;
}

void read_sheets(const Value& table, const PassSource& source, Sprites& options, Diagnostics& problems) {
  if (!table.table()) {
    problems.error("wrong-type", table.place, fmt::format("\"sheets\" is {}", table.describe()),
                   "write sheets = { dragonfly = \"dragonfly.json\" }");
    return;
  }
  for (const ValueMember& member : *table.table()) {
    const std::string what = fmt::format("sheet \"{}\" of pass \"{}\"", member.name, options.name);
    collect_mistakes(member.value.place, problems, [&] {
      SpriteSheet sheet = read_one_sheet(member, source, what, problems);
      if (sheet.image) options.sheets.push_back(std::move(sheet));
    });
  }
}

void read_sprites(const Value& list, Sprites& options, Diagnostics& problems) {
  static const Keys<SpriteKeys> keys = sprite_keys();
  if (!list.array()) {
    problems.error("wrong-type", list.place, fmt::format("\"sprite\" is {}", list.describe()),
                   "write [[pass.sprite]], then its keys");
    return;
  }
  for (const Value& one : *list.array()) {
    const std::string what = fmt::format("sprite {} of pass \"{}\"", options.sprites.size() + 1, options.name);
    SpriteKeys given;
    if (!one.table()) {
      problems.error("wrong-type", one.place, fmt::format("{} is {}", what, one.describe()),
                     "write { cell = \"up\", at = [8, 8] }");
      continue;
    }
    keys.read(one, what, given, problems);
    report_unknown_keys(one, what, keys.names(), problems);
    const int flip = index_of(flip_names, given.flip);
    if (!given.sheet.place.known()) given.sheet.place = one.place;
    options.sprites.push_back({given.sheet, given.cell, Vec2(given.at[0], given.at[1]),
                               static_cast<Corner>(index_of(corner_names(), given.corner)), given.width,
                               radians(given.rotate_degrees), Vec3(given.tint[0], given.tint[1], given.tint[2]),
                               given.alpha, (flip & 1) != 0, (flip & 2) != 0, given.order, given.cells,
                               given.cells_a_second});
  }
}

void finish_sprites(const Sprites& options, Pass& pass) {
  expect_sound(options, pass.place, pass.problems);
  pass.work = sprites_work(options);
}

const Kind<Sprites>& sprites_said() {
  static const Kind<Sprites> kind{
      .name = "sprites",
      .sentence =
          "Draws cells of sheets over a picture, placed in pixels of the frame's size, all in one call. `periscena "
          "pack` makes a sheet of loose PNGs.",
      .example =
          "[[pass]]\nname   = \"dragonflies\"\nkind   = \"sprites\"\nsheets = { dragonfly = \"dragonfly.json\" }\n"
          "writes = { color = \"output\" }\n\n"
          "[[pass.sprite]]\ncell           = \"wings 0\"\nat             = [40, 60]\ncorner         = \"upper_right\"\n"
          "width          = 96\ncells          = 4\ncells_a_second = 24\n",
      .reads = {},
      .writes = {{{"color", Need::required, "What is drawn over"}, &Sprites::color}},
      .keys = sprites_keys(),
      .finish = finish_sprites,
      .read_more =
          [](const PassSource& source, Sprites& options, Diagnostics& problems) {
            if (const Value* sheets = source.table->find("sheets")) read_sheets(*sheets, source, options, problems);
            if (const Value* sprites = source.table->find("sprite")) read_sprites(*sprites, options, problems);
            if (problems.has_errors()) options.sprites.clear();
          },
      .parts = {{"sheets = { NAME = { … } }", sheet_keys().infos()}, {"[[pass.sprite]]", sprite_keys().infos()}}};
  return kind;
}

}  // namespace

Pass sprites(const Sprites& options, Place place) {
  return sprites_said().make(options, std::move(place));
}

PassKind sprites_kind() {
  return sprites_said().kind();
}

}  // namespace periscena::passes
