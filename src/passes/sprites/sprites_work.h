#pragma once

#include <periscena/graph/pass.h>
#include <periscena/passes/sprites.h>

#include <optional>

namespace periscena::passes {

struct FoundCell {
  std::size_t sheet, cell;
};

/// Number of the sheet that a sprite names, or means by naming none.
std::optional<std::size_t> find_sheet(const Sprites& options, const Sprite& sprite);

/// What a sprite shows, or nothing when there is none of that name.
std::optional<FoundCell> find_cell(const Sprites& options, const Sprite& sprite);

/// Draws them. All name cells that are there.
Work sprites_work(const Sprites& options);

}  // namespace periscena::passes
