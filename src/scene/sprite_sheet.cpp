#include <periscena/scene/sprite_sheet.h>

#include <periscena/base/error.h>
#include <periscena/base/file.h>
#include <periscena/image/files.h>

#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include <algorithm>
#include <cmath>
#include <set>

namespace periscena {
namespace {

using Json = nlohmann::ordered_json;

constexpr int largest_side = 16384;  // that OpenGL 4.5 guarantees

[[noreturn]] void bad_sheet(const std::string& name, const Place& place, const std::string& cause, const char* mend) {
  throw Mistake("bad-sheet", place, fmt::format("sheet \"{}\" {}", name, cause), mend);
}

[[noreturn]] void broken_sheet(const std::filesystem::path& path, const std::string& cause) {
  fail("broken-sheet", Place::file(path.string()), fmt::format("\"{}\" is no sheet: {}", path.string(), cause),
       R"(write { "image": "a.png", "cells": [{ "name": "one", "x": 0, "y": 0, "width": 8, "height": 8 }] })");
}

int whole_number(const Json& cell, const char* key, const std::filesystem::path& path, std::size_t index) {
  const auto found = cell.find(key);
  const bool fits = found != cell.end() && found->is_number_integer() && *found >= 0 && *found <= largest_side;
  if (!fits) broken_sheet(path, fmt::format("cells[{}].{} is no whole number from 0 to {}", index, key, largest_side));
  return found->get<int>();
}

void copy(const Image& from, int width, int height, Image& into, int x, int y) {
  for (int row = 0; row < height; ++row)
    for (int column = 0; column < width; ++column) into.set(x + column, y + row, from.at(column, row));
}

}  // namespace

std::optional<std::size_t> SpriteSheet::find(std::string_view cell) const {
  if (cell.empty()) return cells.empty() ? std::nullopt : std::optional<std::size_t>(0);
  const auto found = std::find_if(cells.begin(), cells.end(), [&](const SpriteCell& one) { return one.name == cell; });
  if (found == cells.end()) return std::nullopt;
  return static_cast<std::size_t>(found - cells.begin());
}

SpriteSheet SpriteSheet::grid(std::string name, std::shared_ptr<const Image> image, int columns, int rows,
                              Place place) {
  SpriteSheet sheet{std::move(name), std::move(image), {}};
  if (!sheet.image) bad_sheet(sheet.name, place, "has no image", "give it one");
  const int width = sheet.image->width(), height = sheet.image->height();
  if (columns < 1 || rows < 1 || width % columns != 0 || height % rows != 0) {
    bad_sheet(sheet.name, place,
              fmt::format("is {} x {} pixels, which {} x {} cells do not divide", width, height, columns, rows),
              "give columns and rows that leave no rest, or the cells as rectangles");
  }
  for (int i = 0; i < columns * rows; ++i) {
    sheet.cells.push_back({std::to_string(i), i % columns * (width / columns), i / columns * (height / rows),
                           width / columns, height / rows});
  }
  sheet.expect_sound(place);
  return sheet;
}

void SpriteSheet::expect_sound(const Place& place) const {
  if (!image || !image->is_eight_bit() || image->channels() != 4)
    bad_sheet(name, place, "has no image of 8-bit RGBA", "read it from a PNG");
  if (cells.empty()) bad_sheet(name, place, "has no cells", "give it at least one");
  std::set<std::string_view> names;
  for (const SpriteCell& cell : cells) {
    if (!names.insert(cell.name).second)
      bad_sheet(name, place, fmt::format("has two cells named \"{}\"", cell.name), "name each once");
    const bool inside = cell.x >= 0 && cell.y >= 0 && cell.width >= 1 && cell.height >= 1 &&
                        cell.width <= image->width() - cell.x && cell.height <= image->height() - cell.y;
    if (inside) continue;
    bad_sheet(name, place,
              fmt::format("has cell \"{}\" at {}, {} of {} x {} pixels, outside of its {} x {}", cell.name, cell.x,
                          cell.y, cell.width, cell.height, image->width(), image->height()),
              "cells lie inside of the image, counted from its upper left");
  }
}

void SpriteSheet::cut_out(const std::array<int, 3>& color) {
  if (image->is_outline()) return;
  auto cut = std::make_shared<Image>(*image);
  for (int y = 0; y < cut->height(); ++y) {
    for (int x = 0; x < cut->width(); ++x) {
      const auto pixel = cut->at(x, y);
      if (pixel[0] == color[0] && pixel[1] == color[1] && pixel[2] == color[2]) cut->set(x, y, {0, 0, 0, 0});
    }
  }
  image = std::move(cut);
}

SpriteSheet read_sheet(const std::filesystem::path& path, PictureReader* pictures) {
  const auto text = read_text(path);
  const Json json = Json::parse(text->text, nullptr, false);
  if (json.is_discarded()) broken_sheet(path, "it is not JSON");
  if (!json.is_object()) broken_sheet(path, "it is no object");
  const auto image = json.find("image"), cells = json.find("cells");
  if (image == json.end() || !image->is_string()) broken_sheet(path, "\"image\" is no text");
  if (cells == json.end() || !cells->is_array()) broken_sheet(path, "\"cells\" is no list");
  const auto beside = path_within(path.parent_path().empty() ? "." : path.parent_path(), image->get<std::string>());
  if (!beside) {
    fail("path-outside", Place::file(path.string()),
         fmt::format("sheet \"{}\" names an image out of its folder: \"{}\"", path.string(), image->get<std::string>()),
         "put the image beside the sheet");
  }
  PictureReader own;
  SpriteSheet sheet{path.stem().string(), (pictures ? *pictures : own).read(*beside), {}};
  for (std::size_t i = 0; i < cells->size(); ++i) {
    const Json& cell = (*cells)[i];
    if (!cell.is_object()) broken_sheet(path, fmt::format("cells[{}] is no object", i));
    const auto name = cell.find("name");
    if (name != cell.end() && !name->is_string()) broken_sheet(path, fmt::format("cells[{}].name is no text", i));
    sheet.cells.push_back({name != cell.end() ? name->get<std::string>() : std::to_string(i),
                           whole_number(cell, "x", path, i), whole_number(cell, "y", path, i),
                           whole_number(cell, "width", path, i), whole_number(cell, "height", path, i)});
  }
  sheet.expect_sound(Place::file(path.string()));
  return sheet;
}

std::filesystem::path sheet_picture_path(const std::filesystem::path& path) {
  return std::filesystem::path(path).replace_extension(".png");
}

void write_sheet(const SpriteSheet& sheet, const std::filesystem::path& path) {
  sheet.expect_sound(Place::file(path.string()));
  const std::filesystem::path picture = sheet_picture_path(path);
  Json cells = Json::array();
  for (const SpriteCell& cell : sheet.cells) {
    cells.push_back(
        {{"name", cell.name}, {"x", cell.x}, {"y", cell.y}, {"width", cell.width}, {"height", cell.height}});
  }
  const Json json{{"image", picture.filename().string()}, {"cells", std::move(cells)}};
  expect_writable(path);
  expect_writable(picture);
  write_png(*sheet.image, picture);
  write_file(path, std::string_view(json.dump(2, ' ', false, Json::error_handler_t::replace) + "\n"));
}

SpriteSheet pack_sheet(std::string name, std::span<const LoosePicture> pictures, Place place) {
  constexpr int gap = 1;
  if (pictures.empty()) bad_sheet(name, place, "has no pictures", "give it at least one");
  std::vector<std::size_t> order;
  double area = 0;
  int widest = 0;
  for (std::size_t i = 0; i < pictures.size(); ++i) {
    const Image& image = pictures[i].image;
    if (!image.is_eight_bit() || image.channels() != 4)
      bad_sheet(name, place, fmt::format("gets \"{}\", which is not 8-bit RGBA", pictures[i].name), "give it PNGs");
    order.push_back(i);
    area += static_cast<double>(image.width() + gap) * (image.height() + gap);
    widest = std::max(widest, image.width());
  }
  std::stable_sort(order.begin(), order.end(), [&](std::size_t a, std::size_t b) {
    return pictures[a].image.height() > pictures[b].image.height();
  });
  // Rows about as long as the sheet is high.
  const int row_width = std::max(widest, static_cast<int>(std::min<double>(largest_side, std::ceil(std::sqrt(area)))));
  SpriteSheet sheet{std::move(name), nullptr, {}};
  sheet.cells.resize(pictures.size());
  int x = 0, y = 0, row_height = 0, width = 0;
  for (const std::size_t i : order) {
    const Image& image = pictures[i].image;
    if (x > 0 && x + image.width() > row_width) {
      y += row_height + gap;
      x = row_height = 0;
    }
    sheet.cells[i] = {pictures[i].name, x, y, image.width(), image.height()};
    x += image.width() + gap;
    row_height = std::max(row_height, image.height());
    width = std::max(width, x - gap);
  }
  const int height = y + row_height;
  if (std::max(width, height) > largest_side)
    bad_sheet(sheet.name, place, fmt::format("would be {} x {} pixels", width, height), "make several sheets");
  auto packed = std::make_shared<Image>(width, height, Format::rgba8_srgb);
  for (std::size_t i = 0; i < pictures.size(); ++i) {
    copy(pictures[i].image, sheet.cells[i].width, sheet.cells[i].height, *packed, sheet.cells[i].x, sheet.cells[i].y);
  }
  sheet.image = std::move(packed);
  sheet.expect_sound(place);
  return sheet;
}

}  // namespace periscena
