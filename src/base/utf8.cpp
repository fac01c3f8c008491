#include <periscena/base/utf8.h>

#include <cstddef>

namespace periscena {

char32_t take_character(std::string_view& text) {
  constexpr char32_t replacement = 0xFFFD;
  const auto byte = [&](std::size_t i) { return static_cast<unsigned char>(text[i]); };
  const unsigned char first = byte(0);
  const std::size_t length = first < 0x80   ? 1
                             : first < 0xC2 ? 0
                             : first < 0xE0 ? 2
                             : first < 0xF0 ? 3
                             : first < 0xF5 ? 4
                                            : 0;
  char32_t code = length <= 1 ? first : first & (0x7Fu >> length);
  bool sound = length > 0 && length <= text.size();
  for (std::size_t i = 1; sound && i < length; ++i) {
    sound = (byte(i) & 0xC0u) == 0x80u;
    code = (code << 6) | (byte(i) & 0x3Fu);
  }
  // The least that needs as many bytes, and what UTF-16 keeps for itself.
  constexpr char32_t least[] = {0, 0, 0x80, 0x800, 0x10000};
  sound = sound && code >= least[length] && code <= 0x10FFFF && (code < 0xD800 || code > 0xDFFF);
  text.remove_prefix(sound ? length : 1);
  return sound ? code : replacement;
}

void append_character(char32_t code, std::string& text) {
  if (code < 0x80) {
    text += static_cast<char>(code);
  } else if (code < 0x800) {
    text += {static_cast<char>(0xC0 | code >> 6), static_cast<char>(0x80 | (code & 0x3F))};
  } else if (code < 0x10000) {
    text += {static_cast<char>(0xE0 | code >> 12), static_cast<char>(0x80 | (code >> 6 & 0x3F)),
             static_cast<char>(0x80 | (code & 0x3F))};
  } else {
    text += {static_cast<char>(0xF0 | code >> 18), static_cast<char>(0x80 | (code >> 12 & 0x3F)),
             static_cast<char>(0x80 | (code >> 6 & 0x3F)), static_cast<char>(0x80 | (code & 0x3F))};
  }
}

namespace {

/// Characters of Unicode that change how those around them are laid out (UAX 9, 2), and line ends beyond the usual.
bool changes_layout(char32_t code) {
  return code == 0x061C || code == 0x200E || code == 0x200F || (code >= 0x2028 && code <= 0x202E) ||
         (code >= 0x2066 && code <= 0x2069) || code == 0xFEFF;
}

std::string shown(std::string_view text, bool keep_lines) {
  constexpr char32_t pictures = 0x2400, picture_of_delete = 0x2421, replacement = 0xFFFD;
  std::string made;
  made.reserve(text.size());
  while (!text.empty()) {
    const char32_t code = take_character(text);
    const bool plain = (code >= 0x20 && code < 0x7F) || (keep_lines && code == '\n');
    if (plain) {
      made += static_cast<char>(code);
    } else if (code < 0x20) {
      append_character(pictures + code, made);
    } else if (code == 0x7F) {
      append_character(picture_of_delete, made);
    } else if (code < 0xA0 || changes_layout(code)) {
      append_character(replacement, made);
    } else {
      append_character(code, made);
    }
  }
  return made;
}

}  // namespace

std::string printable(std::string_view text) {
  return shown(text, false);
}

std::string printable_lines(std::string_view text) {
  return shown(text, true);
}

std::string printable_json(std::string_view json) {
  std::string made;
  made.reserve(json.size());
  while (!json.empty()) {
    const char32_t code = take_character(json);
    if ((code >= 0x7F && code < 0xA0) || changes_layout(code)) {
      constexpr std::string_view digits = "0123456789abcdef";
      made += "\\u";
      for (int shift = 12; shift >= 0; shift -= 4) made += digits[code >> shift & 15];
    } else {
      append_character(code, made);
    }
  }
  return made;
}

}  // namespace periscena
