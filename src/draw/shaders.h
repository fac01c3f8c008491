#pragma once

#include <periscena/gl/shader_text.h>

namespace periscena::draw {

/// The GLSL of this module.
gl::ShaderLibrary shaders();

}  // namespace periscena::draw
