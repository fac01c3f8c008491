// The index of a capture; what stands behind a line of "%" is a file that it may name, "a.png".
#include "reader.h"

#include <periscena/inspect/capture.h>

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  const std::string_view bytes(reinterpret_cast<const char*>(data), size);
  const std::size_t cut = std::min(bytes.find("\n%\n"), size);
  fuzz_file("index.json", bytes.substr(0, cut));
  fuzz_file("a.png", cut == size ? "" : bytes.substr(cut + 3));
  return expect_read_or_refused([&] {
    const periscena::inspect::CaptureIndex index = periscena::inspect::read_capture(fuzz_folder());
    constexpr std::size_t most = 4;
    for (std::size_t i = 0; i < std::min(most, index.entries.size()); ++i)
      periscena::inspect::read_captured(index, index.entries[i]);
  });
}
