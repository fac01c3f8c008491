#pragma once

#include <array>
#include <filesystem>
#include <string>
#include <vector>

namespace periscena {

/// Colours for colours, as `.cube` files hold them (Adobe, "Cube LUT Specification 1.0", 2013).
struct ColorTable {
  std::string title;
  int dimensions = 3;                                      ///< 1: each channel by itself; 3
  int size = 0;                                            ///< entries along each axis, >= 2
  std::array<float, 3> lowest{0, 0, 0}, highest{1, 1, 1};  ///< what the first and the last entries stand for
  std::vector<std::array<float, 3>> entries;               ///< size or size³ of them, red first

  /// Linear between entries (of eight in a cube), and as at the ends beyond them.
  std::array<float, 3> at(const std::array<float, 3>& color) const;
};

/// @throws Error "unreadable-file"; Mistake "bad-table" with the line: no size, sizes of 1D over 65,536 or 3D over 256,
/// a number that is none or not finite, a domain without extent, too few or too many entries, a line of no known kind
ColorTable read_color_table(const std::filesystem::path& path);

/// @param name  for messages
ColorTable parse_color_table(const std::string& text, const std::string& name);

}  // namespace periscena
