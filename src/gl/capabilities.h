#pragma once

#include <periscena/gl/capabilities.h>

namespace periscena::gl {

/// Asks the current context.
/// @param avoid_known_faults  as of DeviceOptions
Capabilities ask_capabilities(bool avoid_known_faults);

/// Mesa's rasterizer on the CPU, on its own or below another driver.
bool is_llvmpipe();

}  // namespace periscena::gl
