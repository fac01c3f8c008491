#pragma once

#include <periscena/math/vector.h>
#include <periscena/passes/corner.h>
#include <periscena/passes/options.h>
#include <periscena/scene/text_style.h>

#include <functional>

namespace periscena {
class Typeface;  // scene/typeface.h
}  // namespace periscena

namespace periscena::passes {

/// A font file by the name that texts call it.
struct NamedTypeface {
  std::string name;
  std::shared_ptr<const Typeface> typeface;
};

/// What is written, and how: the same on the picture and in the world.
struct Wording {
  std::string says = {};  ///< UTF-8; a line feed ends a line
  /// Instead of `says`: what it says at a time, seconds. Asked once a frame.
  std::function<std::string(double)> changing = {};
  Reference typeface = {};    ///< by its name; empty: DejaVu Sans, which lies in the library
  TextStyle style = {};       ///< lengths are pixels on the picture, metres in the world
  Vec3 color = Vec3::ones();  ///< linear; >= 0
  float alpha = 1;            ///< 0..1

  /// Of the text itself, where that is known.
  const Place& place_or(const Place& place) const { return typeface.place.known() ? typeface.place : place; }
};

/// A text on the picture.
struct Text {
  Wording wording = {};
  Vec2 at = Vec2::zero();  ///< pixels from a corner of the picture inward, to the same corner of the text's block
  Corner corner = Corner::upper_left;  ///< which
  Letters letters = Letters::grey;     ///< grey is the crispest up to 256 pixels; distance is for larger ones
};

/// Writes texts over a picture, all in one call.
///
/// Pixels are those of the frame's size, whatever size the target has. Glyphs are drawn into an atlas when they are
/// first needed; what a typeface lacks becomes a box, and one warning ("missing-glyph").
struct Texts {
  std::string name = "text";
  std::vector<NamedTypeface> typefaces = {};
  std::vector<Text> texts = {};
  TargetUse color = {};  ///< what is written over
};

/// Mistakes (an unknown typeface, a size out of range) are told by FrameGraph::plan.
Pass text(const Texts& options, Place place = Place::here());

PassKind text_kind();

}  // namespace periscena::passes
