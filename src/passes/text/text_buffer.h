#pragma once

#include "draw/scene/scene_buffers.h"
#include "passes/pass_checks.h"

#include <periscena/gl/sampler.h>
#include <periscena/passes/text.h>
#include <periscena/scene/glyph_atlas.h>
#include <periscena/scene/text_layout.h>

namespace periscena::passes {

/// One glyph as vertex programs see it: an element of the storage block Glyphs, std430.
struct GlyphBlock {
  Vec4 place = Vec4::zero();   ///< left, top, right, bottom: right and down
  Vec4 texels = Vec4::zero();  ///< the same on its page, from the upper left
  Vec4 ink = Vec4::ones();     ///< linear, and alpha
  /// Page; 1 for distances; of the text; bits: 1 from the right, 2 from below
  IntVec4 numbers = IntVec4::zero();

  static gl::BlockLayout layout();
};

/// A text on its way into a TextBuffer.
struct PlacedText {
  Wording wording;
  Letters letters = Letters::distance;
  /// Where the block's upper left comes to stand, by the block's size. Grey letters are moved to whole pixels.
  std::function<Vec2(const Vec2&)> place;
  std::int32_t bits = 0;  ///< see GlyphBlock
};

/// The letters of a pass on the device: an atlas, and where each glyph goes. Grows by doubling.
class TextBuffer {
 public:
  TextBuffer(const std::string& label, const std::vector<NamedTypeface>& typefaces, std::vector<PlacedText> texts);

  /// Goes on with the first so many, and with as many in all.
  void keep(std::size_t count);
  /// Replaces one.
  void put(std::size_t number, PlacedText text);
  /// Are most of the glyphs in its atlas likely to be of texts that are gone?
  bool is_littered() const { return atlas_.page_count() > 2 * pages_at_first_ + 4; }

  /// Asks texts that change what they say, and sends what did change.
  void update(const gl::PassContext& context);

  /// For a program that includes periscena/glyphs.glsl.
  void bind(gl::State& state) const;
  std::uint32_t atlas() const { return pages_.name(); }
  std::uint32_t sampler() const { return sampler_.name(); }

  int vertices() const { return 6 * static_cast<int>(blocks_.size()); }
  std::vector<gl::Batch> batches() const;
  Diagnostics diagnostics() const;

 private:
  void set_text(std::size_t number);
  std::uint32_t typeface_number(const std::string& name) const;
  void upload_pages();
  void send(const gl::PassContext& context);

  std::string label_;
  std::vector<std::string> typeface_names_;
  GlyphAtlas atlas_;
  std::vector<PlacedText> texts_;
  std::vector<std::uint32_t> typeface_of_;       ///< by text: number in the atlas
  std::vector<std::string> said_;                ///< by text
  std::vector<std::vector<GlyphBlock>> glyphs_;  ///< by text
  std::vector<GlyphBlock> blocks_;               ///< of all
  std::vector<char32_t> missing_;
  std::size_t pages_at_first_ = 0;
  gl::Texture pages_;
  std::uint64_t uploaded_ = 0;  ///< version of the atlas
  gl::Sampler sampler_;
  gl::Buffer buffer_;
  bool stale_ = true;
};

/// Reports what is wrong with what is written; characters that the typeface lacks are one warning.
/// @param what  for messages: `text 2 of pass "board"`
/// @param unit  of its sizes
void expect_wording(const std::string& what, const std::vector<NamedTypeface>& typefaces, const Wording& wording,
                    const char* unit, const Place& place, std::vector<char32_t>& missing, Diagnostics& problems);
void tell_missing(const std::string& pass, const std::vector<char32_t>& missing, const Place& place,
                  Diagnostics& problems);

/// The keys that texts of both kinds have, and how they are read.
struct WordingKeys {
  std::string says, align = "left";
  Reference typeface;
  float size = 24, width = 0, line_spacing = 1, alpha = 1;
  std::array<float, 3> color{1, 1, 1};

  Wording wording() const;

  /// @param Keys  of a struct that holds a WordingKeys as its base
  template <class Own>
  static void add(Keys<Own>& keys, const char* unit) {
    const auto own = []<class Member>(Member WordingKeys::*member) { return static_cast<Member Own::*>(member); };
    keys.key("says", own(&WordingKeys::says), {.required = true}, "What is written; \\n ends a line")
        .key("typeface", own(&WordingKeys::typeface), {}, "One of `typefaces`; left out, DejaVu Sans")
        .key("size", own(&WordingKeys::size), {.unit = unit, .minimum = 0, .above_minimum = true},
             "Of the letters: one em")
        .key("width", own(&WordingKeys::width), {.unit = unit, .minimum = 0},
             "Lines are broken to be no wider; 0: only at \\n")
        .key("align", own(&WordingKeys::align), {.choices = {"left", "middle", "right"}}, "Of the lines")
        .key("line_spacing", own(&WordingKeys::line_spacing), {.minimum = 0, .above_minimum = true},
             "Times the typeface's own")
        .key("color", own(&WordingKeys::color), {.minimum = 0}, "Linear")
        .key("alpha", own(&WordingKeys::alpha), {.minimum = 0, .maximum = 1}, "1 hides what is below");
  }
};

/// `typefaces = { board = "fonts/board.ttf" }`
std::vector<NamedTypeface> read_typefaces(const PassSource& source, Diagnostics& problems);

/// Calls `read` with each [[pass.text]] and `text 2 of pass "board"`.
void for_each_text(const PassSource& source, Diagnostics& problems,
                   const std::function<void(const Value&, const std::string&)>& read);

}  // namespace periscena::passes
