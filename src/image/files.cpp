#include "image/decoders.h"

#include <periscena/base/error.h>
#include <periscena/base/file.h>

#include <fmt/format.h>

namespace periscena {
namespace {

struct FileKind {
  std::string_view first_bytes;
  Image (*decode)(std::string_view bytes, const std::string& name, Pixels pixels);
};

constexpr FileKind kinds[] = {
    {"\x89PNG\r\n\x1a\n", decode_png}, {"\xff\xd8\xff", decode_jpeg},
    {"#?RADIANCE", decode_hdr},        {"#?RGBE", decode_hdr},
    {"\x76\x2f\x31\x01", decode_exr},
};

const FileKind* kind_of(std::string_view bytes) {
  for (const FileKind& kind : kinds) {
    if (bytes.starts_with(kind.first_bytes)) return &kind;
  }
  return nullptr;
}

std::string name_of(const std::filesystem::path& path) {
  return path.lexically_normal().string();
}

}  // namespace

void broken_image(const std::string& name, std::string_view kind, const std::string& cause) {
  fail("broken-image", {}, fmt::format("\"{}\" is not a good {}: {}", name, kind, cause), "write the file again");
}

void expect_image_size(std::uint64_t width, std::uint64_t height, bool floats, const std::string& name,
                       std::string_view kind) {
  constexpr std::uint64_t largest_side = 65536;
  const std::uint64_t most = floats ? most_float_pixels : most_byte_pixels;
  if (width < 1 || height < 1) broken_image(name, kind, fmt::format("it is {} x {} pixels", width, height));
  if (width <= largest_side && height <= largest_side && width * height <= most) return;
  fail("broken-image", {},
       fmt::format("\"{}\" claims {} x {} pixels, more than the {} that are read", name, width, height, most),
       "make it smaller");
}

bool is_image(std::string_view bytes) {
  return kind_of(bytes) != nullptr;
}

Image decode_image(std::string_view bytes, const std::string& name, Pixels pixels) {
  if (const FileKind* kind = kind_of(bytes)) return kind->decode(bytes, name, pixels);
  fail("broken-image", {}, fmt::format("\"{}\" is no picture: it starts like none of those that are read", name),
       "give a PNG, JPEG, Radiance HDR or OpenEXR file");
}

Image read_image(const std::filesystem::path& path) {
  return decode_image(read_bytes(path), name_of(path));
}

Image read_png(const std::filesystem::path& path) {
  return decode_png(read_bytes(path), name_of(path));
}

Image read_exr(const std::filesystem::path& path) {
  return decode_exr(read_bytes(path), name_of(path));
}

}  // namespace periscena
