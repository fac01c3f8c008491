// Sheets of sprites, beside a picture that they may name, "a.png".
#include "reader.h"

#include <periscena/scene/sprite_sheet.h>

using namespace periscena;

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  static const bool written = [] {
    write_png(Image(16, 8, Format::rgba8_srgb), fuzz_folder() / "a.png");
    return true;
  }();
  return expect_read_or_refused([&] {
    const SpriteSheet sheet = read_sheet(fuzz_file("sheet.json", {reinterpret_cast<const char*>(data), size}));
    for (const SpriteCell& cell : sheet.cells) {
      const bool inside =
          written && cell.x >= 0 && cell.y >= 0 && cell.x + cell.width <= 16 && cell.y + cell.height <= 8;
      if (!inside) std::abort();
    }
  });
}
