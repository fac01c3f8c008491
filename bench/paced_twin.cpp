#include "paced_twin.h"

#include <array>
#include <stdexcept>
#include <string>

#include <fcntl.h>
#include <sys/wait.h>
#include <unistd.h>

PacedTwin::PacedTwin(const std::filesystem::path& program) {
  std::array<int, 2> in{}, out{};
  // Not inherited by the other twin, or the first one would not see its input end.
  if (::pipe2(in.data(), O_CLOEXEC) != 0 || ::pipe2(out.data(), O_CLOEXEC) != 0) throw std::runtime_error("no pipe");
  process_ = ::fork();
  if (process_ < 0) throw std::runtime_error("no process");
  if (process_ == 0) {
    ::dup2(in[0], STDIN_FILENO);
    ::dup2(out[1], STDOUT_FILENO);
    ::execl(program.c_str(), program.c_str(), "--paced", "1", nullptr);
    ::_exit(127);
  }
  ::close(in[0]);
  ::close(out[1]);
  to_ = in[1];
  from_ = out[0];
  for (int i = 0; i < 2; ++i) frame();
}

PacedTwin::~PacedTwin() {
  ::close(to_);
  ::close(from_);
  ::waitpid(process_, nullptr, 0);
}

double PacedTwin::frame() {
  if (::write(to_, "\n", 1) != 1) throw std::runtime_error("a twin has ended");
  std::string line;
  for (char letter = 0; letter != '\n'; line += letter) {
    if (::read(from_, &letter, 1) != 1) throw std::runtime_error("a twin has ended");
  }
  return std::stod(line);
}
