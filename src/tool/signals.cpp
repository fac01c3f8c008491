#include "tool/signals.h"

#include <periscena/base/temporary.h>

#include <csignal>
#include <thread>

#include <fcntl.h>
#include <unistd.h>

namespace periscena::tool {
namespace {

bool is_ignored(int signal) {
  struct sigaction action {};
  return ::sigaction(signal, nullptr, &action) == 0 && action.sa_handler == SIG_IGN;
}

/// Waits for the first of them, cleans up, and ends the process by it.
void end_by(sigset_t signals) {
  int signal = 0;
  while (::sigwait(&signals, &signal) != 0) {
  }
  remove_own_temporaries();
  std::signal(signal, SIG_DFL);
  sigset_t one;
  sigemptyset(&one);
  sigaddset(&one, signal);
  ::pthread_sigmask(SIG_UNBLOCK, &one, nullptr);
  ::raise(signal);
}

void watch_signals() {
  sigset_t signals;
  sigemptyset(&signals);
  for (const int signal : {SIGINT, SIGTERM, SIGHUP}) {
    if (!is_ignored(signal)) sigaddset(&signals, signal);
  }
  // Threads that are made later, those of drivers too, do not take them either.
  ::pthread_sigmask(SIG_BLOCK, &signals, nullptr);
  std::thread(end_by, signals).detach();
}

/// What is closed becomes something that refuses to be read or written.
void open_standard_streams() {
  for (const int stream : {STDIN_FILENO, STDOUT_FILENO, STDERR_FILENO}) {
    if (::fcntl(stream, F_GETFD) >= 0) continue;
    // The lowest free number is taken, which is this one.
    [[maybe_unused]] const int opened = ::open("/dev/null", stream == STDIN_FILENO ? O_WRONLY : O_RDONLY);
  }
}

}  // namespace

void prepare_process() {
  open_standard_streams();
  std::signal(SIGPIPE, SIG_IGN);
  std::signal(SIGXFSZ, SIG_IGN);
  watch_signals();
}

}  // namespace periscena::tool
