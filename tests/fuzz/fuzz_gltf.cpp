// What can be read can be written, and read back equal.
#include "reader.h"

#include <periscena/model/gltf.h>

#include <cstdio>

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  return expect_read_or_refused([&] {
    const std::string bytes(reinterpret_cast<const char*>(data), size);
    const periscena::Scene scene = periscena::read_gltf(bytes, "fuzz", fuzz_folder()).scene;
    const std::string written = periscena::encode_glb(scene);
    try {
      if (!(periscena::read_gltf(written, "again", fuzz_folder()).scene == scene)) std::abort();
    } catch (const periscena::Error& error) {
      std::fprintf(stderr, "what was written is refused: %s\n", error.what());
      std::abort();
    }
  });
}
