#pragma once

#include <periscena/scene/text_style.h>
#include <periscena/scene/typeface.h>

#include <functional>
#include <unordered_map>

namespace periscena {

/// A glyph as it is asked for.
struct GlyphKey {
  std::uint32_t typeface = 0;  ///< its number in the atlas
  std::uint32_t glyph = 0;
  Letters letters = Letters::grey;
  int size = 0;     ///< of grey ones: pixels an em
  int quarter = 0;  ///< of grey ones: quarters of a pixel that the pen stands right of one, 0..3

  bool operator==(const GlyphKey&) const = default;
};

/// Where a glyph is in an atlas.
struct AtlasGlyph {
  int page = 0, x = 0, y = 0;  ///< pixels, from the page's upper left
  int width = 0, height = 0;   ///< both 0 when there is nothing to see
  int left = 0, top = 0;       ///< as in GlyphPicture
};

/// Glyphs on square pages, drawn when they are first asked for. Two pixels at least lie between neighbours.
class GlyphAtlas {
 public:
  static constexpr int page_size = 1024;
  static constexpr int gap = 2;
  static constexpr int distance_size = 64;   ///< pixels an em of distance letters
  static constexpr int distance_spread = 8;  ///< pixels

  explicit GlyphAtlas(std::vector<std::shared_ptr<const Typeface>> typefaces) : typefaces_(std::move(typefaces)) {}

  const Typeface& typeface(std::uint32_t number) const { return *typefaces_[number]; }

  /// A glyph that is larger than a page is shown as the box of what a font lacks.
  const AtlasGlyph& find(const GlyphKey& key);

  /// Rows from the top, page_size² bytes.
  const std::vector<std::uint8_t>& page(std::size_t number) const { return pages_[number]; }
  std::size_t page_count() const { return pages_.size(); }

  /// Counts up whenever a glyph was added.
  std::uint64_t version() const { return version_; }

 private:
  struct Hash {
    std::size_t operator()(const GlyphKey& key) const;
  };
  /// A row of glyphs of much the same height.
  struct Shelf {
    int page, y, height, used;
  };

  GlyphPicture draw(const GlyphKey& key) const;
  AtlasGlyph place(const GlyphPicture& picture);
  Shelf& shelf_for(int width, int height);

  std::vector<std::shared_ptr<const Typeface>> typefaces_;
  std::unordered_map<GlyphKey, AtlasGlyph, Hash> glyphs_;
  std::vector<Shelf> shelves_;
  int bottom_ = page_size;  ///< of the shelves on the last page; full at first, as there is none
  std::vector<std::vector<std::uint8_t>> pages_;
  std::uint64_t version_ = 0;
};

}  // namespace periscena
