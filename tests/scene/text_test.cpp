#include "thrown.h"

#include <periscena/base/utf8.h>
#include <periscena/scene/glyph_atlas.h>
#include <periscena/scene/text_layout.h>

#include <cmath>
#include <numeric>

using namespace periscena;

namespace {

std::vector<char32_t> characters(std::string_view text) {
  std::vector<char32_t> found;
  while (!text.empty()) found.push_back(take_character(text));
  return found;
}

double sum(const GlyphPicture& picture) {
  return std::accumulate(picture.values.begin(), picture.values.end(), 0.0) / 255;
}

/// Is a point of a large grey picture inside the letter? @param x, y  pixels from the pen, y upward
bool inside(const GlyphPicture& large, double x, double y) {
  const int column = static_cast<int>(std::floor(x)) - large.left,
            row = large.top - 1 - static_cast<int>(std::floor(y));
  if (column < 0 || row < 0 || column >= large.width || row >= large.height) return false;
  return large.values[static_cast<std::size_t>(row * large.width + column)] >= 128;
}

}  // namespace

TEST_CASE("UTF-8 is taken apart, and bytes that are none become one replacement each") {
  CHECK(characters("aé€🦋") == std::vector<char32_t>{'a', 0xE9, 0x20AC, 0x1F98B});
  const std::vector<char32_t> none{0xFFFD};
  CHECK(characters("\x80") == none);
  CHECK(characters("\xFF") == none);
  CHECK(characters("\xC0\xAF") == std::vector<char32_t>{0xFFFD, 0xFFFD});              // overlong
  CHECK(characters("\xE0\x80\xAF") == std::vector<char32_t>{0xFFFD, 0xFFFD, 0xFFFD});  // overlong
  CHECK(characters("\xED\xA0\x80").size() == 3);                                       // a surrogate
  CHECK(characters("\xF4\x90\x80\x80").size() == 4);                                   // beyond U+10FFFF
  CHECK(characters("\xE2\x82") == std::vector<char32_t>{0xFFFD, 0xFFFD});              // cut short
  CHECK(characters("\xE2\x82y") == std::vector<char32_t>{0xFFFD, 0xFFFD, 'y'});
  CHECK(characters("\xF4\x8F\xBF\xBF") == std::vector<char32_t>{0x10FFFF});
}

TEST_CASE("letters stand where kerning moves them") {
  const auto typeface = Typeface::built_in();
  const std::uint32_t a = typeface->glyph('A'), v = typeface->glyph('V');
  REQUIRE(typeface->kerning(a, v) < 0);
  const TextLayout layout = lay_out("AV", *typeface, {.size = 100});
  REQUIRE(layout.glyphs.size() == 2);
  CHECK(layout.glyphs[1].pen.x() == Approx(100 * (typeface->advance(a) + typeface->kerning(a, v))));
  CHECK(layout.glyphs[0].pen.y() == Approx(100 * typeface->ascent()));
  CHECK(layout.size.x() == Approx(layout.glyphs[1].pen.x() + 100 * typeface->advance(v)));
}

TEST_CASE("lines break at spaces, are no wider than asked, and stand where they are aligned") {
  const auto typeface = Typeface::built_in();
  const std::string text = "The gates open when the water on both sides stands level.";
  for (const float width : {60.0f, 90.0f, 150.0f, 1000.0f}) {
    CAPTURE(width);
    const TextLayout left = lay_out(text, *typeface, {.size = 12, .width = width});
    const TextLayout right = lay_out(text, *typeface, {.size = 12, .width = width, .align = Align::right});
    const TextLayout middle = lay_out(text, *typeface, {.size = 12, .width = width, .align = Align::middle});
    CHECK(left.size.x() == width);
    CHECK(left.glyphs.size() == 47);  // every letter, no space
    CHECK(static_cast<long>(left.lines) ==
          std::lround((left.size.y() / 12 - typeface->ascent() - typeface->descent()) / typeface->line_height()) + 1);
    for (std::size_t i = 0; i < left.glyphs.size(); ++i) {
      const float end = right.glyphs[i].pen.x() + 12 * typeface->advance(right.glyphs[i].glyph);
      CHECK(end <= width + 1e-3f);
      CHECK(left.glyphs[i].pen.x() >= 0);
      CHECK(2 * middle.glyphs[i].pen.x() == Approx(left.glyphs[i].pen.x() + right.glyphs[i].pen.x()).margin(1e-3));
      // The last of a line touches its end.
      const bool last = i + 1 == left.glyphs.size() || left.glyphs[i + 1].pen.y() > left.glyphs[i].pen.y();
      if (last) CHECK(end == Approx(width).margin(1e-3));
    }
  }
  const TextLayout lines = lay_out("a\n\nb\n", *typeface, {.size = 10, .line_spacing = 2});
  CHECK(lines.lines == 4);
  CHECK(lines.glyphs[1].pen.y() - lines.glyphs[0].pen.y() == Approx(4 * 10 * typeface->line_height()));
  // A word that fits no line is broken between letters, and even a line of no width holds one.
  CHECK(lay_out("towpath", *typeface, {.size = 10, .width = 1}).lines == 7);
  CHECK(lay_out("", *typeface, {}).lines == 1);
  CHECK(lay_out("\t|", *typeface, {.size = 10}).glyphs[0].pen.x() ==
        Approx(40 * typeface->advance(typeface->glyph(' '))));
}

TEST_CASE("a letter covers as much wherever it stands, and a block as much as it is large") {
  const auto typeface = Typeface::built_in();
  for (const char32_t character : {U'g', U'W', U'|', U'é'}) {
    const std::uint32_t glyph = typeface->glyph(character);
    const double area = sum(typeface->grey(glyph, 40, 0));
    CHECK(area > 10);
    for (const float fraction : {0.25f, 0.5f, 0.75f})
      CHECK(sum(typeface->grey(glyph, 40, fraction)) == Approx(area).epsilon(0.02));
    CHECK(sum(typeface->grey(glyph, 80, 0)) == Approx(4 * area).epsilon(0.08));  // hinting moves rows a little
  }
}

TEST_CASE("distances are those to the outline of the letter") {
  const auto typeface = Typeface::built_in();
  constexpr int size = 32, spread = 5, times = 8;
  // The letter eight times as large, unhinted, is the truth: a pixel's distance to the nearest that is of the other
  // kind.
  for (const char32_t character : {U'o', U'k', U'L'}) {
    const std::uint32_t glyph = typeface->glyph(character);
    const GlyphPicture found = typeface->distance(glyph, size, spread);
    const GlyphPicture large = typeface->grey(glyph, size * times, 0);
    REQUIRE(found.width > 8);
    double worst = 0;
    for (int y = 0; y < found.height; ++y) {
      for (int x = 0; x < found.width; ++x) {
        const double px = (found.left + x + 0.5) * times, py = (found.top - 1 - y + 0.5) * times;
        const bool within = inside(large, px, py);
        double nearest = spread * times;
        for (int dy = -spread * times; dy <= spread * times; ++dy) {
          for (int dx = -spread * times; dx <= spread * times; ++dx) {
            const double away = std::hypot(dx, dy);
            if (away < nearest && inside(large, px + dx, py + dy) != within) nearest = away;
          }
        }
        const double expected = (within ? nearest : -nearest) / times;
        const double value = (found.values[static_cast<std::size_t>(y * found.width + x)] - 128.0) / 128 * spread;
        worst = std::max(worst, std::abs(value - std::clamp<double>(expected, -spread, spread)));
      }
    }
    // Steps of the truth's pixels and of the values, and hinting, which moves heights of the large letter by half a
    // pixel of its own at most.
    CHECK(worst < 1.5 / times + 2.0 * spread / 128 + 0.1);
  }
}

TEST_CASE("what a font lacks is a box that one sees") {
  const auto typeface = Typeface::built_in();
  const TextLayout layout = lay_out("a\U0001FAE8\U0001FAE8", *typeface, {});
  CHECK(layout.missing == std::vector<char32_t>{0x1FAE8});
  CHECK(layout.glyphs.size() == 3);
  CHECK(layout.glyphs[1].glyph == 0);
  for (const int size : {8, 20, 100}) {
    const GlyphPicture box = typeface->grey(0, size, 0.5f);
    const auto em = static_cast<float>(size);
    const float line = std::max(1.0f, 0.06f * em);
    // Its outside less its hole.
    CHECK(sum(box) ==
          Approx(0.44f * em * 0.72f * em - (0.44f * em - 2 * line) * (0.72f * em - 2 * line)).epsilon(0.02));
  }
  const GlyphPicture distances = typeface->distance(0, 48, 6);
  CHECK(*std::max_element(distances.values.begin(), distances.values.end()) > 150);
  CHECK(distances.values.front() == 0);
}

TEST_CASE("glyphs in an atlas are as they were drawn, and apart from each other") {
  GlyphAtlas atlas({Typeface::built_in()});
  struct Kept {
    GlyphKey key;
    AtlasGlyph glyph;
  };
  std::vector<Kept> kept;
  for (const int size : {9, 14, 33, 90, 200}) {
    for (char32_t c = '!'; c < 0x17F; ++c) {
      GlyphKey key{.glyph = atlas.typeface(0).glyph(c), .size = size, .quarter = static_cast<int>(c % 4)};
      if (c % 7 == 0) key = {.glyph = key.glyph, .letters = Letters::distance};
      kept.push_back({key, atlas.find(key)});
    }
  }
  CHECK(atlas.page_count() > 3);
  const std::uint64_t version = atlas.version();
  std::vector<std::vector<int>> owner(atlas.page_count(),
                                      std::vector<int>(GlyphAtlas::page_size * GlyphAtlas::page_size, -1));
  for (std::size_t i = 0; i < kept.size(); ++i) {
    const auto& [key, glyph] = kept[i];
    const AtlasGlyph again = atlas.find(key);
    CHECK((again.x == glyph.x && again.y == glyph.y && again.page == glyph.page));
    const GlyphPicture drawn =
        key.letters == Letters::grey
            ? atlas.typeface(0).grey(key.glyph, key.size, static_cast<float>(key.quarter) / 4)
            : atlas.typeface(0).distance(key.glyph, GlyphAtlas::distance_size, GlyphAtlas::distance_spread);
    REQUIRE(glyph.width == drawn.width);
    if (glyph.width == 0) continue;  // a space
    bool same = true, alone = true;
    for (int y = 0; y < glyph.height + GlyphAtlas::gap; ++y) {
      for (int x = 0; x < glyph.width + GlyphAtlas::gap; ++x) {
        const int px = glyph.x + x, py = glyph.y + y;
        REQUIRE((px < GlyphAtlas::page_size && py < GlyphAtlas::page_size));
        int& own =
            owner[static_cast<std::size_t>(glyph.page)][static_cast<std::size_t>(py * GlyphAtlas::page_size + px)];
        // The same glyph may have been asked for twice.
        alone = alone && (own < 0 || kept[static_cast<std::size_t>(own)].key == key);
        own = static_cast<int>(i);
        const std::uint8_t value =
            atlas.page(static_cast<std::size_t>(glyph.page))[static_cast<std::size_t>(py * GlyphAtlas::page_size + px)];
        const bool gap = x >= glyph.width || y >= glyph.height;
        same = same && value == (gap ? 0 : drawn.values[static_cast<std::size_t>(y * glyph.width + x)]);
      }
    }
    CHECK(same);
    CHECK(alone);
  }
  CHECK(atlas.version() == version);
}

TEST_CASE("files that are no fonts are refused") {
  CHECK(thrown_slug([] { Typeface::read("not/there.ttf"); }) == "unreadable-file");
  CHECK(thrown_slug([] { Typeface::from_bytes({}, "nothing"); }) == "broken-typeface");
  CHECK(thrown_slug([] { Typeface::from_bytes(std::vector<std::byte>(5000, std::byte{7}), "sevens"); }) ==
        "broken-typeface");
  CHECK(thrown_slug([] { Typeface::read(PERISCENA_SOURCE_FOLDER "/tests/broken_frames/grey.png"); }) ==
        "broken-typeface");
}
