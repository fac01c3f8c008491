#include <periscena/math/camera_control.h>

#include <periscena/base/error.h>

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <limits>

namespace periscena {
namespace {

/// The camera's own axes in the world.
struct Axes {
  explicit Axes(const Camera& camera)
      : back((camera.eye - camera.target).normalized()),
        right(camera.up.cross(back).normalized()),
        up(back.cross(right)) {}
  Vec3 back, right, up;
};

/// Half of what the picture shows from bottom to top: at a distance of 1, or at any where the lens is parallel.
float half_height(const Camera& shaped) {
  return shaped.parallel_height > 0 ? shaped.parallel_height / 2 : std::tan(shaped.fov_y / 2);
}

/// Where a place of the picture is seen, in the camera's coordinates: at a distance of 1, or at any where the lens is
/// parallel.
Vec2 seen_at(const Projection& lens, const Vec2& place) {
  const Mat4& matrix = lens.matrix();
  const int column = lens.is_perspective() ? 2 : 3;
  const float sign = lens.is_perspective() ? 1.0f : -1.0f;
  return {(2 * place.x() - 1 + sign * matrix(0, column)) / matrix(0, 0),
          (1 - 2 * place.y() + sign * matrix(1, column)) / matrix(1, 1)};
}

/// The direction of view after turning, kept off straight up and down.
/// @param forward  of length 1 @param up  of the world, of length 1
Vec3 turned(const Vec3& forward, const Vec3& up, float right, float upward) {
  constexpr float closest = 0.01f;  // radians from straight up or down
  const float angle = std::acos(std::clamp(forward.dot(up), -1.0f, 1.0f));
  const float wanted = std::clamp(angle - upward, closest, pi - closest);
  const Vec3 axis = forward.cross(up);
  const Transform pitch = Transform::rotate(axis, angle - wanted), yaw = Transform::rotate(up, -right);
  return pitch.then(yaw).apply_to_direction(forward);
}

}  // namespace

Vec3 sight_through(const Camera& camera, float aspect, const Vec2& place) {
  const Axes axes(camera);
  const Projection lens = camera.projection(aspect);
  if (!lens.is_perspective()) return -axes.back;
  const Vec2 at = seen_at(lens, place);
  return (at.x() * axes.right + at.y() * axes.up - axes.back).normalized();
}

Vec3 point_seen(const Camera& camera, float aspect, const Vec2& place, float depth) {
  const Axes axes(camera);
  const Projection lens = camera.projection(aspect);
  const float distance = lens.distance_at(depth);
  const Vec2 at = (lens.is_perspective() ? distance : 1) * seen_at(lens, place);
  return camera.eye + at.x() * axes.right + at.y() * axes.up - distance * axes.back;
}

CameraFit::CameraFit(const Camera& camera, float aspect, float margin, Place place)
    : camera_(camera), aspect_(aspect), margin_(margin) {
  if (camera.lens) {
    throw Mistake("bad-projection", place, "a lens of the program's own can't be fitted to what it is to show",
                  "fit the camera without it, or place it yourself");
  }
  if (!(aspect > 0 && std::isfinite(aspect)))
    throw Mistake("bad-aspect", place, fmt::format("the picture's shape is {}", aspect),
                  "give width divided by height");
  if (!(margin >= 0 && margin < 0.5f))
    throw Mistake("bad-margin", place, fmt::format("the margin is {}", margin), "choose 0 to less than 0.5");
  const Axes axes(camera);
  right_axis_ = axes.right;
  up_axis_ = axes.up;
  back_axis_ = axes.back;
  if (camera.parallel_height <= 0) {
    const float height = half_height(camera.for_shape(aspect));
    slope_up_ = height * (1 - 2 * margin * std::min(1.0f, aspect));
    slope_ = height * aspect * (1 - 2 * margin * std::min(1.0f, aspect) / aspect);
  }
  right_ = left_ = top_ = bottom_ = front_ = rear_ = -std::numeric_limits<float>::infinity();
}

void CameraFit::include(const Vec3& point) {
  if (!is_finite(point)) return;
  if (!first_) first_ = point;
  const Vec3 from = point - *first_;
  const float x = right_axis_.dot(from), y = up_axis_.dot(from), z = back_axis_.dot(from);
  right_ = std::max(right_, x + slope_ * z);
  left_ = std::max(left_, slope_ * z - x);
  top_ = std::max(top_, y + slope_up_ * z);
  bottom_ = std::max(bottom_, slope_up_ * z - y);
  front_ = std::max(front_, z);
  rear_ = std::max(rear_, -z);
}

Camera CameraFit::camera(Place place) const {
  if (!first_)
    throw Mistake("empty-box", place, "there is nothing to fit the camera to",
                  "give it something to see, in places that are finite");
  const float half_width = (right_ + left_) / 2, half_up = (top_ + bottom_) / 2, middle = (front_ - rear_) / 2;
  Camera fitted = camera_;
  float distance = 0;
  if (camera_.parallel_height > 0) {
    const float free = 1 - 2 * margin_ * std::min(1.0f, aspect_) / aspect_,
                free_up = 1 - 2 * margin_ * std::min(1.0f, aspect_);
    const float wanted = 2 * std::max({half_up / free_up, half_width / (aspect_ * free), 1e-6f});
    // for_shape multiplies by what it does to a height of 1.
    Camera one = camera_;
    one.parallel_height = 1;
    fitted.parallel_height = wanted / one.for_shape(aspect_).parallel_height;
    distance = front_ + camera_.near + 1e-3f * (front_ + rear_) + 1e-6f;
  } else {
    const float closest = front_ + 5e-4f * (front_ + rear_) + 1e-6f;
    distance = std::max({half_width / slope_, half_up / slope_up_, closest});
    fitted.near = std::min(camera_.near, std::max((distance - front_) * 0.9f, (distance - middle) * 1e-5f));
  }
  fitted.eye = *first_ + (right_ - left_) / 2 * right_axis_ + (top_ - bottom_) / 2 * up_axis_ + distance * back_axis_;
  fitted.target = fitted.eye - (distance - middle) * back_axis_;
  fitted.far = std::max(camera_.far, (distance + rear_) * 1.01f);
  return fitted;
}

Camera fit_camera(const Camera& camera, const Box& box, float aspect, float margin, Place place) {
  CameraFit fit(camera, aspect, margin, place);
  if (is_finite(box.min) && is_finite(box.max) && !box.empty()) {
    for (int corner = 0; corner < 8; ++corner) {
      fit.include({corner & 1 ? box.max.x() : box.min.x(), corner & 2 ? box.max.y() : box.min.y(),
                   corner & 4 ? box.max.z() : box.min.z()});
    }
  }
  return fit.camera(place);
}

void OrbitController::turn(float right, float up, const Vec3& about) {
  const Vec3 world_up = camera_.up.normalized();
  const Vec3 forward = (camera_.target - camera_.eye).normalized();
  const Vec3 after = turned(forward, world_up, right, up);
  // What turns the view turns the whole camera about the point.
  Camera aimed = camera_;
  aimed.target = camera_.eye + after;
  const Axes from(camera_), to(aimed);
  const auto follow = [&](const Vec3& point) {
    const Vec3 arm = point - about;
    return Vec3(about + from.right.dot(arm) * to.right + from.up.dot(arm) * to.up + from.back.dot(arm) * to.back);
  };
  const Vec3 eye = follow(camera_.eye), target = follow(camera_.target);
  camera_.eye = eye;
  camera_.target = target;
}

void OrbitController::pan(const Vec2& by, float aspect, const Vec3& held) {
  const Axes axes(camera_);
  const Projection lens = camera_.projection(aspect);
  const float distance = lens.is_perspective() ? axes.back.dot(camera_.eye - held) : 1;
  const float width = 2 * distance / lens.matrix()(0, 0), height = 2 * distance / lens.matrix()(1, 1);
  const Vec3 shift = height * by.y() * axes.up - width * by.x() * axes.right;
  camera_.eye += shift;
  camera_.target += shift;
}

void OrbitController::dolly(float factor, const Vec3& towards) {
  const float distance = (camera_.eye - camera_.target).norm();
  const float wanted = std::clamp(distance * factor, 1e-3f, 1e6f), by = wanted / distance;
  if (!std::isfinite(by)) return;
  camera_.eye = towards + by * (camera_.eye - towards);
  camera_.target = towards + by * (camera_.target - towards);
  if (camera_.parallel_height > 0) camera_.parallel_height *= by;
}

void FlyController::look(float right, float up) {
  const Vec3 way = camera_.target - camera_.eye;
  camera_.target = camera_.eye + way.norm() * turned(way.normalized(), camera_.up.normalized(), right, up);
}

void FlyController::move(const Vec3& way, float seconds) {
  const Axes axes(camera_);
  const Vec3 longest = way / std::max(1.0f, way.norm());
  const Vec3 shift =
      speed_ * seconds * (longest.x() * axes.right + longest.y() * camera_.up.normalized() - longest.z() * axes.back);
  camera_.eye += shift;
  camera_.target += shift;
}

}  // namespace periscena
