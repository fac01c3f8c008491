#pragma once

#include <string>
#include <vector>

namespace periscena::passes {

/// Of the picture, and of what is placed from there inward.
enum class Corner { upper_left, upper_right, lower_left, lower_right };

inline bool is_right(Corner corner) {
  return corner == Corner::upper_right || corner == Corner::lower_right;
}
inline bool is_lower(Corner corner) {
  return corner == Corner::lower_left || corner == Corner::lower_right;
}

/// In the order of Corner, as frame files have them.
inline const std::vector<std::string>& corner_names() {
  static const std::vector<std::string> names{"upper_left", "upper_right", "lower_left", "lower_right"};
  return names;
}

/// Where a choice stands among its names; it is one of them.
inline int index_of(const std::vector<std::string>& names, const std::string& name) {
  for (std::size_t i = 0; i < names.size(); ++i) {
    if (names[i] == name) return static_cast<int>(i);
  }
  return 0;
}

}  // namespace periscena::passes
