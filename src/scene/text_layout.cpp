#include <periscena/scene/text_layout.h>

#include <periscena/base/utf8.h>

#include <algorithm>

namespace periscena {
namespace {

/// A character on its way into a line.
struct Item {
  std::uint32_t glyph = 0;
  bool space = false;
  float kerning = 0;  ///< to the one before it, em
  float advance = 0;  ///< em
};

/// From one line feed to the next.
using Paragraph = std::vector<Item>;

class Setter {
 public:
  Setter(const Typeface& typeface, const TextStyle& style) : typeface_(typeface), style_(style) {}

  TextLayout set(std::string_view text) {
    Paragraph paragraph;
    while (!text.empty()) {
      const char32_t character = take_character(text);
      if (character == '\n') {
        break_lines(paragraph);
        paragraph.clear();
      } else {
        take(character, paragraph);
      }
    }
    break_lines(paragraph);
    return finish();
  }

 private:
  struct Line {
    std::size_t first, count;  ///< of the glyphs
    float width;
  };

  void take(char32_t character, Paragraph& into) {
    constexpr int tab_spaces = 4;
    const bool tab = character == '\t';
    if (character < ' ' && !tab) return;
    if (tab) character = ' ';
    Item item{typeface_.glyph(character), character == ' ', 0, 0};
    if (item.glyph == 0 &&
        std::find(layout_.missing.begin(), layout_.missing.end(), character) == layout_.missing.end())
      layout_.missing.push_back(character);
    item.advance = typeface_.advance(item.glyph) * static_cast<float>(tab ? tab_spaces : 1);
    if (!into.empty()) item.kerning = typeface_.kerning(into.back().glyph, item.glyph);
    into.push_back(item);
  }

  void break_lines(const Paragraph& paragraph) {
    std::size_t start = 0;
    do {
      const std::size_t end = line_end(paragraph, start);
      add_line(std::span(paragraph).subspan(start, end - start));
      start = end;
      // Spaces at a break are the break.
      while (start < paragraph.size() && paragraph[start].space) ++start;
    } while (start < paragraph.size());
  }

  /// As many items as fit, whole words if it can be.
  std::size_t line_end(const Paragraph& paragraph, std::size_t start) const {
    if (style_.width <= 0) return paragraph.size();
    const float most = style_.width / style_.size;
    float width = 0;
    std::size_t last_space = start;
    for (std::size_t i = start; i < paragraph.size(); ++i) {
      const Item& item = paragraph[i];
      width += item.advance + (i > start ? item.kerning : 0);
      if (item.space) {
        last_space = i;
      } else if (width > most && i > start) {
        return last_space > start ? last_space : i;
      }
    }
    return paragraph.size();
  }

  void add_line(std::span<const Item> items) {
    Line line{layout_.glyphs.size(), 0, 0};
    const float down =
        typeface_.ascent() + static_cast<float>(lines_.size()) * typeface_.line_height() * style_.line_spacing;
    float pen = 0;
    for (std::size_t i = 0; i < items.size(); ++i) {
      if (i > 0) pen += items[i].kerning;
      if (!items[i].space) {
        layout_.glyphs.push_back({items[i].glyph, style_.size * Vec2(pen, down)});
        line.width = pen + items[i].advance;
      }
      pen += items[i].advance;
    }
    line.count = layout_.glyphs.size() - line.first;
    line.width *= style_.size;
    lines_.push_back(line);
  }

  TextLayout finish() {
    layout_.lines = lines_.size();
    float widest = 0;
    for (const Line& line : lines_) widest = std::max(widest, line.width);
    const float width = style_.width > 0 ? std::max(style_.width, widest) : widest;
    const float below = static_cast<float>(lines_.size() - 1) * typeface_.line_height() * style_.line_spacing;
    layout_.size = {width, style_.size * (typeface_.ascent() + typeface_.descent() + below)};
    const float share = style_.align == Align::left ? 0.0f : style_.align == Align::middle ? 0.5f : 1.0f;
    for (const Line& line : lines_) {
      for (std::size_t i = 0; i < line.count; ++i)
        layout_.glyphs[line.first + i].pen.x() += share * (width - line.width);
    }
    return std::move(layout_);
  }

  const Typeface& typeface_;
  const TextStyle& style_;
  TextLayout layout_;
  std::vector<Line> lines_;
};

}  // namespace

TextLayout lay_out(std::string_view text, const Typeface& typeface, const TextStyle& style) {
  return Setter(typeface, style).set(text);
}

}  // namespace periscena
