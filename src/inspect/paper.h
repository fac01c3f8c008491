#pragma once

#include "inspect/lettering.h"

#include <cstring>

namespace periscena::inspect {

// What pictures with several pictures on them have in common.
inline constexpr int paper_margin = 18, picture_gap = 16;  ///< pixels
inline constexpr Lettering::Color bright{232, 237, 242}, dim{147, 161, 176}, warning_color{255, 110, 200},
    golden{255, 190, 90};

/// Fills what of a rectangle lies in the image.
inline void fill(Image& image, int left, int top, int width, int height, const Lettering::Color& color) {
  for (int y = std::max(0, top); y < std::min(image.height(), top + height); ++y) {
    for (int x = std::max(0, left); x < std::min(image.width(), left + width); ++x)
      image.set(x, y, {color[0], color[1], color[2], 255});
  }
}

inline Image empty_paper(int width, int height) {
  Image paper(width, height, Format::rgba8_srgb);
  fill(paper, 0, 0, width, height, {20, 24, 30});
  return paper;
}

/// Both of four bytes a pixel; all of the picture lies in it.
inline void put(const Image& picture, Image& into, int left, int top) {
  for (int y = 0; y < picture.height(); ++y) {
    std::memcpy(
        into.bytes().data() + static_cast<std::size_t>(top + y) * into.row_bytes() + static_cast<std::size_t>(left) * 4,
        picture.bytes().data() + static_cast<std::size_t>(y) * picture.row_bytes(), picture.row_bytes());
  }
}

}  // namespace periscena::inspect
