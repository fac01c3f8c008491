#pragma once

#include <string>

namespace periscena::inspect {

/// For SVG and HTML: what would be markup is written out, and control characters become spaces.
inline std::string escaped(const std::string& text) {
  std::string safe;
  for (const char c : text) {
    switch (c) {
      case '&': safe += "&amp;"; break;
      case '<': safe += "&lt;"; break;
      case '>': safe += "&gt;"; break;
      case '"': safe += "&quot;"; break;
      default: safe += static_cast<unsigned char>(c) < 0x20 ? ' ' : c;
    }
  }
  return safe;
}

}  // namespace periscena::inspect
