#include <periscena/math/light_fit.h>

#include <periscena/base/error.h>

#include <fmt/format.h>

#include <cmath>

namespace periscena {

namespace {

/// The directions of a light's view; the same for the same direction.
struct LightAxes {
  Vec3 right, up, ahead;

  LightAxes(const Vec3& direction, Place place) {
    const float length = direction.norm();
    if (!(length > 0) || !std::isfinite(length)) {
      throw Mistake("bad-direction", std::move(place),
                    fmt::format("the light shines along [{}, {}, {}]", direction.x(), direction.y(), direction.z()),
                    "give a direction of any finite length but 0");
    }
    ahead = direction / length;
    const Vec3 near_up = std::abs(ahead.y()) > 0.99f ? Vec3::unit_z() : Vec3::unit_y();
    right = ahead.cross(near_up).normalized();
    up = right.cross(ahead);
  }

  Vec3 seen(const Vec3& point) const { return {right.dot(point), up.dot(point), ahead.dot(point)}; }

  /// Around balls, along the axes.
  Box around(std::span<const Sphere> spheres) const {
    Box box;
    for (const Sphere& sphere : spheres) {
      if (sphere.empty()) continue;
      const Vec3 center = seen(sphere.center), radius = Vec3::constant(sphere.radius);
      box.include(Box{center - radius, center + radius});
    }
    return box;
  }

  /// @param middle  across, along the axes; @param from, to  ahead; @param width  of the square
  Camera camera(const Vec2& middle, float from, float to, float width) const {
    Camera camera;
    camera.eye = right * middle.x() + up * middle.y() + ahead * from;
    camera.target = camera.eye + ahead * std::max(1.0f, to - from);
    camera.up = up;
    camera.near = 0;
    camera.far = to - from;
    camera.parallel_height = width;
    return camera;
  }
};

}  // namespace

std::optional<Camera> fit_parallel(const Vec3& direction, std::span<const Sphere> spheres, float margin, Place place) {
  const LightAxes axes(direction, std::move(place));
  const Box seen = axes.around(spheres);
  if (seen.empty()) return std::nullopt;
  const Vec3 middle = seen.center(), size = seen.size();
  // Balls of no size have a view, too; rounding must not cut off what just fits.
  const float least = 1e-3f + 1e-5f * middle.abs().largest();
  const float width = std::max(size.head<2>().largest() * (1 + 2 * margin), least),
              rim = std::max(size.z() * 1e-3f, least);
  return axes.camera(middle.head<2>(), seen.min.z() - rim, seen.max.z() + rim, width);
}

namespace {

/// How far the farthest corner of the picture is from the axis: at a distance of 1, or at any where rays are parallel.
float farthest_corner(const Projection& lens) {
  const Mat4& matrix = lens.matrix();
  const int column = lens.is_perspective() ? 2 : 3;
  return std::hypot((1 + std::abs(matrix(0, column))) / matrix(0, 0), (1 + std::abs(matrix(1, column))) / matrix(1, 1));
}

}  // namespace

std::vector<float> split_view(float near, float far, int parts, float weight, Place place) {
  if (!(near > 0 && far > near && std::isfinite(far)) || parts < 1 || parts > 4 || !(weight >= 0 && weight <= 1)) {
    throw Mistake(
        "bad-split", std::move(place),
        fmt::format("a view from {} to {} m is to be split into {} parts with weight {}", near, far, parts, weight),
        "0 < near < far, 1 to 4 parts, a weight of 0 to 1");
  }
  std::vector<float> distances{near};
  for (int i = 1; i < parts; ++i) {
    const double share = static_cast<double>(i) / parts;
    const double growing = near * std::pow(static_cast<double>(far) / near, share), even = near + (far - near) * share;
    distances.push_back(static_cast<float>(weight * growing + (1 - weight) * even));
  }
  distances.push_back(far);
  return distances;
}

Sphere view_part(const Camera& camera, float aspect, float from, float to) {
  const Vec3 ahead = (camera.target - camera.eye).normalized();
  const bool parallel = camera.lens ? !camera.lens->is_perspective() : camera.parallel_height > 0;
  const float corner =
      camera.lens ? farthest_corner(*camera.lens)
                  : (parallel ? camera.parallel_height / 2 : std::tan(camera.fov_y / 2)) * std::hypot(1.0f, aspect);
  const float slope = parallel ? 0 : corner, half = parallel ? corner : 0;
  // As far from the nearest corners as from the farthest, unless that is behind the farthest.
  const float near_corner = half + slope * from, far_corner = half + slope * to;
  const float equal = (from + to) / 2 + (far_corner * far_corner - near_corner * near_corner) / (2 * (to - from));
  const float middle = std::min(equal, to);
  const float radius = std::max(std::hypot(middle - from, near_corner), std::hypot(to - middle, far_corner));
  return {camera.eye + ahead * middle, radius};
}

Camera fit_steady(const Vec3& direction, const Sphere& part, std::span<const Sphere> casters, int texels, int border,
                  Place place) {
  const LightAxes axes(direction, std::move(place));
  const Box seen = axes.around(casters);
  // In double: a texel is small against where the ball may be.
  const double texel = 2.0 * part.radius / (texels - 2 * (border + 1));
  const DoubleVec3 middle = part.center.cast<double>();
  const auto snapped = [&](const Vec3& axis) {
    return static_cast<float>(std::round(axis.cast<double>().dot(middle) / texel) * texel);
  };
  const float ahead = axes.ahead.dot(part.center), rim = 1e-3f * part.radius + 1e-5f * std::abs(ahead);
  const float from = seen.empty() ? ahead - part.radius : std::min(seen.min.z(), ahead + part.radius);
  // What lies behind the ball casts nothing into it.
  return axes.camera({snapped(axes.right), snapped(axes.up)}, from - rim, ahead + part.radius + rim,
                     static_cast<float>(texel * texels));
}

}  // namespace periscena
