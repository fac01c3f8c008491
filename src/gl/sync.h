#pragma once

#include "gl/api.h"

namespace periscena::gl {

/// Headers of ours keep GL's types to themselves.
inline GLsync sync_of(void* fence) {
  return static_cast<GLsync>(fence);
}

}  // namespace periscena::gl
