// The materials' file is what stands behind a line of "%".
#include "reader.h"

#include <periscena/model/obj.h>

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  const std::string_view bytes(reinterpret_cast<const char*>(data), size);
  const std::size_t cut = std::min(bytes.find("\n%\n"), size);
  return expect_read_or_refused([&] {
    fuzz_file("m.mtl", cut == size ? "" : bytes.substr(cut + 3));
    periscena::read_obj(fuzz_file("m.obj", bytes.substr(0, cut)));
  });
}
