#include <periscena/base/error.h>
#include <periscena/base/file.h>
#include <periscena/image/image.h>

#include <fmt/format.h>
#include <png.h>

#include <cstring>

namespace periscena {
namespace {

bool is_rgba_bytes(Format format) {
  return format == Format::rgba8 || format == Format::rgba8_srgb;
}

bool is_float_image(Format format) {
  return format == Format::r32f || format == Format::rg32f || format == Format::rgba32f;
}

}  // namespace

Image::Image(int width, int height, Format format) : width_(width), height_(height), format_(format) {
  constexpr int largest = 65536;
  if (width < 1 || height < 1 || width > largest || height > largest) {
    throw Mistake("bad-size", {}, fmt::format("an image of {} x {} pixels", width, height),
                  fmt::format("both must be in 1..{}", largest));
  }
  if (!is_rgba_bytes(format) && !is_float_image(format)) {
    throw Mistake("image-format", {}, fmt::format("an image can't hold {}", to_string(format)),
                  "use rgba8, rgba8_srgb, r32f, rg32f or rgba32f");
  }
  bytes_.resize(row_bytes() * static_cast<std::size_t>(height));
}

std::array<float, 4> Image::at(int x, int y) const {
  if (x < 0 || y < 0 || x >= width_ || y >= height_) {
    throw Mistake("pixel-outside", {}, fmt::format("pixel {},{} is outside of {} x {}", x, y, width_, height_),
                  "pixels count from 0,0 at the upper left");
  }
  const auto pixel_bytes = static_cast<std::size_t>(info(format_).bytes);
  const std::byte* pixel =
      bytes_.data() + static_cast<std::size_t>(y) * row_bytes() + static_cast<std::size_t>(x) * pixel_bytes;
  std::array<float, 4> values{};
  if (is_float()) {
    std::memcpy(values.data(), pixel, pixel_bytes);
  } else {
    for (std::size_t i = 0; i < 4; ++i) values[i] = static_cast<float>(pixel[i]);
  }
  return values;
}

void write_png(const Image& image, const std::filesystem::path& path) {
  if (!is_rgba_bytes(image.format())) {
    throw Mistake("image-format", {}, fmt::format("a PNG can't hold {}", to_string(image.format())),
                  "tone map into an rgba8_srgb target first");
  }
  expect_writable(path);
  png_image png{};
  png.version = PNG_IMAGE_VERSION;
  png.width = static_cast<png_uint_32>(image.width());
  png.height = static_cast<png_uint_32>(image.height());
  png.format = PNG_FORMAT_RGBA;
  png.flags = PNG_IMAGE_FLAG_FAST;
  png_alloc_size_t size = PNG_IMAGE_PNG_SIZE_MAX(png);
  std::vector<std::byte> file(size);
  if (!png_image_write_to_memory(&png, file.data(), &size, 0, image.bytes().data(), 0, nullptr)) {
    fail("unwritable-file", {}, fmt::format("cannot write \"{}\": {}", path.string(), png.message),
         "check the free memory");
  }
  write_file(path, std::span<const std::byte>(file.data(), size));
}

Image read_png(const std::filesystem::path& path) {
  const std::string file = read_bytes(path);
  const auto broken = [&](const char* cause) {
    fail("broken-image", {}, fmt::format("\"{}\" is not a good PNG: {}", path.string(), cause), "write the file again");
  };
  png_image png{};
  png.version = PNG_IMAGE_VERSION;
  if (!png_image_begin_read_from_memory(&png, file.data(), file.size())) broken(png.message);
  constexpr png_uint_32 largest = 32768;
  if (png.width > largest || png.height > largest) {
    png_image_free(&png);
    broken("a side is over 32768 pixels");
  }
  png.format = PNG_FORMAT_RGBA;
  Image image(static_cast<int>(png.width), static_cast<int>(png.height), Format::rgba8_srgb);
  if (!png_image_finish_read(&png, nullptr, image.bytes().data(), 0, nullptr)) broken(png.message);
  return image;
}

}  // namespace periscena
