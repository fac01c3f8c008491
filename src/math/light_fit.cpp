#include <periscena/math/light_fit.h>

#include <periscena/base/error.h>

#include <fmt/format.h>

#include <cmath>

namespace periscena {

std::optional<Camera> fit_parallel(const Vec3& direction, std::span<const Sphere> spheres, float margin, Place place) {
  const float length = direction.norm();
  if (!(length > 0) || !std::isfinite(length)) {
    throw Mistake("bad-direction", std::move(place),
                  fmt::format("the light shines along [{}, {}, {}]", direction.x(), direction.y(), direction.z()),
                  "give a direction of any finite length but 0");
  }
  const Vec3 ahead = direction / length;
  const Vec3 near_up = std::abs(ahead.y()) > 0.99f ? Vec3::UnitZ() : Vec3::UnitY();
  const Vec3 right = ahead.cross(near_up).normalized(), up = right.cross(ahead);
  Box seen;  // along right, up, ahead
  for (const Sphere& sphere : spheres) {
    if (sphere.empty()) continue;
    const Vec3 center(right.dot(sphere.center), up.dot(sphere.center), ahead.dot(sphere.center));
    seen.include(Box{center - Vec3::Constant(sphere.radius), center + Vec3::Constant(sphere.radius)});
  }
  if (seen.empty()) return std::nullopt;
  const Vec3 middle = seen.center(), size = seen.size();
  // Balls of no size have a view, too; rounding must not cut off what just fits.
  const float least = 1e-3f + 1e-5f * middle.cwiseAbs().maxCoeff();
  const float width = std::max(size.head<2>().maxCoeff() * (1 + 2 * margin), least),
              rim = std::max(size.z() * 1e-3f, least);
  Camera camera;
  camera.eye = right * middle.x() + up * middle.y() + ahead * (seen.min.z() - rim);
  camera.target = camera.eye + ahead * std::max(1.0f, size.z());
  camera.up = up;
  camera.near = 0;
  camera.far = size.z() + 2 * rim;
  camera.parallel_height = width;
  return camera;
}

}  // namespace periscena
