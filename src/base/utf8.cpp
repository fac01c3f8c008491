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

}  // namespace periscena
