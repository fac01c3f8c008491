#include <periscena/scene/typeface.h>

#include <periscena/base/error.h>
#include <periscena/base/file.h>

#include <fmt/format.h>

#include <ft2build.h>
#include FT_FREETYPE_H
#include FT_MODULE_H
#include FT_OUTLINE_H

#include <algorithm>
#include <cmath>
#include <mutex>

extern "C" {
extern const unsigned char periscena_typeface[];  // from typeface.S
extern const unsigned char periscena_typeface_end[];
}

namespace periscena {
namespace {

/// The box for what a font lacks: its outside, and how thick its lines are; em.
constexpr float box_left = 0.08f, box_right = 0.52f, box_bottom = 0, box_top = 0.72f, box_line = 0.06f;

struct Span {
  float from, to;

  /// How much of a pixel it covers. @param at  the pixel's lower end
  float cover(float at) const { return std::clamp(std::min(to, at + 1) - std::max(from, at), 0.0f, 1.0f); }
  /// How far a point is inside; negative outside.
  float depth(float at) const { return std::min(at - from, to - at); }
};

/// Calls `value` with the lower left corner of each pixel from the pen, y upward.
template <class Value>
GlyphPicture box_picture(int size, float fraction, int margin, Value value) {
  const auto em = static_cast<float>(size);
  GlyphPicture picture;
  picture.left = static_cast<int>(std::floor(box_left * em + fraction)) - margin;
  picture.top = static_cast<int>(std::ceil(box_top * em)) + margin;
  picture.width = static_cast<int>(std::ceil(box_right * em + fraction)) + margin - picture.left;
  picture.height = picture.top - static_cast<int>(std::floor(box_bottom * em)) + margin;
  const Span across{box_left * em + fraction, box_right * em + fraction}, up{box_bottom * em, box_top * em};
  const float line = std::max(1.0f, box_line * em);
  for (int y = 0; y < picture.height; ++y) {
    for (int x = 0; x < picture.width; ++x) {
      const float found =
          value(across, up, line, static_cast<float>(picture.left + x), static_cast<float>(picture.top - 1 - y));
      picture.values.push_back(static_cast<std::uint8_t>(std::clamp(std::lround(found), 0l, 255l)));
    }
  }
  return picture;
}

GlyphPicture grey_box(int size, float fraction) {
  return box_picture(size, fraction, 0, [](Span across, Span up, float line, float x, float y) {
    const Span hole_across{across.from + line, across.to - line}, hole_up{up.from + line, up.to - line};
    return 255 * (across.cover(x) * up.cover(y) - hole_across.cover(x) * hole_up.cover(y));
  });
}

GlyphPicture distance_box(int size, int spread) {
  return box_picture(size, 0, spread, [spread](Span across, Span up, float line, float x, float y) {
    // From the middle of the line: exact but at its outer corners, where it is square.
    const float dx = across.depth(x + 0.5f), dy = up.depth(y + 0.5f);
    const float inside = dx < 0 && dy < 0 ? -std::hypot(dx, dy) : std::min(dx, dy);
    return 128 + 128 * (line / 2 - std::abs(inside - line / 2)) / static_cast<float>(spread);
  });
}

}  // namespace

/// FreeType is not made for two callers at once.
struct Typeface::Face {
  std::vector<std::byte> bytes;  ///< FreeType reads from them; empty for the one that lies in the library
  FT_Library library = nullptr;
  FT_Face face = nullptr;
  std::mutex turn;

  ~Face() {
    if (face) FT_Done_Face(face);
    if (library) FT_Done_FreeType(library);
  }

  float em(long units) const { return static_cast<float>(units) / static_cast<float>(face->units_per_EM); }

  /// A copy of what FreeType drew last. Takes nothing when there is nothing to see.
  GlyphPicture picture() const {
    const FT_Bitmap& bitmap = face->glyph->bitmap;
    GlyphPicture picture{face->glyph->bitmap_left,
                         face->glyph->bitmap_top,
                         static_cast<int>(bitmap.width),
                         static_cast<int>(bitmap.rows),
                         {}};
    picture.values.reserve(std::size_t{bitmap.width} * bitmap.rows);
    for (unsigned row = 0; row < bitmap.rows; ++row) {
      const unsigned char* from = bitmap.buffer + static_cast<std::ptrdiff_t>(row) * bitmap.pitch;
      picture.values.insert(picture.values.end(), from, from + bitmap.width);
    }
    return picture;
  }

  static std::unique_ptr<Face> open(std::unique_ptr<Face> made, std::span<const unsigned char> from,
                                    const std::string& name) {
    if (FT_Init_FreeType(&made->library) != 0)
      fail("out-of-memory", {}, "FreeType can't be started", "check the free memory");
    const FT_Error error =
        FT_New_Memory_Face(made->library, from.data(), static_cast<FT_Long>(from.size()), 0, &made->face);
    if (error != 0) {
      fail("broken-typeface", {}, fmt::format("\"{}\" is no font file that FreeType can read", name),
           "give a TrueType or OpenType file (.ttf, .otf)");
    }
    if (!FT_IS_SCALABLE(made->face) || made->face->units_per_EM == 0) {
      fail("broken-typeface", {}, fmt::format("\"{}\" has letters of fixed sizes only, no outlines", name),
           "give a TrueType or OpenType file (.ttf, .otf)");
    }
    return made;
  }
};

Typeface::Typeface(std::unique_ptr<Face> face) : face_(std::move(face)) {}

Typeface::~Typeface() = default;

std::shared_ptr<const Typeface> Typeface::built_in() {
  const std::span<const unsigned char> bytes(periscena_typeface, periscena_typeface_end);
  return std::shared_ptr<const Typeface>(new Typeface(Face::open(std::make_unique<Face>(), bytes, "DejaVu Sans")));
}

std::shared_ptr<const Typeface> Typeface::read(const std::filesystem::path& path) {
  const std::string text = read_bytes(path);
  const auto bytes = std::as_bytes(std::span(text));
  return from_bytes({bytes.begin(), bytes.end()}, path.string());
}

std::shared_ptr<const Typeface> Typeface::from_bytes(std::vector<std::byte> bytes, const std::string& name) {
  auto face = std::make_unique<Face>();
  face->bytes = std::move(bytes);
  const std::span<const unsigned char> from(reinterpret_cast<const unsigned char*>(face->bytes.data()),
                                            face->bytes.size());
  return std::shared_ptr<const Typeface>(new Typeface(Face::open(std::move(face), from, name)));
}

std::uint32_t Typeface::glyph(char32_t character) const {
  const std::lock_guard lock(face_->turn);
  return FT_Get_Char_Index(face_->face, character);
}

float Typeface::advance(std::uint32_t glyph) const {
  if (glyph == 0) return box_left + box_right;
  const std::lock_guard lock(face_->turn);
  if (FT_Load_Glyph(face_->face, glyph, FT_LOAD_NO_SCALE) != 0) return 0;
  return face_->em(face_->face->glyph->advance.x);
}

float Typeface::kerning(std::uint32_t left, std::uint32_t right) const {
  const std::lock_guard lock(face_->turn);
  FT_Vector found{0, 0};
  if (left == 0 || right == 0 || FT_Get_Kerning(face_->face, left, right, FT_KERNING_UNSCALED, &found) != 0) return 0;
  return face_->em(found.x);
}

float Typeface::ascent() const {
  return face_->em(face_->face->ascender);
}

float Typeface::descent() const {
  return std::abs(face_->em(face_->face->descender));
}

float Typeface::line_height() const {
  return std::max(face_->em(face_->face->height), ascent() + descent());
}

GlyphPicture Typeface::grey(std::uint32_t glyph, int size, float fraction) const {
  if (glyph == 0) return grey_box(size, fraction);
  const std::lock_guard lock(face_->turn);
  FT_Set_Pixel_Sizes(face_->face, 0, static_cast<FT_UInt>(size));
  // Hinted upward only: rows are crisp, and letters keep their widths.
  if (FT_Load_Glyph(face_->face, glyph, FT_LOAD_NO_BITMAP | FT_LOAD_TARGET_LIGHT) != 0) return {};
  FT_Outline_Translate(&face_->face->glyph->outline, std::lround(fraction * 64), 0);
  if (FT_Render_Glyph(face_->face->glyph, FT_RENDER_MODE_NORMAL) != 0) return {};
  return face_->picture();
}

GlyphPicture Typeface::distance(std::uint32_t glyph, int size, int spread) const {
  if (glyph == 0) return distance_box(size, spread);
  const std::lock_guard lock(face_->turn);
  FT_Int pixels = spread;
  FT_Property_Set(face_->library, "sdf", "spread", &pixels);
  FT_Set_Pixel_Sizes(face_->face, 0, static_cast<FT_UInt>(size));
  if (FT_Load_Glyph(face_->face, glyph, FT_LOAD_NO_BITMAP | FT_LOAD_NO_HINTING) != 0) return {};
  if (face_->face->glyph->outline.n_points == 0) return {};
  if (FT_Render_Glyph(face_->face->glyph, FT_RENDER_MODE_SDF) != 0) return {};
  return face_->picture();
}

}  // namespace periscena
