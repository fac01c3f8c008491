#include <periscena/passes/text.h>

#include "draw/lights/lighting.h"
#include "passes/shared_keys.h"
#include "passes/text/text_buffer.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace periscena::passes {
namespace {

constexpr float largest_grey = 256;  ///< pixels an em; see Typeface::grey

PlacedText placed(const Text& text) {
  const bool right = is_right(text.corner), lower = is_lower(text.corner);
  return {text.wording, text.letters,
          [at = text.at, right, lower](const Vec2& size) {
            return Vec2(right ? -at.x() - size.x() : at.x(), lower ? -at.y() - size.y() : at.y());
          },
          (right ? 1 : 0) | (lower ? 2 : 0)};
}

std::vector<PlacedText> all_placed(const Texts& options) {
  std::vector<PlacedText> all;
  for (const Text& text : options.texts) all.push_back(placed(text));
  return all;
}

/// Functions can't be compared: what they say counts as another text, which costs its layout.
bool same(const Text& a, const Text& b) {
  const TextStyle &x = a.wording.style, &y = b.wording.style;
  return !a.wording.changing && !b.wording.changing && a.wording.says == b.wording.says &&
         a.wording.typeface.name == b.wording.typeface.name && x.size == y.size && x.width == y.width &&
         x.align == y.align && x.line_spacing == y.line_spacing && a.wording.color == b.wording.color &&
         a.wording.alpha == b.wording.alpha && a.at == b.at && a.corner == b.corner && a.letters == b.letters;
}

bool same_typefaces(const std::vector<NamedTypeface>& a, const std::vector<NamedTypeface>& b) {
  return std::equal(a.begin(), a.end(), b.begin(), b.end(), [](const NamedTypeface& x, const NamedTypeface& y) {
    return x.name == y.name && x.typeface == y.typeface;
  });
}

class TextWork final : public gl::PassWork {
 public:
  TextWork(const Texts& options, gl::PassSetup& setup)
      : program_(setup.device(),
                 {options.name, pass_shader("periscena/text.vert"), pass_shader("periscena/text.frag")}),
        textures_(program_),
        options_(options),
        text_(options.name, options.typefaces, all_placed(options)) {
    setup.match_outputs(program_);
    program_.expect_block(GlyphBlock::layout());
  }

  bool take(const Pass& now) override {
    const Texts* wanted = options_in<Texts>(now);
    // With an atlas that texts before have filled, it is made again.
    if (!wanted || text_.is_littered() || !same_typefaces(wanted->typefaces, options_.typefaces)) return false;
    text_.keep(wanted->texts.size());
    for (std::size_t i = 0; i < wanted->texts.size(); ++i) {
      if (i >= options_.texts.size() || !same(wanted->texts[i], options_.texts[i]))
        text_.put(i, placed(wanted->texts[i]));
    }
    options_ = *wanted;
    return true;
  }

  void run(gl::PassContext& context) override {
    text_.update(context);
    if (text_.vertices() == 0) return;
    gl::State& state = context.state();
    program_.use(state);
    state.apply({.blend = {.on = true}});
    text_.bind(state);
    textures_.put(program_, "letters", text_.atlas(), text_.sampler());
    textures_.bind(state);
    context.draw_generated(text_.vertices());
  }

  std::vector<gl::Batch> batches() const override { return text_.batches(); }
  Diagnostics diagnostics() const override { return text_.diagnostics(); }

 private:
  gl::Program program_;
  draw::BoundTextures textures_;
  Texts options_;
  TextBuffer text_;
};

void expect_sound(const Texts& options, const Place& place, Diagnostics& problems) {
  std::vector<char32_t> missing;
  for (std::size_t i = 0; i < options.texts.size(); ++i) {
    const Text& text = options.texts[i];
    const std::string what = fmt::format("text {} of pass \"{}\"", i + 1, options.name);
    const Place& own = text.wording.place_or(place);
    expect_wording(what, options.typefaces, text.wording, "pixels", own, missing, problems);
    if (!is_finite(text.at))
      problems.error("not-finite", own, fmt::format("{} stands nowhere", what), "look for where that comes from");
    const float size = text.wording.style.size;
    if (text.letters == Letters::grey && (size > largest_grey || (size > 0 && size < 1))) {
      problems.error("out-of-range", own, fmt::format("{} has grey letters of {} pixels", what, size),
                     fmt::format("choose 1 to {}, or letters = \"distance\"", largest_grey));
    }
  }
  tell_missing(options.name, missing, place, problems);
}

struct TextKeys : WordingKeys {
  std::array<float, 2> at{0, 0};
  std::string corner = "upper_left", letters = "grey";
};

Keys<Texts> texts_keys() {
  Keys<Texts> keys;
  keys.elsewhere("typefaces", "table", {}, "By name: the path of a font file")
      .elsewhere("text", "list of tables", {.required = true},
                 "What to write: [[pass.text]], as often as there are texts");
  return keys;
}

Keys<TextKeys> text_keys() {
  Keys<TextKeys> keys;
  WordingKeys::add(keys, "pixels");
  keys.key("at", &TextKeys::at, {.unit = "pixels"}, "From the corner inward")
      .key("corner", &TextKeys::corner, {.choices = corner_names()}, "Of the picture, and of the text")
      .key("letters", &TextKeys::letters, {.choices = {"grey", "distance"}},
           "grey: the crispest, 1 to 256 pixels; distance: of any size");
  return keys;
}

void read_text(const Value& table, const std::string& what, Texts& options, Diagnostics& problems) {
  static const Keys<TextKeys> keys = text_keys();
  TextKeys given;
  keys.read(table, what, given, problems);
  report_unknown_keys(table, what, keys.names(), problems);
  if (!given.typeface.place.known()) given.typeface.place = table.place;
  options.texts.push_back({given.wording(), Vec2(given.at[0], given.at[1]),
                           static_cast<Corner>(index_of(corner_names(), given.corner)),
                           given.letters == "grey" ? Letters::grey : Letters::distance});
}

void finish_text(const Texts& options, Pass& pass) {
  expect_sound(options, pass.place, pass.problems);
  pass.work = gl::work<TextWork>(options);
}

const Kind<Texts>& text_said() {
  static const Kind<Texts> kind{
      .name = "text",
      .sentence = "Writes over a picture, in pixels of the frame's size, all in one call.",
      .example =
          "[[pass]]\nname   = \"captions\"\nkind   = \"text\"\nwrites = { color = \"output\" }\n\n"
          "[[pass.text]]\nsays   = \"Osier Lock\\nfall 2.4 m\"\nat     = [24, 20]\ncorner = \"lower_left\"\nsize   = "
          "28\n",
      .reads = {},
      .writes = {{{"color", Need::required, "What is written over"}, &Texts::color}},
      .keys = texts_keys(),
      .finish = finish_text,
      .read_more =
          [](const PassSource& source, Texts& options, Diagnostics& problems) {
            options.typefaces = read_typefaces(source, problems);
            for_each_text(source, problems, [&](const Value& table, const std::string& what) {
              read_text(table, what, options, problems);
            });
            if (problems.has_errors()) options.texts.clear();
          },
      .parts = {{"[[pass.text]]", text_keys().infos()}}};
  return kind;
}

}  // namespace

Pass text(const Texts& options, Place place) {
  return text_said().make(options, std::move(place));
}

PassKind text_kind() {
  return text_said().kind();
}

}  // namespace periscena::passes
