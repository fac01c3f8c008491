#pragma once

#include <string>
#include <vector>

#include <sys/types.h>

/// An X server without a screen, for one test: DISPLAY is set to it while it is there.
class VirtualDisplay {
 public:
  VirtualDisplay();
  VirtualDisplay(const VirtualDisplay&) = delete;
  VirtualDisplay& operator=(const VirtualDisplay&) = delete;
  ~VirtualDisplay();

 private:
  pid_t server_ = -1;
};

/// Plays a user: runs xdotool with these words. @return what it printed
std::string act(const std::string& words);

/// What a window manager does: minimises a window, or puts it back. @param window  its number, as xdotool prints it
void set_minimised(const std::string& window, bool minimised);

/// A program that runs while the test goes on.
class Running {
 public:
  explicit Running(std::vector<std::string> arguments);
  Running(const Running&) = delete;
  Running& operator=(const Running&) = delete;
  ~Running();  ///< ends it, if it still runs

  /// Waits for its end, for a minute. @return its exit code; minus a signal
  int wait();
  bool has_ended();

 private:
  pid_t child_ = -1;
  int status_ = 0;
  bool ended_ = false;
};
