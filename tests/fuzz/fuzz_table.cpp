// Tables of colours (.cube).
#include "reader.h"

#include <periscena/image/color_table.h>

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  return expect_read_or_refused([&] {
    periscena::read_color_table(fuzz_file("t.cube", {reinterpret_cast<const char*>(data), size}));
  });
}
