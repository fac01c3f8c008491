#include "draw/shaders.h"

namespace periscena::gl {
ShaderLibrary draw_texts();
}

namespace periscena::draw {

gl::ShaderLibrary shaders() {
  return gl::draw_texts();
}

}  // namespace periscena::draw
