#pragma once

#include <periscena/base/place.h>
#include <periscena/image/picture_reader.h>

#include <array>
#include <filesystem>
#include <memory>
#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <vector>

namespace periscena {

/// A part of a sheet that is shown by itself.
struct SpriteCell {
  std::string name;
  int x = 0, y = 0, width = 1, height = 1;  ///< pixels, from the sheet's upper left

  bool operator==(const SpriteCell&) const = default;
};

/// One image that holds many pictures, found by their names or in their order.
struct SpriteSheet {
  std::string name;
  std::shared_ptr<const Image> image;  ///< 8-bit RGBA, alpha not multiplied in
  std::vector<SpriteCell> cells;

  /// Number of a cell, or nothing. @param cell  its name; empty: the first
  std::optional<std::size_t> find(std::string_view cell) const;

  /// A sheet of even cells in rows from the upper left, named "0", "1", …
  /// @throws Mistake "bad-sheet" when columns or rows are less than 1 or do not divide the image
  static SpriteSheet grid(std::string name, std::shared_ptr<const Image> image, int columns, int rows,
                          Place place = Place::here());

  /// @throws Mistake "bad-sheet": no image or cells, a cell outside of the image or of no size, a name twice
  void expect_sound(const Place& place) const;

  /// Makes all pixels of one colour transparent, as old sheets have it. @param color  red, green, blue as in the file,
  /// 0..255
  void cut_out(const std::array<int, 3>& color);
};

/// Reads a sheet that write_sheet wrote: JSON, with the image's path from its folder.
///
///     { "image": "dragonfly.png", "cells": [{ "name": "up", "x": 0, "y": 0, "width": 48, "height": 32 }] }
///
/// @param pictures  reads the image; null: one of its own
/// @throws Error "unreadable-file", "broken-sheet", "broken-image", "path-outside"
SpriteSheet read_sheet(const std::filesystem::path& path, PictureReader* pictures = nullptr);

/// Where write_sheet puts the image of a sheet.
std::filesystem::path sheet_picture_path(const std::filesystem::path& path);

/// Writes FILE.json and, beside it, FILE.png. @throws Error "unwritable-file"
void write_sheet(const SpriteSheet& sheet, const std::filesystem::path& path);

/// A picture to pack.
struct LoosePicture {
  std::string name;
  Image image;  ///< 8-bit RGBA
};

/// Lays pictures side by side on one sheet, the highest first, with a transparent pixel between them.
/// @param pictures  at least one @throws Mistake "bad-sheet": none, a name twice, not 8 bit, or too large together
SpriteSheet pack_sheet(std::string name, std::span<const LoosePicture> pictures, Place place = Place::here());

}  // namespace periscena
