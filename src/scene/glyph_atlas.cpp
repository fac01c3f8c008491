#include <periscena/scene/glyph_atlas.h>

#include <algorithm>

namespace periscena {

std::size_t GlyphAtlas::Hash::operator()(const GlyphKey& key) const {
  std::uint64_t mixed = key.glyph;
  for (const std::uint64_t part : {std::uint64_t{key.typeface}, static_cast<std::uint64_t>(key.letters),
                                   static_cast<std::uint64_t>(key.size), static_cast<std::uint64_t>(key.quarter)})
    mixed = (mixed ^ part) * 0x9E3779B97F4A7C15u + (mixed >> 29);
  return static_cast<std::size_t>(mixed);
}

const AtlasGlyph& GlyphAtlas::find(const GlyphKey& key) {
  const auto known = glyphs_.find(key);
  if (known != glyphs_.end()) return known->second;
  ++version_;
  return glyphs_.emplace(key, place(draw(key))).first->second;
}

GlyphPicture GlyphAtlas::draw(const GlyphKey& key) const {
  const Typeface& typeface = *typefaces_[key.typeface];
  const auto picture = [&](std::uint32_t glyph) {
    return key.letters == Letters::grey ? typeface.grey(glyph, key.size, static_cast<float>(key.quarter) / 4)
                                        : typeface.distance(glyph, distance_size, distance_spread);
  };
  GlyphPicture drawn = picture(key.glyph);
  return std::max(drawn.width, drawn.height) + gap > page_size ? picture(0) : drawn;
}

GlyphAtlas::Shelf& GlyphAtlas::shelf_for(int width, int height) {
  Shelf* best = nullptr;
  for (Shelf& shelf : shelves_) {
    const bool fits =
        shelf.height >= height && shelf.height <= height + height / 4 + 2 && shelf.used + width <= page_size;
    if (fits && (!best || shelf.height < best->height)) best = &shelf;
  }
  if (best) return *best;
  if (bottom_ + height > page_size) {
    pages_.emplace_back(std::size_t{page_size} * page_size);
    bottom_ = 0;
  }
  shelves_.push_back({static_cast<int>(pages_.size()) - 1, bottom_, height, 0});
  bottom_ += height;
  return shelves_.back();
}

AtlasGlyph GlyphAtlas::place(const GlyphPicture& picture) {
  AtlasGlyph glyph;
  glyph.left = picture.left;
  glyph.top = picture.top;
  if (picture.values.empty()) return glyph;
  Shelf& shelf = shelf_for(picture.width + gap, picture.height + gap);
  glyph.page = shelf.page;
  glyph.x = shelf.used;
  glyph.y = shelf.y;
  glyph.width = picture.width;
  glyph.height = picture.height;
  shelf.used += picture.width + gap;
  std::vector<std::uint8_t>& page = pages_[static_cast<std::size_t>(glyph.page)];
  for (int row = 0; row < picture.height; ++row) {
    std::copy_n(picture.values.begin() + std::ptrdiff_t{row} * picture.width, picture.width,
                page.begin() + std::ptrdiff_t{glyph.y + row} * page_size + glyph.x);
  }
  return glyph;
}

}  // namespace periscena
