#pragma once

#include <periscena/gl/frame_runner.h>
#include <periscena/graph/frame_graph.h>
#include <periscena/window/window.h>

#include <optional>

namespace periscena::window {

struct WindowFrameOptions {
  std::string target = "output";  ///< what is shown of the frame
  std::string depth = "";         ///< target whose depth the window gets, too, for drawing of your own; "": none
  double aspect = 0;              ///< width by height that the picture keeps, between bars; 0: the window's
  double scale = 1;               ///< pixels of the frame for each of the window's, along each side: 0.5 is a quarter
  std::array<float, 4> bars = {0, 0, 0, 1};  ///< their colour, as stored
};

/// A frame in a window. It is planned for the window's size, and planned again when that changes: programs and what
/// does not depend on the size stay.
class WindowFrame {
 public:
  /// @throws Mistake with everything that plan() finds wrong; "bad-option"; as gl::FrameRunner
  WindowFrame(Window& window, FrameGraph frame, WindowFrameOptions options = {});

  WindowFrame(const WindowFrame&) = delete;
  WindowFrame& operator=(const WindowFrame&) = delete;
  ~WindowFrame();

  /// Follows the window's size, runs the frame and draws it into the window. Does nothing while the window has no
  /// pixels. A size that the frame can't be planned for is reported by diagnostics(), and the picture is scaled.
  /// @throws as gl::FrameRunner::run
  void draw(double seconds);

  /// Switches to another frame. One that can't be planned or run leaves the one before running.
  /// @return what is wrong; warnings alone where it could be used
  Diagnostics use(FrameGraph frame);

  /// Of the last plan, and of the runner.
  Diagnostics diagnostics() const;

  gl::FrameRunner& runner() { return *runner_; }

  /// Which part of the window the picture takes, pixels from the upper left.
  PixelRect area() const { return area_; }

  /// The frame's pixel under a position in the window; nothing outside of the picture.
  std::optional<Vec2> pixel_at(const Vec2& position) const;

  /// How often the frame was planned.
  int plan_count() const { return plan_count_; }

 private:
  PixelRect fitting_area() const;
  PlanResult plan() const;
  void follow_size();

  Window& window_;
  FrameGraph frame_;
  WindowFrameOptions options_;
  PixelRect area_;
  Diagnostics diagnostics_;
  std::optional<gl::FrameRunner> runner_;
  int plan_count_ = 0;
};

}  // namespace periscena::window
