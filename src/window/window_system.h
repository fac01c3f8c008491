#pragma once

#include <periscena/window/window.h>

#define GLFW_INCLUDE_NONE
#include <GLFW/glfw3.h>

#include <optional>

namespace periscena::window {

/// The library that opens windows, while there is one.
class Library {
 public:
  /// @throws Error "no-window"
  Library();
  Library(const Library&) = delete;
  Library& operator=(const Library&) = delete;
  ~Library();

  /// What the library complained of since it was asked last; empty when of nothing.
  static std::string take_complaint();
};

/// The window as the system has it, and what it has said since the last frame.
class Window::System {
 public:
  explicit System(WindowOptions given);
  System(const System&) = delete;
  System& operator=(const System&) = delete;
  ~System();

  bool begin_frame();
  void end_frame();
  void set_full_screen(bool full);
  void set_vertical_sync(bool waits);

  Vec2 pointer_now() const;
  gl::OutsideFramebuffer framebuffer() const { return {0, width, height}; }
  Vec2 to_pixels(double x, double y) const { return Vec2(static_cast<float>(x), static_cast<float>(y)).times(density); }

  WindowOptions options;
  std::vector<Event> events, arrived;  ///< for this frame; since it began
  int width = 0, height = 0;           ///< pixels
  Vec2 density = Vec2::ones();         ///< pixels by screen unit
  Vec2 pointer = Vec2::zero();
  bool has_pointer = false, wants_redraw = true, drawn = false;
  double seconds = 0, frame_seconds = 0;
  Library library;
  GLFWwindow* handle = nullptr;
  std::unique_ptr<gl::Device> device;
  std::optional<gl::Presenter> presenter;

 private:
  void open();
  void listen();
  void measure();
  void wait_for_frame();

  int left_ = 0, top_ = 0, own_width_ = 0, own_height_ = 0;  ///< before full screen
  double started_ = 0;
};

}  // namespace periscena::window
