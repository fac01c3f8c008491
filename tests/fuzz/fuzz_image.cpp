// One reader of images: FUZZED_KIND tells by its first bytes what goes in, so that each kind has a run of its own.
#include "reader.h"

#include <periscena/image/files.h>

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  std::string bytes(FUZZED_KIND);
  bytes.append(reinterpret_cast<const char*>(data), size);
  return expect_read_or_refused([&] {
    const periscena::Image outline = periscena::decode_image(bytes, "fuzz", periscena::Pixels::left_out);
    const periscena::Image image = periscena::decode_image(bytes, "fuzz");
    if (image.width() < 1 || image.height() < 1 || image.bytes().empty()) std::abort();
    if (outline.width() != image.width() || outline.height() != image.height() || outline.format() != image.format())
      std::abort();
  });
}
