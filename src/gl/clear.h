#pragma once

#include "gl/api.h"

#include <periscena/graph/target.h>

namespace periscena::gl {

/// Clears one attachment to what its target says.
/// @param draw_buffer  of colours
void clear_attachment(std::uint32_t framebuffer, const TargetDescription& target, int draw_buffer);

}  // namespace periscena::gl
