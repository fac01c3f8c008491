#pragma once

#include <periscena/passes/options.h>

namespace periscena::passes {

/// How a copy is stretched where its areas differ in size.
enum class Stretch { nearest, linear };
const std::vector<std::string>& choices_of(Stretch);

/// Copies a picture, or a part of one, to another target or another level or layer. Stretches where the areas differ in
/// size. Colours keep their meaning: from an sRGB target to a linear one they are decoded.
struct Copy {
  std::string name = "copy";
  Read from = {};
  Write to = {};
  PixelRect from_area = {}, to_area = {};  ///< from the upper left; empty: the whole level
  Stretch filter = Stretch::nearest;       ///< where it stretches; linear: only colours that are no integers
};
Pass copy(const Copy& options, Place place = Place::here());

/// Brings the samples of a multisampled target together, at a moment of your choice and by a rule of your choice. What
/// is read as an ordinary target is resolved without this. A target of one sample is copied.
struct Resolve {
  std::string name = "resolve";
  Read from = {};
  Write to = {};                            ///< of the same size and format, one sample a pixel
  ResolveRule by = ResolveRule::automatic;  ///< automatic: the rule of the target it reads
};
Pass resolve(const Resolve& options, Place place = Place::here());

/// Makes the mip levels of a target from its level 0, each pixel the mean of those it covers, in linear light.
struct MipChain {
  std::string name = "mip chain";
  TargetUse levels = {};  ///< with levels; colours that are no integers
};
Pass mip_chain(const MipChain& options, Place place = Place::here());

PassKind copy_kind();
PassKind resolve_kind();
PassKind mip_chain_kind();

}  // namespace periscena::passes
