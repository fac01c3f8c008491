// Frame files, planned when they can be.
#include "reader.h"

#include <periscena/frame/frame_file.h>

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  return expect_read_or_refused([&] {
    const auto path = fuzz_file("frame.toml", {reinterpret_cast<const char*>(data), size});
    const periscena::FrameFile frame = periscena::read_frame_file(path);
    frame.plan();
  });
}
