#pragma once

#include <periscena/math/transform.h>
#include <periscena/scene/text_style.h>
#include <periscena/scene/typeface.h>

#include <string_view>

namespace periscena {

/// A glyph with its pen on the baseline.
struct PlacedGlyph {
  std::uint32_t glyph = 0;
  Vec2 pen = Vec2::zero();  ///< right and down from the block's upper left
};

struct TextLayout {
  std::vector<PlacedGlyph> glyphs;  ///< those that show something, in the order of the text
  Vec2 size = Vec2::zero();         ///< of the block: its longest line, or `width` where it is given; and all its lines
  std::size_t lines = 0;
  std::vector<char32_t> missing;  ///< characters that the typeface lacks, each once
};

/// Sets a text in UTF-8 from left to right, with kerning. A line feed ends a line; a word that is wider than a line is
/// broken where it must be. Letters are not shaped, as Arabic would need it, nor put together from combining marks.
TextLayout lay_out(std::string_view text, const Typeface& typeface, const TextStyle& style);

}  // namespace periscena
