#pragma once

#include <periscena/image/sampling.h>
#include <periscena/math/vector.h>
#include <periscena/passes/corner.h>
#include <periscena/passes/options.h>

namespace periscena {
struct SpriteSheet;  // scene/sprite_sheet.h
}  // namespace periscena

namespace periscena::passes {

/// A flat picture on the picture.
struct Sprite {
  Reference sheet = {};                ///< by its name; may be empty when there is only one
  Reference cell = {};                 ///< empty: the first
  Vec2 at = Vec2::zero();              ///< pixels from a corner of the picture inward, to the same corner of the sprite
  Corner corner = Corner::upper_left;  ///< which
  float width = 0;                     ///< pixels, the height follows; 0: as the cell is
  float rotation = 0;                  ///< radians about its middle, counter-clockwise
  Vec3 tint = Vec3::ones();            ///< linear, multiplied
  float alpha = 1;                     ///< 0..1, multiplied
  bool flip_across = false, flip_up = false;
  int order = 0;             ///< higher ones lie over lower ones; of equals, later over earlier ones
  int cells = 1;             ///< how many it runs through, from `cell` on and round again
  float cells_a_second = 0;  ///< cell number floor(time · cells_a_second); negative runs backwards
};

/// Draws sprites of any number of sheets over a picture, all in one call.
///
/// Pixels are those of the frame's size, whatever size the target has. Colours are linear, multiplied with alpha.
struct Sprites {
  std::string name = "sprites";
  std::vector<SpriteSheet> sheets;  ///< that may be named by what is drawn
  std::vector<Sprite> sprites = {};
  Filter filter = Filter::linear;  ///< linear or nearest
  /// 0: blended by alpha. More: what has less alpha is left out, and the rest is drawn whole.
  float least_alpha = 0;
  TargetUse color = {};  ///< what is drawn over
};

/// Mistakes (an unknown sheet or cell) are told by FrameGraph::plan.
Pass sprites(const Sprites& options, Place place = Place::here());

PassKind sprites_kind();

}  // namespace periscena::passes
