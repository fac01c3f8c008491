#include <periscena/window/window_frame.h>

#include <cstdio>
#include <cstdlib>

// Where there is no display, there is no window, and that is said.
int main() {
  ::unsetenv("DISPLAY");
  ::unsetenv("WAYLAND_DISPLAY");
  try {
    periscena::window::Window window({.width = 64, .height = 48});
  } catch (const periscena::Error& error) {
    return error.diagnostics()[0].slug == "no-window" ? 0 : 1;
  }
  std::puts("a window without a display");
  return 1;
}
