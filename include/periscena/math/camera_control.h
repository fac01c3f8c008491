#pragma once

#include <periscena/math/bounds.h>

#include <optional>

namespace periscena {

// Cameras under a program's hand, for any source of input. Places in the picture are shares of its size, from the upper
// left corner: (0, 0) to (1, 1).

/// Where the line of sight through a place of the picture leads: world space, of length 1.
/// @param aspect  width by height of the picture
Vec3 sight_through(const Camera& camera, float aspect, const Vec2& place);

/// The point of the world that is seen at a place of the picture.
/// @param depth  as the depth buffer has it, in the camera's order; what is infinitely far gives a point that is not
/// finite
Vec3 point_seen(const Camera& camera, float aspect, const Vec2& place, float depth);

/// The camera moved, neither turned nor zoomed, so that it sees all of a box as large as can be, in the middle of the
/// picture; its target is as far away as the box' middle. A parallel lens gets the height that it needs. `near` and
/// `far` are moved where they would cut the box.
/// @param aspect  width by height of the picture
/// @param margin  left free on each side, as a share of the picture's smaller side, 0 to less than 0.5
/// @throws Mistake "empty-box" when it is empty or not finite, "bad-aspect", "bad-margin"
Camera fit_camera(const Camera& camera, const Box& box, float aspect, float margin = 0.05f,
                  Place place = Place::here());

/// The same for any number of points, which fits more closely than their box: include() them, then take camera().
class CameraFit {
 public:
  /// @param camera, aspect, margin  as of fit_camera, and so what it throws
  CameraFit(const Camera& camera, float aspect, float margin = 0.05f, Place place = Place::here());

  void include(const Vec3& point);  ///< one that is not finite is left out
  bool empty() const { return !first_; }

  /// @throws Mistake "empty-box" when there are no points
  Camera camera(Place place = Place::here()) const;

 private:
  Camera camera_;
  float aspect_, margin_;
  Vec3 right_axis_, up_axis_, back_axis_;
  float slope_ = 0, slope_up_ = 0;  ///< of the sides of the view, less the margin
  std::optional<Vec3> first_;       ///< from which the others are measured
  // How far the points reach, in the camera's axes: along the normals of the four sides of its view, and in depth.
  float right_, left_, top_, bottom_, front_, rear_;
};

/// Turns a camera about what it looks at.
class OrbitController {
 public:
  explicit OrbitController(const Camera& camera) : camera_(camera) {}

  const Camera& camera() const { return camera_; }
  void set_camera(const Camera& camera) { camera_ = camera; }

  /// Goes around a point: the world seems to turn after the pointer. The view never passes straight up or down.
  /// @param right, up  radians that the world turns, as a pointer does that drags it
  void turn(float right, float up) { turn(right, up, camera_.target); }
  void turn(float right, float up, const Vec3& about);

  /// Moves along the picture: what is as far away as the target follows the pointer.
  /// @param by  shares of the picture's size, right and down
  void pan(const Vec2& by, float aspect) { pan(by, aspect, camera_.target); }
  void pan(const Vec2& by, float aspect, const Vec3& held);

  /// Comes nearer to a point (factor < 1) or farther from it, which stays where it is in the picture.
  /// @param factor  of all distances to it, > 0; they stay between 1 mm and 1,000 km
  void dolly(float factor) { dolly(factor, camera_.target); }
  void dolly(float factor, const Vec3& towards);

 private:
  Camera camera_;
};

/// Flies a camera: keys move it, the pointer turns it.
class FlyController {
 public:
  /// @param speed  metres a second
  explicit FlyController(const Camera& camera, float speed = 2) : camera_(camera), speed_(speed) {}

  const Camera& camera() const { return camera_; }
  void set_camera(const Camera& camera) { camera_ = camera; }

  /// Turns the view. It never passes straight up or down. @param right, up  radians
  void look(float right, float up);

  /// Moves for a while. @param way  right, up (of the world) and forward, each −1 to 1; a longer one counts as 1
  void move(const Vec3& way, float seconds);

  float speed() const { return speed_; }
  void set_speed(float metres_a_second) { speed_ = metres_a_second; }

  /// As fast as suits what is in view: so far away is reached in two seconds. @param distance  metres, > 0
  void set_speed_by_distance(float distance) { speed_ = distance / 2; }

 private:
  Camera camera_;
  float speed_;
};

}  // namespace periscena
