#include "inspect/lettering.h"

#include <periscena/base/error.h>

#include <ft2build.h>
#include FT_FREETYPE_H

#include <string>

extern "C" {
extern const unsigned char periscena_typeface[];  // from typeface.S
extern const unsigned char periscena_typeface_end[];
}

namespace periscena::inspect {
namespace {

/// The next character of a text in UTF-8; 0xFFFD for what is none.
char32_t next_character(std::string_view& text) {
  const auto first = static_cast<unsigned char>(text[0]);
  const std::size_t length = first < 0x80 ? 1 : first >= 0xF0 ? 4 : first >= 0xE0 ? 3 : first >= 0xC0 ? 2 : 1;
  char32_t code = length == 1 ? first : first & (0x7Fu >> length);
  if (length > text.size() || (length == 1 && first >= 0x80)) {
    text.remove_prefix(1);
    return 0xFFFD;
  }
  for (std::size_t i = 1; i < length; ++i) code = (code << 6) | (static_cast<unsigned char>(text[i]) & 0x3Fu);
  text.remove_prefix(length);
  return code;
}

}  // namespace

struct Lettering::Face {
  FT_Library library = nullptr;
  FT_Face face = nullptr;

  ~Face() {
    if (face) FT_Done_Face(face);
    if (library) FT_Done_FreeType(library);
  }

  FT_GlyphSlot load(char32_t character, int size) const {
    FT_Set_Pixel_Sizes(face, 0, static_cast<FT_UInt>(size));
    return FT_Load_Char(face, character, FT_LOAD_RENDER) == 0 ? face->glyph : nullptr;
  }
};

Lettering::Lettering() : face_(std::make_unique<Face>()) {
  const auto bytes = static_cast<FT_Long>(periscena_typeface_end - periscena_typeface);
  const bool made = FT_Init_FreeType(&face_->library) == 0 &&
                    FT_New_Memory_Face(face_->library, periscena_typeface, bytes, 0, &face_->face) == 0;
  if (!made) fail("no-typeface", {}, "the typeface for labels can't be opened", "check the free memory");
}

Lettering::~Lettering() = default;

int Lettering::width(std::string_view text, int size) const {
  int sum = 0;
  while (!text.empty()) {
    const FT_GlyphSlot glyph = face_->load(next_character(text), size);
    if (glyph) sum += static_cast<int>(glyph->advance.x >> 6);
  }
  return sum;
}

void Lettering::write(Image& image, std::string_view text, int x, int baseline, int size, const Color& color,
                      int most) const {
  std::string shortened(text);
  if (width(text, size) > most) {
    while (!shortened.empty() && width(shortened + "…", size) > most) {
      // A character of UTF-8 goes as a whole.
      while (shortened.size() > 1 && (static_cast<unsigned char>(shortened.back()) & 0xC0) == 0x80)
        shortened.pop_back();
      shortened.pop_back();
    }
    shortened += "…";
  }
  for (std::string_view rest = shortened; !rest.empty();) {
    const FT_GlyphSlot glyph = face_->load(next_character(rest), size);
    if (!glyph) continue;
    const FT_Bitmap& bitmap = glyph->bitmap;
    for (int row = 0; row < static_cast<int>(bitmap.rows); ++row) {
      for (int column = 0; column < static_cast<int>(bitmap.width); ++column) {
        const int px = x + glyph->bitmap_left + column, py = baseline - glyph->bitmap_top + row;
        if (px < 0 || py < 0 || px >= image.width() || py >= image.height()) continue;
        const double share = bitmap.buffer[row * bitmap.pitch + column] / 255.0;
        const auto below = image.at(px, py);
        std::array<double, 4> mixed{0, 0, 0, 255};
        for (std::size_t c = 0; c < 3; ++c) mixed[c] = below[c] + (color[c] - below[c]) * share;
        image.set(px, py, mixed);
      }
    }
    x += static_cast<int>(glyph->advance.x >> 6);
  }
}

}  // namespace periscena::inspect
