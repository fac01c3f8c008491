#pragma once

namespace periscena {

/// Where the lines of a text stand to each other.
enum class Align { left, middle, right };

/// How letters are kept: as shares of pixels for one size, the crispest, or as distances to their outlines for all.
enum class Letters { grey, distance };

/// Lengths are in any unit that the caller likes: pixels, metres.
struct TextStyle {
  float size = 24;  ///< of one em, > 0
  float width = 0;  ///< lines are broken at spaces to be no wider; 0: only where the text says
  Align align = Align::left;
  float line_spacing = 1;  ///< times the typeface's own, > 0
};

}  // namespace periscena
