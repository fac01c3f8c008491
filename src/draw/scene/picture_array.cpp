#include "draw/scene/picture_array.h"

#include <periscena/image/color.h>
#include <periscena/image/mip_levels.h>

#include <algorithm>
#include <array>

namespace periscena::draw {

gl::Texture upload_pictures(std::span<const Image* const> pictures, const std::string& label, bool levels) {
  int width = 1, height = 1;
  for (const Image* picture : pictures) {
    width = std::max(width, picture->width());
    height = std::max(height, picture->height());
  }
  gl::Texture texture({.width = width,
                       .height = height,
                       .format = Format::rgba16f,
                       .shape = TargetShape::array,
                       .layers = static_cast<int>(pictures.size()),
                       .levels = levels ? mip_level_count(width, height) : 1},
                      label);
  std::array<float, 256> linear{};
  for (std::size_t i = 0; i < linear.size(); ++i)
    linear[i] = static_cast<float>(srgb_to_linear(static_cast<double>(i) / 255));
  for (std::size_t i = 0; i < pictures.size(); ++i) {
    const Image& from = *pictures[i];
    Image image(width, height, Format::rgba32f);
    auto* into = reinterpret_cast<float*>(image.bytes().data());
    const auto* pixel = reinterpret_cast<const std::uint8_t*>(from.bytes().data());
    for (int y = 0; y < from.height(); ++y) {
      float* row = into + static_cast<std::size_t>(y) * static_cast<std::size_t>(width) * 4;
      for (int x = 0; x < from.width(); ++x, pixel += 4, row += 4) {
        const float alpha = static_cast<float>(pixel[3]) / 255;
        for (int k = 0; k < 3; ++k) row[k] = linear[pixel[k]] * alpha;
        row[3] = alpha;
      }
    }
    const gl::UploadPart whole{.layer = static_cast<int>(i), .top_first = true};
    texture.upload(image, whole);
    if (levels) texture.upload_levels(mip_levels(image, texture.format()), whole);
  }
  return texture;
}

}  // namespace periscena::draw
