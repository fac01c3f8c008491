#pragma once

#include <periscena/gl/device.h>

namespace periscena::gl {

/// Asks the current context.
Capabilities ask_capabilities(const DeviceOptions& options);

/// Mesa's rasterizer on the CPU, on its own or below another driver.
bool is_llvmpipe();

}  // namespace periscena::gl
