#include "inspect/lettering.h"

#include <periscena/scene/text_layout.h>

#include <cmath>

namespace periscena::inspect {

Lettering::Lettering() : typeface_(Typeface::built_in()) {}

int Lettering::width(std::string_view text, int size) const {
  return static_cast<int>(std::ceil(lay_out(text, *typeface_, {.size = static_cast<float>(size)}).size.x()));
}

void Lettering::write(Image& image, std::string_view text, int x, int baseline, int size, const Color& color,
                      int most) const {
  std::string shortened(text);
  if (width(text, size) > most) {
    while (!shortened.empty() && width(shortened + "…", size) > most) {
      // A character of UTF-8 goes as a whole.
      while (shortened.size() > 1 && (static_cast<unsigned char>(shortened.back()) & 0xC0) == 0x80)
        shortened.pop_back();
      shortened.pop_back();
    }
    shortened += "…";
  }
  for (const PlacedGlyph& placed : lay_out(shortened, *typeface_, {.size = static_cast<float>(size)}).glyphs) {
    const float pen = static_cast<float>(x) + placed.pen.x();
    const GlyphPicture glyph = typeface_->grey(placed.glyph, size, pen - std::floor(pen));
    draw(image, glyph, static_cast<int>(std::floor(pen)), baseline, color);
  }
}

void Lettering::draw(Image& image, const GlyphPicture& glyph, int pen, int baseline, const Color& color) {
  for (int row = 0; row < glyph.height; ++row) {
    for (int column = 0; column < glyph.width; ++column) {
      const int px = pen + glyph.left + column, py = baseline - glyph.top + row;
      if (px < 0 || py < 0 || px >= image.width() || py >= image.height()) continue;
      const double share = glyph.values[static_cast<std::size_t>(row * glyph.width + column)] / 255.0;
      const auto below = image.at(px, py);
      std::array<double, 4> mixed{0, 0, 0, 255};
      for (std::size_t c = 0; c < 3; ++c) mixed[c] = below[c] + (color[c] - below[c]) * share;
      image.set(px, py, mixed);
    }
  }
}

}  // namespace periscena::inspect
