#pragma once

#include <periscena/image/image.h>
#include <periscena/scene/typeface.h>

#include <memory>
#include <string_view>

namespace periscena::inspect {

/// Writes text onto pictures, in the one typeface that lies in the program (DejaVu Sans).
class Lettering {
 public:
  Lettering();

  using Color = std::array<double, 3>;  ///< sRGB, 0..255

  /// @param x  of the left end; @param baseline  pixels from the top; @param size  of the letters, pixels
  /// @param most  pixels; longer text ends with "…"
  void write(Image& image, std::string_view text, int x, int baseline, int size, const Color& color, int most) const;

  int width(std::string_view text, int size) const;

 private:
  static void draw(Image& image, const GlyphPicture& glyph, int pen, int baseline, const Color& color);

  std::shared_ptr<const Typeface> typeface_;
};

}  // namespace periscena::inspect
