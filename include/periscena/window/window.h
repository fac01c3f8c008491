#pragma once

#include <periscena/gl/presenter.h>
#include <periscena/window/input.h>

#include <memory>
#include <span>

namespace periscena::window {

/// When frames are drawn.
enum class Redraw {
  always,
  on_change,  ///< begin_frame() waits for an event or for request_redraw()
};

struct WindowOptions {
  std::string title = "Periscena";
  int width = 1280, height = 720;  ///< of its inside, in the screen's units: pixels times the screen's scale
  bool resizable = true;
  bool visible = true;
  bool full_screen = false;   ///< of the main screen, at its present mode; width and height are for when it ends
  bool vertical_sync = true;  ///< end_frame() waits for the screen
  double max_frame_rate = 0;  ///< frames a second that begin_frame() keeps to; 0: as many as there can be
  Redraw redraw = Redraw::always;
  bool depth = false;             ///< its framebuffer has depth, 24 bits: for present_depth() and drawing of your own
  gl::DeviceOptions device = {};  ///< on_message asks for a debug context
};

/// A window with a device of its own. Windows are made and used in one thread, the main one.
///
///     window::Window window({.title = "Osier Lock"});
///     window::WindowFrame shown(window, frame);
///     while (window.begin_frame()) {
///       for (const window::Event& event : window.events()) …
///       shown.draw(window.seconds());
///       window.end_frame();
///     }
class Window {
 public:
  /// @throws Error "no-window" with what the system says: no display, no OpenGL 4.5; Mistake "bad-size"
  explicit Window(WindowOptions options = {});
  Window(const Window&) = delete;
  Window& operator=(const Window&) = delete;
  ~Window();

  /// Its context is current when the window has been made.
  gl::Device& device();

  /// For calls of your own where there are several windows; begin_frame() and WindowFrame do it themselves.
  void make_current();

  /// Takes in what has happened since the last call. @return is the window still wanted?
  bool begin_frame();

  /// Shows what was drawn into the window's framebuffer since begin_frame(). Does nothing if nothing was.
  void end_frame();

  /// What happened between the last two begin_frame(), in order.
  std::span<const Event> events() const;

  bool is_held(Key key) const;
  bool is_held(Button button) const;
  Vec2 pointer() const;  ///< pixels from the upper left, perhaps outside

  int width() const;  ///< pixels of the framebuffer; 0 while the window is minimised
  int height() const;
  bool has_pixels() const { return width() > 0 && height() > 0; }
  float scale() const;  ///< of the screen: pixels for each of its units, 1 or more

  double seconds() const;        ///< since the window was made, as begin_frame() found it: the same all through a frame
  double frame_seconds() const;  ///< between the last two begin_frame()

  void set_title(const std::string& title);
  void set_size(int width, int height);  ///< in the screen's units; the system decides, and Resized tells
  void set_full_screen(bool full);
  bool is_full_screen() const;
  void set_vertical_sync(bool waits);
  void set_redraw(Redraw redraw);
  void request_redraw();  ///< one more frame, with Redraw::on_change

  void close();      ///< begin_frame() returns false from then on
  void keep_open();  ///< answers CloseRequested: the window stays

  /// Draws a picture into the window, in the given part of it.
  /// @throws as gl::Presenter::present
  void present(const gl::Texture& picture, const PixelRect& part, const std::array<float, 4>& around = {0, 0, 0, 1});

  /// Copies a target's depth into the window's, for drawing of your own over the picture.
  /// @throws as gl::Presenter::present_depth
  void present_depth(const gl::Texture& depth, const PixelRect& part);

  /// What was drawn since begin_frame().
  Image picture() const;

  /// The library's own window (GLFWwindow*), for what is not here.
  void* native_handle() const;

 private:
  class System;
  std::unique_ptr<System> system_;
};

}  // namespace periscena::window
