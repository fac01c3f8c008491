#include "passes/text/text_buffer.h"

#include <periscena/base/error.h>
#include <periscena/base/names.h>

#include <fmt/format.h>

#include <algorithm>
#include <bit>
#include <cmath>

namespace periscena::passes {
namespace {

std::shared_ptr<const Typeface> find_typeface(const std::vector<NamedTypeface>& typefaces, const Reference& name) {
  if (name.empty()) return Typeface::built_in();
  for (const NamedTypeface& known : typefaces) {
    if (known.name == name.name) return known.typeface;
  }
  return nullptr;
}

/// The built-in one last.
std::vector<std::shared_ptr<const Typeface>> all_of(const std::vector<NamedTypeface>& typefaces) {
  std::vector<std::shared_ptr<const Typeface>> all;
  for (const NamedTypeface& named : typefaces) all.push_back(named.typeface);
  all.push_back(Typeface::built_in());
  return all;
}

void add_missing(const std::vector<char32_t>& more, std::vector<char32_t>& missing) {
  for (const char32_t character : more) {
    if (std::find(missing.begin(), missing.end(), character) == missing.end()) missing.push_back(character);
  }
}

GlyphBlock block_of(const AtlasGlyph& glyph, const Vec2& upper_left, float scale) {
  GlyphBlock block;
  const Vec2 size(static_cast<float>(glyph.width), static_cast<float>(glyph.height));
  const Vec2 from(static_cast<float>(glyph.x), static_cast<float>(glyph.y));
  const Vec2 lower_right = upper_left + scale * size, to = from + size;
  block.place = {upper_left.x(), upper_left.y(), lower_right.x(), lower_right.y()};
  block.texels = {from.x(), from.y(), to.x(), to.y()};
  block.numbers[0] = glyph.page;
  return block;
}

/// Crisp on whole rows, and to a quarter of a pixel along the line.
GlyphBlock grey_block(GlyphAtlas& atlas, GlyphKey key, const Vec2& pen) {
  const float quarters = std::floor(pen.x() * 4 + 0.5f), column = std::floor(quarters / 4);
  key.quarter = static_cast<int>(quarters - 4 * column);
  const AtlasGlyph& glyph = atlas.find(key);
  return block_of(glyph, {column + static_cast<float>(glyph.left), std::round(pen.y()) - static_cast<float>(glyph.top)},
                  1);
}

GlyphBlock distance_block(GlyphAtlas& atlas, const GlyphKey& key, const Vec2& pen, float size) {
  const float scale = size / GlyphAtlas::distance_size;
  const AtlasGlyph& glyph = atlas.find(key);
  const Vec2 corner(static_cast<float>(glyph.left), -static_cast<float>(glyph.top));
  GlyphBlock block = block_of(glyph, pen + scale * corner, scale);
  block.numbers[1] = 1;
  return block;
}

}  // namespace

gl::BlockLayout GlyphBlock::layout() {
  return gl::describe_block<GlyphBlock>("Glyphs", "glyphs")
      .member("place", &GlyphBlock::place)
      .member("texels", &GlyphBlock::texels)
      .member("ink", &GlyphBlock::ink)
      .member("numbers", &GlyphBlock::numbers);
}

TextBuffer::TextBuffer(const std::string& label, const std::vector<NamedTypeface>& typefaces,
                       std::vector<PlacedText> texts)
    : label_(label),
      atlas_(all_of(typefaces)),
      texts_(std::move(texts)),
      said_(texts_.size()),
      glyphs_(texts_.size()),
      sampler_(Filter::linear_levels, Wrap::clamp, label) {
  for (const NamedTypeface& named : typefaces) typeface_names_.push_back(named.name);
  typeface_of_.resize(texts_.size());
  for (std::size_t i = 0; i < texts_.size(); ++i) put(i, std::move(texts_[i]));
  pages_at_first_ = atlas_.page_count();
}

void TextBuffer::keep(std::size_t count) {
  stale_ = stale_ || count != texts_.size();
  texts_.resize(count);
  said_.resize(count);
  glyphs_.resize(count);
  typeface_of_.resize(count);
}

void TextBuffer::put(std::size_t number, PlacedText text) {
  texts_[number] = std::move(text);
  typeface_of_[number] = typeface_number(texts_[number].wording.typeface.name);
  said_[number] = texts_[number].wording.says;
  set_text(number);
}

/// Of the built-in one, which has no name: after all others.
std::uint32_t TextBuffer::typeface_number(const std::string& name) const {
  const auto found = std::find(typeface_names_.begin(), typeface_names_.end(), name);
  return static_cast<std::uint32_t>((name.empty() ? typeface_names_.end() : found) - typeface_names_.begin());
}

void TextBuffer::set_text(std::size_t number) {
  const PlacedText& text = texts_[number];
  const std::uint32_t typeface = typeface_of_[number];
  const TextLayout layout = lay_out(said_[number], atlas_.typeface(typeface), text.wording.style);
  add_missing(layout.missing, missing_);
  const Vec2 upper_left = text.place(layout.size);
  const float size = text.wording.style.size;
  glyphs_[number].clear();
  for (const PlacedGlyph& placed : layout.glyphs) {
    const Vec2 pen = upper_left + placed.pen;
    const GlyphKey key{.typeface = typeface,
                       .glyph = placed.glyph,
                       .letters = text.letters,
                       .size = text.letters == Letters::grey ? static_cast<int>(std::lround(size)) : 0};
    GlyphBlock block =
        text.letters == Letters::grey ? grey_block(atlas_, key, pen) : distance_block(atlas_, key, pen, size);
    block.ink = text.wording.color.with(text.wording.alpha);
    block.numbers[2] = static_cast<std::int32_t>(number);
    block.numbers[3] = text.bits;
    if (block.place[2] > block.place[0]) glyphs_[number].push_back(block);
  }
  stale_ = true;
}

void TextBuffer::upload_pages() {
  constexpr int side = GlyphAtlas::page_size;
  const auto pages = static_cast<int>(std::bit_ceil(std::max<std::size_t>(1, atlas_.page_count())));
  if (pages_.name() == 0 || pages_.description().layers < pages) {
    pages_ = gl::Texture({.width = side,
                          .height = side,
                          .format = Format::r8,
                          .shape = TargetShape::array,
                          .layers = pages,
                          .levels = 3},
                         label_);
  }
  Image image(side, side, Format::rgba8);
  for (std::size_t i = 0; i < atlas_.page_count(); ++i) {
    const std::vector<std::uint8_t>& page = atlas_.page(i);
    for (std::size_t k = 0; k < page.size(); ++k) image.bytes()[4 * k] = std::byte{page[k]};
    pages_.upload(image, {.layer = static_cast<int>(i), .top_first = true});
  }
  pages_.make_levels();
  uploaded_ = atlas_.version();
}

void TextBuffer::update(const gl::PassContext& context) {
  for (std::size_t i = 0; i < texts_.size(); ++i) {
    const Wording& wording = texts_[i].wording;
    if (!wording.changing) continue;
    std::string says = wording.changing(context.time().seconds);
    if (says == said_[i]) continue;
    said_[i] = std::move(says);
    set_text(i);
  }
  if (stale_) send(context);
  stale_ = false;
}

void TextBuffer::send(const gl::PassContext& context) {
  blocks_.clear();
  for (const std::vector<GlyphBlock>& glyphs : glyphs_) blocks_.insert(blocks_.end(), glyphs.begin(), glyphs.end());
  if (uploaded_ != atlas_.version() || pages_.name() == 0) upload_pages();
  const std::size_t bytes = blocks_.size() * sizeof(GlyphBlock);
  if (buffer_.size() < std::max(bytes, sizeof(GlyphBlock)))
    buffer_ = gl::Buffer::writable(std::bit_ceil(std::max(bytes, sizeof(GlyphBlock))), label_);
  if (!blocks_.empty()) context.write(buffer_, 0, std::as_bytes(std::span(blocks_)));
}

void TextBuffer::bind(gl::State& state) const {
  state.bind_storage_block(gl::binding::glyph_storage, buffer_.name());
}

std::vector<gl::Batch> TextBuffer::batches() const {
  if (blocks_.empty()) return {};
  return {{fmt::format("{} of {}", counted(blocks_.size(), "glyph"), counted(texts_.size(), "text")),
           {.draw_calls = 1, .commands = 1, .instances = 1, .triangles = 2 * std::uint64_t{blocks_.size()}},
           {}}};
}

Diagnostics TextBuffer::diagnostics() const {
  // What texts say from the start was told before they ran.
  const bool changing = std::any_of(texts_.begin(), texts_.end(),
                                    [](const PlacedText& text) { return text.wording.changing != nullptr; });
  Diagnostics found;
  if (changing) tell_missing(label_, missing_, {}, found);
  return found;
}

void tell_missing(const std::string& pass, const std::vector<char32_t>& missing, const Place& place,
                  Diagnostics& problems) {
  if (missing.empty()) return;
  std::string list;
  constexpr std::size_t most = 8;
  for (std::size_t i = 0; i < std::min(missing.size(), most); ++i)
    list += fmt::format("{}U+{:04X}", i == 0 ? "" : ", ", static_cast<std::uint32_t>(missing[i]));
  if (missing.size() > most) list += fmt::format(" and {} more", missing.size() - most);
  problems.warning("missing-glyph", place, fmt::format("pass \"{}\" writes what its typeface lacks: {}", pass, list),
                   "boxes stand for it; choose a typeface that has it");
}

void expect_wording(const std::string& what, const std::vector<NamedTypeface>& typefaces, const Wording& wording,
                    const char* unit, const Place& place, std::vector<char32_t>& missing, Diagnostics& problems) {
  const auto typeface = find_typeface(typefaces, wording.typeface);
  if (!typeface) {
    std::vector<std::string> names;
    for (const NamedTypeface& known : typefaces) names.push_back(known.name);
    problems.error("unknown-typeface", place,
                   fmt::format("{} names typeface \"{}\", which is not there", what, wording.typeface.name),
                   names.empty() ? fmt::format("declare it: typefaces = {{ {} = \"….ttf\" }}", wording.typeface.name)
                                 : name_hint(wording.typeface.name, names));
    return;
  }
  const TextStyle& style = wording.style;
  const bool finite = is_finite(wording.color) && std::isfinite(wording.alpha) && std::isfinite(style.size) &&
                      std::isfinite(style.width) && std::isfinite(style.line_spacing);
  if (!finite) {
    problems.error("not-finite", place, fmt::format("{} has a number that is not finite", what),
                   "look for where it comes from");
  } else if (!(style.size > 0 && style.width >= 0 && style.line_spacing > 0 && wording.alpha >= 0 &&
               wording.alpha <= 1 && wording.color.smallest() >= 0)) {
    problems.error("out-of-range", place,
                   fmt::format("{} has a size of {} {}, a width of {}, a line spacing of {} and an alpha of {}", what,
                               style.size, unit, style.width, style.line_spacing, wording.alpha),
                   "size and line spacing must be more than 0, width and colours at least 0, alpha 0 to 1");
  } else if (!wording.changing) {
    add_missing(lay_out(wording.says, *typeface, style).missing, missing);
  }
}

Wording WordingKeys::wording() const {
  Wording wording;
  wording.says = says;
  wording.typeface = typeface;
  wording.style = {size, width,
                   align == "left"     ? Align::left
                   : align == "middle" ? Align::middle
                                       : Align::right,
                   line_spacing};
  wording.color = Vec3(color[0], color[1], color[2]);
  wording.alpha = alpha;
  return wording;
}

std::vector<NamedTypeface> read_typefaces(const PassSource& source, Diagnostics& problems) {
  std::vector<NamedTypeface> typefaces;
  const Value* given = source.table->find("typefaces");
  if (!given) return typefaces;
  const Value& table = *given;
  if (!table.table()) {
    problems.error("wrong-type", table.place, fmt::format("\"typefaces\" is {}", table.describe()),
                   "write typefaces = { board = \"board.ttf\" }");
    return typefaces;
  }
  for (const ValueMember& member : *table.table()) {
    const std::string* path = member.value.text();
    if (!path) {
      problems.error(
          "wrong-type", member.value.place,
          fmt::format("typeface \"{}\" of pass \"{}\" is {}", member.name, source.name.name, member.value.describe()),
          "write the path of a font file");
      continue;
    }
    collect_mistakes(member.value.place, problems, [&] {
      typefaces.push_back({member.name, Typeface::read(source.folder / *path)});
    });
  }
  return typefaces;
}

void for_each_text(const PassSource& source, Diagnostics& problems,
                   const std::function<void(const Value&, const std::string&)>& read) {
  const Value* given = source.table->find("text");
  if (!given) return;
  const Value& list = *given;
  if (!list.array()) {
    problems.error("wrong-type", list.place, fmt::format("\"text\" is {}", list.describe()),
                   "write [[pass.text]], then its keys");
    return;
  }
  int number = 0;
  for (const Value& one : *list.array()) {
    const std::string what = fmt::format("text {} of pass \"{}\"", ++number, source.name.name);
    if (one.table()) {
      read(one, what);
    } else {
      problems.error("wrong-type", one.place, fmt::format("{} is {}", what, one.describe()),
                     "write { says = \"Osier Lock\", at = [8, 8] }");
    }
  }
}

}  // namespace periscena::passes
