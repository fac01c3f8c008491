#pragma once

#include <cstddef>
#include <cstdint>
#include <filesystem>
#include <memory>
#include <span>
#include <string>
#include <vector>

namespace periscena {

/// How much of each pixel a letter covers, or how far each is from its outline.
struct GlyphPicture {
  int left = 0;  ///< pixels from the pen to the picture's left edge
  int top = 0;   ///< pixels from the baseline up to its upper edge
  int width = 0, height = 0;
  std::vector<std::uint8_t> values;  ///< rows from the top, packed
};

/// The letters of a font file, as outlines. Sizes are in em: one em is the size that the letters are set in.
///
/// Glyph 0 stands for characters that the font lacks: a box, whatever the font says.
class Typeface {
 public:
  /// DejaVu Sans, which lies in the library.
  static std::shared_ptr<const Typeface> built_in();

  /// @throws Error "unreadable-file"; "broken-typeface": no font file, or one without outlines
  static std::shared_ptr<const Typeface> read(const std::filesystem::path& path);

  /// @param name  for messages; @throws Error "broken-typeface"
  static std::shared_ptr<const Typeface> from_bytes(std::vector<std::byte> bytes, const std::string& name);

  Typeface(const Typeface&) = delete;
  Typeface& operator=(const Typeface&) = delete;
  ~Typeface();

  /// Number of a character's glyph; 0 when the font lacks it.
  std::uint32_t glyph(char32_t character) const;

  float advance(std::uint32_t glyph) const;                      ///< from one pen to the next, em
  float kerning(std::uint32_t left, std::uint32_t right) const;  ///< added between two, em
  float ascent() const;                                          ///< of the highest letters above the baseline, em
  float descent() const;                                         ///< of the lowest letters below it, em, >= 0
  float line_height() const;                                     ///< from baseline to baseline, em

  /// Shares of pixels that a letter covers: 255 is all.
  /// @param size  pixels an em, 1..256
  /// @param fraction  of a pixel that the pen stands right of one, 0..1
  GlyphPicture grey(std::uint32_t glyph, int size, float fraction) const;

  /// Distances to the outline: 128 is on it, 255 is `spread` pixels and more inside, 0 as much outside. The picture
  /// reaches `spread` beyond the outline. @param size  pixels an em, 8..256; @param spread  pixels, 2..32
  GlyphPicture distance(std::uint32_t glyph, int size, int spread) const;

 private:
  struct Face;

  explicit Typeface(std::unique_ptr<Face> face);

  std::unique_ptr<Face> face_;
};

}  // namespace periscena
