#pragma once

#include <periscena/gl/program.h>

namespace periscena::gl {

/// Asks the driver about a linked program.
ProgramInterface reflect(std::uint32_t program);

}  // namespace periscena::gl
