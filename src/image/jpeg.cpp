#include "image/decoders.h"

#include <periscena/base/error.h>

#include <turbojpeg.h>

#include <fmt/format.h>

#include <memory>

namespace periscena {
namespace {

/// One file that is being read.
class JpegReader {
 public:
  JpegReader(std::string_view bytes, const std::string& name) : bytes_(bytes), name_(name) {
    // It fails only when there is no memory.
    if (!handle_) broken_image(name_, "JPEG", "it can't be read without memory");
  }

  Image decode(Pixels pixels) {
    if (tjDecompressHeader3(handle_.get(), data(), byte_count(), &width_, &height_, &sampling_, &colors_) != 0)
      broken_image(name_, "JPEG", cause());
    expect_image_size(static_cast<std::uint64_t>(width_), static_cast<std::uint64_t>(height_), false, name_, "JPEG");
    if (colors_ == TJCS_CMYK || colors_ == TJCS_YCCK) {
      fail("broken-image", {}, fmt::format("\"{}\" is a JPEG of printing colours (CMYK)", name_), "save it as RGB");
    }
    if (pixels == Pixels::left_out) return Image::outline(width_, height_, Format::rgba8_srgb);
    Image image(width_, height_, Format::rgba8_srgb);
    // More scans than any program writes would keep us busy for minutes.
    const int flags = TJFLAG_LIMITSCANS | TJFLAG_ACCURATEDCT;
    const int result =
        tjDecompress2(handle_.get(), data(), byte_count(), reinterpret_cast<unsigned char*>(image.bytes().data()),
                      width_, 0, height_, TJPF_RGBA, flags);
    // Bytes between its parts that belong to none harm nobody; what else it warns of spoils pixels.
    if (result != 0 && cause().find("extraneous bytes") == std::string::npos) broken_image(name_, "JPEG", cause());
    return image;
  }

 private:
  struct Destroy {
    void operator()(void* handle) const { tjDestroy(handle); }
  };

  const unsigned char* data() const { return reinterpret_cast<const unsigned char*>(bytes_.data()); }
  unsigned long byte_count() const { return bytes_.size(); }
  std::string cause() const { return tjGetErrorStr2(handle_.get()); }

  std::string_view bytes_;
  const std::string& name_;
  std::unique_ptr<void, Destroy> handle_{tjInitDecompress()};
  int width_ = 0, height_ = 0, sampling_ = 0, colors_ = 0;
};

}  // namespace

Image decode_jpeg(std::string_view bytes, const std::string& name, Pixels pixels) {
  return JpegReader(bytes, name).decode(pixels);
}

}  // namespace periscena
