#include <periscena/scene/environment.h>

#include <periscena/base/error.h>

#include <algorithm>
#include <cmath>

namespace periscena {

std::shared_ptr<const Image> gradient_sky(const Vec3& zenith, const Vec3& horizon, const Vec3& ground, Place place) {
  for (const Vec3& color : {zenith, horizon, ground}) {
    if (!is_finite(color) || color.x() < 0 || color.y() < 0 || color.z() < 0)
      throw Mistake("bad-environment", place, "a colour of the sky is negative or not finite", "give 0 or more");
  }
  constexpr int height = 128, width = 2 * height;
  Image image(width, height, Format::rgba32f);
  for (int y = 0; y < height; ++y) {
    const float up = std::cos(pi * (static_cast<float>(y) + 0.5f) / height);
    // Most of the change is near the horizon, where the air that is looked through is longest.
    const Vec3 above = horizon + std::sqrt(std::max(up, 0.0f)) * (zenith - horizon);
    const float below = std::clamp(-up / 0.02f, 0.0f, 1.0f);  // the horizon is about a degree high
    const Vec3 color = above + below * (ground - above);
    for (int x = 0; x < width; ++x) image.set(x, y, {color.x(), color.y(), color.z(), 1});
  }
  return std::make_shared<const Image>(std::move(image));
}

}  // namespace periscena
