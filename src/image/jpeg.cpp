#include "image/decoders.h"

#include <memory>

#define STB_IMAGE_IMPLEMENTATION
#define STB_IMAGE_STATIC
#define STBI_ONLY_JPEG
#define STBI_NO_STDIO
#define STBI_NO_LINEAR
#define STBI_NO_HDR
#define STBI_MAX_DIMENSIONS 65536
#pragma GCC diagnostic push
#pragma GCC diagnostic ignored "-Wunused-function"
#include <stb/stb_image.h>
#pragma GCC diagnostic pop

#include <cstring>

namespace periscena {

std::optional<ImageSize> jpeg_size(std::string_view bytes) {
  int width = 0, height = 0, channels = 0;
  const int size = static_cast<int>(std::min<std::size_t>(bytes.size(), 1u << 30));
  if (!stbi_info_from_memory(reinterpret_cast<const stbi_uc*>(bytes.data()), size, &width, &height, &channels))
    return std::nullopt;
  return ImageSize{static_cast<std::uint64_t>(width), static_cast<std::uint64_t>(height)};
}

Image decode_jpeg(std::string_view bytes, const std::string& name) {
  const auto* data = reinterpret_cast<const stbi_uc*>(bytes.data());
  const int size = static_cast<int>(std::min<std::size_t>(bytes.size(), 1u << 30));
  int width = 0, height = 0, channels = 0;
  const auto cause = [] {
    const char* reason = stbi_failure_reason();
    return std::string(reason ? reason : "unknown reason");
  };
  if (!stbi_info_from_memory(data, size, &width, &height, &channels)) broken_image(name, "JPEG", cause());
  expect_image_size(static_cast<std::uint64_t>(width), static_cast<std::uint64_t>(height), false, name, "JPEG");
  const std::unique_ptr<stbi_uc, void (*)(void*)> pixels(
      stbi_load_from_memory(data, size, &width, &height, &channels, 4), stbi_image_free);
  if (!pixels) broken_image(name, "JPEG", cause());
  Image image(width, height, Format::rgba8_srgb);
  std::memcpy(image.bytes().data(), pixels.get(), image.bytes().size());
  return image;
}

}  // namespace periscena
