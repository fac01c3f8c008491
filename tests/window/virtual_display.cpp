#include "window/virtual_display.h"

#include <array>
#include <chrono>
#include <csignal>
#include <cstdio>
#include <cstdlib>
#include <stdexcept>
#include <thread>

#include <X11/Xlib.h>
#include <X11/Xutil.h>
#include <sys/wait.h>
#include <unistd.h>

VirtualDisplay::VirtualDisplay() {
  std::array<int, 2> told{};
  if (::pipe(told.data()) != 0) throw std::runtime_error("no pipe");
  server_ = ::fork();
  if (server_ == 0) {
    ::close(told[0]);
    const std::string number = std::to_string(told[1]);
    std::freopen("/dev/null", "w", stderr);
    // It chooses a display that is free, and says which.
    ::execlp("Xvfb", "Xvfb", "-displayfd", number.c_str(), "-screen", "0", "1600x1200x24", "-nolisten", "tcp",
             "-noreset", static_cast<char*>(nullptr));
    ::_exit(127);
  }
  ::close(told[1]);
  // Its number and the end of the line may come one after the other.
  std::string number;
  for (char next = 0; ::read(told[0], &next, 1) == 1 && next != '\n';) number += next;
  ::close(told[0]);
  if (number.empty()) throw std::runtime_error("Xvfb did not start");
  ::setenv("DISPLAY", (":" + number).c_str(), 1);
  ::unsetenv("WAYLAND_DISPLAY");
}

VirtualDisplay::~VirtualDisplay() {
  ::kill(server_, SIGTERM);
  ::waitpid(server_, nullptr, 0);
  ::unsetenv("DISPLAY");
}

std::string act(const std::string& words) {
  std::FILE* const pipe = ::popen(("timeout 60 xdotool " + words).c_str(), "r");
  std::string printed;
  std::array<char, 256> block{};
  while (std::fgets(block.data(), block.size(), pipe)) printed += block.data();
  if (::pclose(pipe) != 0) throw std::runtime_error("xdotool " + words + ": failed");
  while (!printed.empty() && printed.back() == '\n') printed.pop_back();
  return printed;
}

void set_minimised(const std::string& window, bool minimised) {
  Display* const display = ::XOpenDisplay(nullptr);
  if (!display) throw std::runtime_error("no display");
  const Atom wm_state = ::XInternAtom(display, "WM_STATE", False);
  // ICCCM, 4.1.3.1: the state, and a window for its icon.
  const std::array<long, 2> state{minimised ? IconicState : NormalState, None};
  ::XChangeProperty(display, std::stoul(window), wm_state, wm_state, 32, PropModeReplace,
                    reinterpret_cast<const unsigned char*>(state.data()), 2);
  ::XCloseDisplay(display);
}

Running::Running(std::vector<std::string> arguments) : child_(::fork()) {
  if (child_ != 0) return;
  std::vector<char*> list;
  for (std::string& argument : arguments) list.push_back(argument.data());
  list.push_back(nullptr);
  ::execv(list[0], list.data());
  ::_exit(127);
}

Running::~Running() {
  if (has_ended()) return;
  ::kill(child_, SIGKILL);
  ::waitpid(child_, nullptr, 0);
}

bool Running::has_ended() {
  if (!ended_) ended_ = ::waitpid(child_, &status_, WNOHANG) == child_;
  return ended_;
}

int Running::wait() {
  for (int i = 0; i < 1200 && !has_ended(); ++i) std::this_thread::sleep_for(std::chrono::milliseconds(50));
  if (!ended_) throw std::runtime_error("it does not end");
  return WIFEXITED(status_) ? WEXITSTATUS(status_) : -WTERMSIG(status_);
}
