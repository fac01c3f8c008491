#pragma once

#include <periscena/gl/shader_text.h>

namespace periscena::passes {

/// GLSL that the passes bring along, for `#include` in GLSL of your own.
gl::ShaderLibrary pass_shaders();

}  // namespace periscena::passes
