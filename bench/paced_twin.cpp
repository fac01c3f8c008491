#include "paced_twin.h"

#include <array>
#include <cstdio>
#include <stdexcept>
#include <string>

#include <fcntl.h>
#include <sys/wait.h>
#include <unistd.h>

std::string output_of(const std::string& command) {
  FILE* pipe = ::popen(command.c_str(), "r");
  if (!pipe) throw std::runtime_error("can't run " + command);
  std::string text;
  std::array<char, 4096> block{};
  while (const std::size_t got = std::fread(block.data(), 1, block.size(), pipe)) text.append(block.data(), got);
  if (::pclose(pipe) != 0) throw std::runtime_error("failed: " + command);
  return text;
}

PacedTwin::PacedTwin(const std::filesystem::path& program, const std::vector<std::string>& more) {
  std::vector<std::string> words{program.string(), "--paced", "1"};
  words.insert(words.end(), more.begin(), more.end());
  std::vector<char*> arguments;
  for (std::string& word : words) arguments.push_back(word.data());
  arguments.push_back(nullptr);
  std::array<int, 2> in{}, out{};
  // Not inherited by the other twin, or the first one would not see its input end.
  if (::pipe2(in.data(), O_CLOEXEC) != 0 || ::pipe2(out.data(), O_CLOEXEC) != 0) throw std::runtime_error("no pipe");
  process_ = ::fork();
  if (process_ < 0) throw std::runtime_error("no process");
  if (process_ == 0) {
    ::dup2(in[0], STDIN_FILENO);
    ::dup2(out[1], STDOUT_FILENO);
    ::execv(program.c_str(), arguments.data());
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

PacedTwin::Took PacedTwin::frame() {
  if (::write(to_, "\n", 1) != 1) throw std::runtime_error("a twin has ended");
  std::string line;
  for (char letter = 0; letter != '\n'; line += letter) {
    if (::read(from_, &letter, 1) != 1) throw std::runtime_error("a twin has ended");
  }
  std::size_t end = 0;
  const double wall = std::stod(line, &end);
  return {wall, std::stod(line.substr(end))};
}
