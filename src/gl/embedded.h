#pragma once

#include <periscena/gl/shader_text.h>

namespace periscena::gl {

/// This module's texts; written by cmake/embed.cmake.
ShaderLibrary gl_texts();

}  // namespace periscena::gl
