#pragma once

#include <periscena/gl/capabilities.h>

namespace periscena::gl {

/// Asks the current context.
Capabilities ask_capabilities();

}  // namespace periscena::gl
