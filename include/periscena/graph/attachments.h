#pragma once

#include <periscena/base/diagnostic.h>
#include <periscena/graph/device_limits.h>
#include <periscena/graph/target.h>

#include <span>
#include <string>
#include <vector>

namespace periscena {

/// One image of a framebuffer, as it would be attached.
struct Attachment {
  std::string slot;    ///< "depth", "stencil", else a colour's name
  std::string target;  ///< for messages
  Format format = Format::rgba8;
  TargetShape shape = TargetShape::flat;
  int width = 1, height = 1;  ///< of level 0
  int samples = 1, levels = 1, layers = 1;
  int level = 0;
  int layer = all_layers;  ///< all of an array or cube: a layered attachment
  Place place = {};
};

/// Why a framebuffer can't be drawn into, or not as meant.
struct AttachmentFault {
  /// Would OpenGL call the framebuffer incomplete (or refuse to attach)? else it only draws less
  bool incomplete = true;
  Diagnostic diagnostic;
};

/// What is wrong with drawing into these images together, found by the rules of OpenGL 4.5, section 9.4, without a
/// device. Empty: every driver draws into them.
/// @param who  for messages: `pass "lock"`
std::vector<AttachmentFault> check_attachments(std::span<const Attachment> attachments, const std::string& who,
                                               const DeviceLimits& limits);

}  // namespace periscena
