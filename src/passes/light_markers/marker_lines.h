#pragma once

#include "draw/shadows/shadow_view.h"

#include <periscena/gl/block_layout.h>
#include <periscena/scene/scene.h>

#include <vector>

namespace periscena::passes {

/// One line of a marker: an element of the storage block Lines, std430.
struct LineBlock {
  Vec4 from = Vec4::zero(), to = Vec4::zero();  ///< world space, metres
  Vec4 aside = Vec4::zero();                    ///< pixels that its ends lie right of and above that
  Vec4 color = Vec4::zero();                    ///< linear

  static gl::BlockLayout layout();
};

/// Where one light ends: an element of the storage block Reaches, std430.
struct ReachBlock {
  Vec4 position = Vec4::zero();   ///< world space; w: metres
  Vec4 direction = Vec4::zero();  ///< of a spot light; w: radians of its outer cone, or π
  Vec4 color = Vec4::zero();      ///< linear

  static ReachBlock of(const Light& light, const Transform& world, float reach);
  static gl::BlockLayout layout();
};

/// @param world    of the light's node
/// @param camera   that they are looked at with
/// @param reach    of the light, metres
/// @param circles  around point lights
void add_marker(const Light& light, const Transform& world, const Camera& camera, float reach, bool circles,
                std::vector<LineBlock>& into);

/// The edges of what one part of a shadow map sees, or nothing where it sees nothing yet.
/// @param number  of the part among its light's, for its tint
void add_part(const draw::ShadowPartBlock& part, std::size_t number, std::vector<LineBlock>& into);
constexpr std::size_t lines_of_part = 12;

}  // namespace periscena::passes
