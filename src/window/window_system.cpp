#include "window/window_system.h"

#include "window/keys.h"

#include <periscena/base/error.h>
#include <periscena/base/utf8.h>

#include <fmt/format.h>

#include <chrono>
#include <cmath>
#include <cstdlib>
#include <thread>
#include <utility>

#include <dlfcn.h>
#include <link.h>

namespace periscena::window {
namespace {

// The library has one state for the whole process.
int users = 0;
std::string complaint;

void complain(int, const char* words) {
  complaint = words;
}

std::string variable(const char* name) {
  const char* value = std::getenv(name);
  return value ? fmt::format("{}={}", name, value) : fmt::format("{} not set", name);
}

[[noreturn]] void no_window(const std::string& cause, const std::string& help) {
  fail("no-window", {}, "no window could be opened: " + cause, help);
}

Modifiers modifiers_of(int bits) {
  return {(bits & GLFW_MOD_SHIFT) != 0, (bits & GLFW_MOD_CONTROL) != 0, (bits & GLFW_MOD_ALT) != 0};
}

Button button_of(int number) {
  switch (number) {
    case GLFW_MOUSE_BUTTON_LEFT: return Button::left;
    case GLFW_MOUSE_BUTTON_RIGHT: return Button::right;
    case GLFW_MOUSE_BUTTON_MIDDLE: return Button::middle;
    default: return Button::other;
  }
}

}  // namespace

Library::Library() {
  glfwSetErrorCallback(complain);
  if (users == 0 && !glfwInit()) {
    no_window(fmt::format("{} ({}, {})", take_complaint(), variable("DISPLAY"), variable("WAYLAND_DISPLAY")),
              "start the program on a desktop, or under a virtual display: xvfb-run PROGRAM; gl::Device::headless() "
              "needs none");
  }
  ++users;
}

Library::~Library() {
  if (--users == 0) glfwTerminate();
}

std::string Library::take_complaint() {
  return std::exchange(complaint, {});
}

namespace {

/// Keeps the libraries of drivers for the life of the process. Closing the display would unload them, and with them
/// what they keep for later; their threads may still run.
void keep_drivers_loaded() {
  std::vector<std::string> loaded;
  dl_iterate_phdr(
      [](dl_phdr_info* info, std::size_t, void* into) {
        static_cast<std::vector<std::string>*>(into)->emplace_back(info->dlpi_name ? info->dlpi_name : "");
        return 0;
      },
      &loaded);
  for (const std::string& library : loaded) {
    const std::string name = library.substr(library.find_last_of('/') + 1);
    for (const char* part : {"_dri.so", "libGLX_", "libEGL_", "libgallium"}) {
      if (name.find(part) != name.npos) dlopen(library.c_str(), RTLD_LAZY | RTLD_NOLOAD | RTLD_NODELETE);
    }
  }
}

WindowOptions sound(WindowOptions options) {
  if (options.width < 1 || options.height < 1 || options.width > 16384 || options.height > 16384) {
    throw Mistake("bad-size", {}, fmt::format("a window of {} x {}", options.width, options.height),
                  "choose 1 to 16384 along each side");
  }
  if (!(options.max_frame_rate >= 0) || !std::isfinite(options.max_frame_rate)) {
    throw Mistake("bad-option", {}, fmt::format("max_frame_rate is {}", options.max_frame_rate),
                  "choose a number of frames a second, or 0 for as many as there can be");
  }
  return options;
}

}  // namespace

Window::System::System(WindowOptions given) : options(sound(std::move(given))) {
  open();
  keep_drivers_loaded();
  gl::DeviceOptions device_options = options.device;
  device_options.sole_user = true;
  try {
    if (options.full_screen) set_full_screen(true);
    device.reset(new gl::Device(gl::Device::adopt(std::move(device_options))));
    presenter.emplace(*device);
  } catch (...) {
    device.reset();
    glfwDestroyWindow(handle);
    throw;
  }
  listen();
  measure();
  set_vertical_sync(options.vertical_sync);
  started_ = glfwGetTime();
}

Window::System::~System() {
  glfwMakeContextCurrent(handle);
  presenter.reset();
  device.reset();
  glfwDestroyWindow(handle);
}

void Window::System::open() {
  glfwDefaultWindowHints();
  glfwWindowHint(GLFW_CLIENT_API, GLFW_OPENGL_API);
  glfwWindowHint(GLFW_CONTEXT_VERSION_MAJOR, 4);
  glfwWindowHint(GLFW_CONTEXT_VERSION_MINOR, 5);
  glfwWindowHint(GLFW_OPENGL_PROFILE, GLFW_OPENGL_CORE_PROFILE);
  glfwWindowHint(GLFW_OPENGL_DEBUG_CONTEXT, options.device.on_message ? GLFW_TRUE : GLFW_FALSE);
  // Passes have targets of their own: the window holds a finished picture.
  glfwWindowHint(GLFW_DEPTH_BITS, options.depth ? 24 : 0);
  glfwWindowHint(GLFW_STENCIL_BITS, 0);
  glfwWindowHint(GLFW_SAMPLES, 0);
  glfwWindowHint(GLFW_RESIZABLE, options.resizable ? GLFW_TRUE : GLFW_FALSE);
  glfwWindowHint(GLFW_VISIBLE, options.visible ? GLFW_TRUE : GLFW_FALSE);
  glfwWindowHint(GLFW_SCALE_TO_MONITOR, GLFW_TRUE);
  std::string tried;
  for (const int api : {GLFW_NATIVE_CONTEXT_API, GLFW_EGL_CONTEXT_API}) {
    glfwWindowHint(GLFW_CONTEXT_CREATION_API, api);
    handle = glfwCreateWindow(options.width, options.height, options.title.c_str(), nullptr, nullptr);
    if (handle) break;
    tried += fmt::format("{}{}: {}", tried.empty() ? "" : "; ", api == GLFW_EGL_CONTEXT_API ? "EGL" : "GLX",
                         Library::take_complaint());
  }
  if (!handle)
    no_window(tried,
              "OpenGL 4.5 core is needed: update the driver, or use Mesa's software driver: LIBGL_ALWAYS_SOFTWARE=1");
  Library::take_complaint();
  glfwMakeContextCurrent(handle);
}

Vec2 Window::System::pointer_now() const {
  double x = 0, y = 0;
  glfwGetCursorPos(handle, &x, &y);
  return to_pixels(x, y);
}

void Window::System::listen() {
  glfwSetWindowUserPointer(handle, this);
  static const auto of = [](GLFWwindow* window) -> System& {
    return *static_cast<System*>(glfwGetWindowUserPointer(window));
  };
  glfwSetKeyCallback(handle, [](GLFWwindow* window, int code, int, int action, int bits) {
    if (action == GLFW_RELEASE)
      of(window).arrived.push_back(KeyReleased{key_of(code), modifiers_of(bits)});
    else
      of(window).arrived.push_back(KeyPressed{key_of(code), modifiers_of(bits), action == GLFW_REPEAT});
  });
  glfwSetCharCallback(handle, [](GLFWwindow* window, unsigned code) {
    Typed typed;
    append_character(code, typed.text);
    of(window).arrived.push_back(std::move(typed));
  });
  glfwSetCursorPosCallback(handle, [](GLFWwindow* window, double x, double y) {
    System& system = of(window);
    const Vec2 to = system.to_pixels(x, y);
    const Vec2 by = system.has_pointer ? Vec2(to - system.pointer) : Vec2::zero();
    system.pointer = to;
    system.has_pointer = true;
    system.arrived.push_back(PointerMoved{to, by});
  });
  glfwSetCursorEnterCallback(handle, [](GLFWwindow* window, int entered) {
    if (entered) return;
    of(window).has_pointer = false;
    of(window).arrived.push_back(PointerLeft{});
  });
  glfwSetMouseButtonCallback(handle, [](GLFWwindow* window, int number, int action, int bits) {
    System& system = of(window);
    const Vec2 at = system.pointer_now();
    if (action == GLFW_PRESS)
      system.arrived.push_back(ButtonPressed{button_of(number), at, modifiers_of(bits)});
    else
      system.arrived.push_back(ButtonReleased{button_of(number), at, modifiers_of(bits)});
  });
  glfwSetScrollCallback(handle, [](GLFWwindow* window, double x, double y) {
    System& system = of(window);
    system.arrived.push_back(Scrolled{Vec2(static_cast<float>(x), static_cast<float>(y)), system.pointer_now()});
  });
  glfwSetWindowFocusCallback(
      handle, [](GLFWwindow* window, int focused) { of(window).arrived.push_back(FocusChanged{focused != 0}); });
  glfwSetWindowRefreshCallback(handle, [](GLFWwindow* window) { of(window).wants_redraw = true; });
  glfwSetWindowCloseCallback(handle, [](GLFWwindow* window) { of(window).arrived.push_back(CloseRequested{}); });
  glfwSetDropCallback(handle, [](GLFWwindow* window, int count, const char** paths) {
    of(window).arrived.push_back(FilesDropped{{paths, paths + count}});
  });
}

/// How many pixels the window has now.
void Window::System::measure() {
  int units_wide = 0, units_high = 0;
  glfwGetFramebufferSize(handle, &width, &height);
  glfwGetWindowSize(handle, &units_wide, &units_high);
  if (glfwGetWindowAttrib(handle, GLFW_ICONIFIED)) width = height = 0;
  if (units_wide > 0 && units_high > 0 && width > 0 && height > 0)
    density = Vec2(static_cast<float>(width) / static_cast<float>(units_wide),
                   static_cast<float>(height) / static_cast<float>(units_high));
}

/// Until there is a reason for a frame. A minimised window has none.
void Window::System::wait_for_frame() {
  glfwPollEvents();
  const auto is_minimised = [&] { return glfwGetWindowAttrib(handle, GLFW_ICONIFIED) != 0; };
  const auto is_resized = [&] {
    int wide = 0, high = 0;
    glfwGetFramebufferSize(handle, &wide, &high);
    return wide != width || high != height;
  };
  const auto waits = [&] {
    if (!arrived.empty() || glfwWindowShouldClose(handle)) return false;
    if (is_minimised()) return width == 0;
    return options.redraw == Redraw::on_change && !wants_redraw && !is_resized();
  };
  while (waits()) glfwWaitEventsTimeout(0.1);
  if (options.max_frame_rate > 0) {
    const double due = started_ + seconds + 1 / options.max_frame_rate, now = glfwGetTime();
    if (due > now) std::this_thread::sleep_for(std::chrono::duration<double>(due - now));
    glfwPollEvents();
  }
}

bool Window::System::begin_frame() {
  glfwMakeContextCurrent(handle);
  wait_for_frame();
  const int old_width = width, old_height = height;
  measure();
  if (width != old_width || height != old_height) {
    arrived.push_back(Resized{width, height});
    // Mesa's software drivers give the back buffer its new size with the next swap: what is drawn before is cut off.
    glfwSwapBuffers(handle);
  }
  events.clear();
  std::swap(events, arrived);
  wants_redraw = drawn = false;
  const double now = glfwGetTime() - started_;
  frame_seconds = now - seconds;
  seconds = now;
  return !glfwWindowShouldClose(handle);
}

void Window::System::end_frame() {
  if (std::exchange(drawn, false)) glfwSwapBuffers(handle);
}

void Window::System::set_vertical_sync(bool waits) {
  options.vertical_sync = waits;
  glfwSwapInterval(waits ? 1 : 0);
}

void Window::System::set_full_screen(bool full) {
  if (full == (glfwGetWindowMonitor(handle) != nullptr)) return;
  if (!full) {
    glfwSetWindowMonitor(handle, nullptr, left_, top_, own_width_, own_height_, GLFW_DONT_CARE);
    return;
  }
  GLFWmonitor* const screen = glfwGetPrimaryMonitor();
  const GLFWvidmode* const mode = screen ? glfwGetVideoMode(screen) : nullptr;
  if (!mode) no_window("there is no screen to fill", "leave full_screen off");
  glfwGetWindowPos(handle, &left_, &top_);
  glfwGetWindowSize(handle, &own_width_, &own_height_);
  glfwSetWindowMonitor(handle, screen, 0, 0, mode->width, mode->height, mode->refreshRate);
}

}  // namespace periscena::window
