#include "image/decoders.h"

#include <periscena/base/error.h>
#include <periscena/base/file.h>

#include <fmt/format.h>
#include <png.h>

#include <csetjmp>
#include <cstdio>
#include <cstring>
#include <vector>

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

namespace {

/// Reads a PNG's numbers as they stand, as glTF asks (3.8.2): what it says of gamma or profiles is passed over.
class PngReader {
 public:
  PngReader(std::string_view bytes, const std::string& name) : bytes_(bytes), name_(name) {
    png_ = png_create_read_struct(PNG_LIBPNG_VER_STRING, this, on_error, [](png_structp, png_const_charp) {});
    if (png_) info_ = png_create_info_struct(png_);
    if (!info_) broken_image(name_, "PNG", "it can't be read without memory");
  }
  PngReader(const PngReader&) = delete;
  PngReader& operator=(const PngReader&) = delete;
  ~PngReader() { png_destroy_read_struct(&png_, &info_, nullptr); }

  Image decode(Pixels pixels) {
    if (!read_head()) broken_image(name_, "PNG", cause_);
    expect_image_size(png_get_image_width(png_, info_), png_get_image_height(png_, info_), false, name_, "PNG");
    const int width = static_cast<int>(png_get_image_width(png_, info_)),
              height = static_cast<int>(png_get_image_height(png_, info_));
    if (pixels == Pixels::left_out) return Image::outline(width, height, Format::rgba8_srgb);
    Image image(width, height, Format::rgba8_srgb);
    std::vector<png_bytep> rows(static_cast<std::size_t>(image.height()));
    for (std::size_t y = 0; y < rows.size(); ++y)
      rows[y] = reinterpret_cast<png_bytep>(image.bytes().data() + y * image.row_bytes());
    if (!read_rows(rows.data())) broken_image(name_, "PNG", cause_);
    return image;
  }

 private:
  // libpng leaves these two by longjmp: nothing in them may want to be destroyed.

  bool read_head() {
    if (setjmp(png_jmpbuf(png_))) return false;
    png_set_read_fn(png_, this, on_read);
    png_set_user_limits(png_, 1u << 17, 1u << 17);
    png_set_chunk_malloc_max(png_, 64u << 20);
    png_read_info(png_, info_);
    png_set_expand(png_);  // palettes, fewer than 8 bits, transparent colours
    png_set_scale_16(png_);
    png_set_gray_to_rgb(png_);
    png_set_add_alpha(png_, 255, PNG_FILLER_AFTER);
    png_set_interlace_handling(png_);
    png_read_update_info(png_, info_);
    return png_get_rowbytes(png_, info_) == std::size_t{4} * png_get_image_width(png_, info_);
  }

  bool read_rows(png_bytepp rows) {
    if (setjmp(png_jmpbuf(png_))) return false;
    png_read_image(png_, rows);
    png_read_end(png_, nullptr);
    return true;
  }

  static void on_error(png_structp png, png_const_charp words) {
    auto* self = static_cast<PngReader*>(png_get_error_ptr(png));
    std::snprintf(self->cause_, sizeof self->cause_, "%s", words);
    png_longjmp(png, 1);
  }

  static void on_read(png_structp png, png_bytep into, std::size_t count) {
    auto* self = static_cast<PngReader*>(png_get_io_ptr(png));
    if (count > self->bytes_.size() - self->at_) png_error(png, "it ends too early");
    std::memcpy(into, self->bytes_.data() + self->at_, count);
    self->at_ += count;
  }

  std::string_view bytes_;
  const std::string& name_;
  std::size_t at_ = 0;
  png_structp png_ = nullptr;
  png_infop info_ = nullptr;
  char cause_[160] = "its rows can't be brought to 8 bits";
};

}  // namespace

Image decode_png(std::string_view bytes, const std::string& name, Pixels pixels) {
  return PngReader(bytes, name).decode(pixels);
}

}  // namespace periscena
