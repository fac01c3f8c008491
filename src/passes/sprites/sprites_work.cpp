#include "passes/sprites/sprites_work.h"

#include "draw/scene/picture_array.h"
#include "draw/screen/bound_textures.h"
#include "passes/shared_keys.h"

#include <periscena/base/names.h>
#include <periscena/gl/pass_work.h>
#include <periscena/gl/sampler.h>
#include <periscena/passes/live.h>
#include <periscena/scene/sprite_sheet.h>

#include <fmt/format.h>

#include <algorithm>
#include <bit>

namespace periscena::passes {

std::optional<std::size_t> find_sheet(const Sprites& options, const Sprite& sprite) {
  if (sprite.sheet.empty()) return options.sheets.size() == 1 ? std::optional<std::size_t>(0) : std::nullopt;
  for (std::size_t i = 0; i < options.sheets.size(); ++i) {
    if (options.sheets[i].name == sprite.sheet.name) return i;
  }
  return std::nullopt;
}

std::optional<FoundCell> find_cell(const Sprites& options, const Sprite& sprite) {
  const auto sheet = find_sheet(options, sprite);
  const auto cell = sheet ? options.sheets[*sheet].find(sprite.cell.name) : std::nullopt;
  if (!cell) return std::nullopt;
  return FoundCell{*sheet, *cell};
}

namespace {

/// Elements of the storage blocks Sprites and Cells, std430.
struct SpriteBlock {
  Vec4 place = Vec4::zero();
  Vec4 tint = Vec4::ones();
  std::int32_t cells[4] = {0, 1, 0, 0};
  Vec4 rate = Vec4::zero();

  bool operator==(const SpriteBlock&) const = default;
};

struct CellBlock {
  Vec4 place = Vec4::zero();
  Vec4 sheet = Vec4::zero();

  static gl::BlockLayout layout() {
    return gl::describe_block<CellBlock>("Cells", "cells")
        .member("place", &CellBlock::place)
        .member("sheet", &CellBlock::sheet);
  }
};

bool same_sheets(const std::vector<SpriteSheet>& a, const std::vector<SpriteSheet>& b) {
  return std::equal(a.begin(), a.end(), b.begin(), b.end(), [](const SpriteSheet& x, const SpriteSheet& y) {
    return x.name == y.name && x.image == y.image && x.cells == y.cells;
  });
}

std::vector<const Image*> images_of(const Sprites& options) {
  std::vector<const Image*> images;
  for (const SpriteSheet& sheet : options.sheets) images.push_back(sheet.image.get());
  return images;
}

class SpritesWork final : public gl::PassWork {
 public:
  SpritesWork(const Sprites& options, gl::PassSetup& setup)
      : program_(setup.device(),
                 {options.name, pass_shader("periscena/sprites.vert"), pass_shader("periscena/sprites.frag")}),
        textures_(program_),
        sheets_(draw::upload_pictures(images_of(options), options.name)),
        sampler_(options.filter, Wrap::clamp, options.name),
        sheets_shown_(options.sheets),
        filter_(options.filter) {
    setup.match_outputs(program_);
    program_.expect_block(CellBlock::layout());
    program_.set(program_.uniform<Vec2>("layer_size"),
                 Vec2(static_cast<float>(sheets_.width()), static_cast<float>(sheets_.height())));
    textures_.put(program_, "sheets", sheets_.name(), sampler_.name());
    fill_cells(options);
    show(options);
  }

  bool take(const Pass& now) override {
    const Sprites* wanted = options_in<Sprites>(now);
    if (!wanted || !same_sheets(wanted->sheets, sheets_shown_) || wanted->filter != filter_) return false;
    show(*wanted);
    return true;
  }

  void prepare(gl::PassContext& context) override {
    if (blocks_.size() * sizeof(SpriteBlock) > sprites_.size()) {
      sprites_ = gl::Buffer::writable(std::bit_ceil(blocks_.size()) * sizeof(SpriteBlock), "sprites");
      first_changed_ = 0;
      end_changed_ = blocks_.size();
    }
    if (first_changed_ >= end_changed_) return;
    const std::span changed = std::span(blocks_).subspan(first_changed_, end_changed_ - first_changed_);
    context.write(sprites_, first_changed_ * sizeof(SpriteBlock), std::as_bytes(changed));
    first_changed_ = end_changed_ = 0;
  }

  void run(gl::PassContext& context) override {
    if (blocks_.empty()) return;
    gl::State& state = context.state();
    program_.use(state);
    state.apply({.blend = {.on = true}});
    state.bind_storage_block(gl::binding::sprite_storage, sprites_.name());
    state.bind_storage_block(gl::binding::cell_storage, cells_.name());
    textures_.bind(state);
    context.draw_generated(6 * static_cast<int>(blocks_.size()));
  }

  std::vector<gl::Batch> batches() const override {
    if (blocks_.empty()) return {};
    return {{fmt::format("{} of {}", counted(blocks_.size(), "sprite"), counted(sheets_shown_.size(), "sheet")),
             {.draw_calls = 1, .commands = 1, .instances = 1, .triangles = 2 * std::uint64_t{blocks_.size()}},
             {}}};
  }

 private:
  void fill_cells(const Sprites& options) {
    std::vector<CellBlock> blocks;
    for (std::size_t i = 0; i < options.sheets.size(); ++i) {
      first_cell_.push_back(blocks.size());
      for (const SpriteCell& cell : options.sheets[i].cells) {
        blocks.push_back(
            {IntVec4(cell.x, cell.y, cell.width, cell.height).cast<float>(), Vec4(static_cast<float>(i), 0, 0, 0)});
      }
    }
    cells_ = gl::Buffer::holding(std::as_bytes(std::span(blocks)), "sprite cells");
  }

  /// Goes on with other sprites of the same sheets; those that differ are sent before the next frame.
  void show(const Sprites& options) {
    program_.set(program_.uniform<float>("least_alpha"), options.least_alpha);
    std::vector<SpriteBlock> blocks = blocks_of(options);
    const auto [now, before] = std::mismatch(blocks.begin(), blocks.end(), blocks_.begin(), blocks_.end());
    const auto first = static_cast<std::size_t>(now - blocks.begin());
    std::size_t end = blocks.size();
    if (blocks.size() == blocks_.size())
      while (end > first && blocks[end - 1] == blocks_[end - 1]) --end;
    blocks_ = std::move(blocks);
    // What was to be sent before still is.
    const bool waiting = first_changed_ < end_changed_;
    first_changed_ = waiting ? std::min(first_changed_, first) : first;
    end_changed_ = std::min(blocks_.size(), waiting ? std::max(end_changed_, end) : end);
  }

  std::vector<SpriteBlock> blocks_of(const Sprites& options) const {
    std::vector<const Sprite*> order;
    for (const Sprite& sprite : options.sprites) order.push_back(&sprite);
    std::stable_sort(order.begin(), order.end(), [](const Sprite* a, const Sprite* b) { return a->order < b->order; });
    std::vector<SpriteBlock> blocks;
    for (const Sprite* sprite : order) {
      const FoundCell found = *find_cell(options, *sprite);
      SpriteBlock block;
      block.place = {sprite->at.x(), sprite->at.y(), sprite->width, sprite->rotation};
      block.tint = {sprite->tint.x(), sprite->tint.y(), sprite->tint.z(), sprite->alpha};
      block.cells[0] = static_cast<std::int32_t>(first_cell_[found.sheet] + found.cell);
      block.cells[1] = sprite->cells;
      const auto corner = static_cast<int>(sprite->corner);
      block.cells[2] = corner | (sprite->flip_across ? 4 : 0) | (sprite->flip_up ? 8 : 0);
      block.rate[0] = sprite->cells_a_second;
      blocks.push_back(block);
    }
    return blocks;
  }

  gl::Program program_;
  draw::BoundTextures textures_;
  gl::Texture sheets_;
  gl::Sampler sampler_;
  std::vector<SpriteSheet> sheets_shown_;
  Filter filter_;
  std::vector<std::size_t> first_cell_;  ///< by sheet
  std::vector<SpriteBlock> blocks_;      ///< in the order in which they are drawn
  std::size_t first_changed_ = 0, end_changed_ = 0;
  gl::Buffer cells_, sprites_;
};

}  // namespace

Work sprites_work(const Sprites& options) {
  return gl::work<SpritesWork>(options);
}

}  // namespace periscena::passes
