// What is read of GLSL without a compiler.
#include "reader.h"

#include <periscena/gl/shader_interface.h>

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  return expect_read_or_refused([&] {
    const auto shader = periscena::gl::ShaderText::from_text("fuzz", {reinterpret_cast<const char*>(data), size});
    periscena::gl::read_interface(shader);
    periscena::gl::bare_text(shader);
  });
}
