#pragma once

#include <periscena/image/image.h>

#include <memory>
#include <string_view>

namespace periscena::inspect {

/// Writes text onto pictures, in the one typeface that lies in the program (DejaVu Sans).
class Lettering {
 public:
  Lettering();
  Lettering(const Lettering&) = delete;
  Lettering& operator=(const Lettering&) = delete;
  ~Lettering();

  using Color = std::array<double, 3>;  ///< sRGB, 0..255

  /// @param x  of the left end; @param baseline  pixels from the top; @param size  of the letters, pixels
  /// @param most  pixels; longer text ends with "…"
  void write(Image& image, std::string_view text, int x, int baseline, int size, const Color& color, int most) const;

  int width(std::string_view text, int size) const;

 private:
  struct Face;
  std::unique_ptr<Face> face_;
};

}  // namespace periscena::inspect
