#include "image/decoders.h"

#include <periscena/base/error.h>
#include <periscena/base/file.h>

#include <fmt/format.h>
#include <png.h>

namespace periscena {

std::string encode_png(const Image& image) {
  if (!image.is_eight_bit()) {
    throw Mistake("image-format", {}, fmt::format("a PNG can't hold {}", to_string(image.format())),
                  "write it as OpenEXR, or tone map into an rgba8_srgb target first");
  }
  png_image png{};
  png.version = PNG_IMAGE_VERSION;
  png.width = static_cast<png_uint_32>(image.width());
  png.height = static_cast<png_uint_32>(image.height());
  png.format = image.format() == Format::r8ui ? PNG_FORMAT_GRAY : PNG_FORMAT_RGBA;
  png.flags = PNG_IMAGE_FLAG_FAST;
  png_alloc_size_t size = PNG_IMAGE_PNG_SIZE_MAX(png);
  std::string file(size, '\0');
  if (!png_image_write_to_memory(&png, file.data(), &size, 0, image.bytes().data(), 0, nullptr))
    fail("out-of-memory", {}, fmt::format("cannot make a PNG: {}", png.message), "check the free memory");
  file.resize(size);
  return file;
}

void write_png(const Image& image, const std::filesystem::path& path) {
  const std::string file = encode_png(image);
  write_file(path, file);
}

Image decode_png(std::string_view bytes, const std::string& name) {
  png_image png{};
  png.version = PNG_IMAGE_VERSION;
  if (!png_image_begin_read_from_memory(&png, bytes.data(), bytes.size())) broken_image(name, "PNG", png.message);
  // From here on the library frees what it holds when it fails or ends.
  try {
    expect_image_size(png.width, png.height, false, name, "PNG");
    png.format = PNG_FORMAT_RGBA;
    Image image(static_cast<int>(png.width), static_cast<int>(png.height), Format::rgba8_srgb);
    if (!png_image_finish_read(&png, nullptr, image.bytes().data(), 0, nullptr)) broken_image(name, "PNG", png.message);
    return image;
  } catch (...) {
    png_image_free(&png);
    throw;
  }
}

}  // namespace periscena
