#pragma once

#include <periscena/passes/options.h>
#include <periscena/passes/text.h>

#include <string>

namespace periscena::passes {

/// A text on a surface in the world. Up close and from afar its edges are sharp: letters are kept as distances.
struct WorldText {
  enum class Anchor { upper_left, upper_right, lower_left, lower_right, middle };

  Wording wording = {.style = {.size = 0.1f}};
  Reference object = {};               ///< the text is in its coordinates, and follows it; empty: the world's
  Vec3 origin = Vec3::zero();          ///< metres: where the block's anchor is
  Vec3 facing = Vec3(0, 0, 1);         ///< out of the surface, towards the reader; any length but 0
  Vec3 up = Vec3(0, 1, 0);             ///< of the letters; not along `facing`
  Anchor anchor = Anchor::upper_left;  ///< of the text's block
};

/// Writes texts onto surfaces of a scene, all in one call: lifted off them by polygon offset, hidden by what is before
/// them, and no part of what picking finds.
struct WorldTexts {
  std::string name = "world text";
  std::shared_ptr<const Scene> scene = {};
  Reference view = {};  ///< a view of the scene
  std::vector<NamedTypeface> typefaces = {};
  std::vector<WorldText> texts = {};
  /// Paint, lit as the surface is that it is on. Else colours are nits of their own.
  bool lit = true;
  ChosenNames lights = {};              ///< left out, all of the scene
  Reference environment = {};           ///< light from all around; empty for none
  Reference fog = {};                   ///< empty for none
  std::vector<TargetUse> shadows = {};  ///< as of Forward
  TargetUse color = {};                 ///< what is written over: linear light
  TargetUse depth = {};                 ///< of the objects, with as many samples
  std::string cache = default_cache();  ///< for what is computed of environments; empty: none
};

/// Mistakes are told by FrameGraph::plan.
Pass world_text(const WorldTexts& options, Place place = Place::here());
/// With what the frame's passes share.
Pass world_text(const Defaults& defaults, WorldTexts options, Place place = Place::here());

PassKind world_text_kind();

}  // namespace periscena::passes
