#include "tool/process.h"

#include <array>
#include <stdexcept>

#include <poll.h>
#include <sys/resource.h>
#include <sys/wait.h>
#include <unistd.h>

namespace {

struct Pipe {
  std::array<int, 2> ends{};
  Pipe() {
    if (::pipe(ends.data()) != 0) throw std::runtime_error("no pipe");
  }
};

/// Reads both until both are closed.
void drain(int out, int error, Answer& into) {
  std::array<pollfd, 2> open{{{out, POLLIN, 0}, {error, POLLIN, 0}}};
  std::array<std::string*, 2> texts{&into.out, &into.error};
  int left = 2;
  while (left > 0) {
    ::poll(open.data(), open.size(), -1);
    for (std::size_t i = 0; i < 2; ++i) {
      if (open[i].fd < 0 || open[i].revents == 0) continue;
      char block[4096];
      const ssize_t got = ::read(open[i].fd, block, sizeof block);
      if (got > 0) {
        texts[i]->append(block, static_cast<std::size_t>(got));
      } else {
        ::close(open[i].fd);
        open[i].fd = -1;
        --left;
      }
    }
  }
}

}  // namespace

Answer run_process(const std::vector<std::string>& arguments, const std::string& folder,
                   const std::vector<std::string>& variables) {
  const Pipe out, error;
  const pid_t child = ::fork();
  if (child < 0) throw std::runtime_error("no process");
  if (child == 0) {
    ::dup2(out.ends[1], STDOUT_FILENO);
    ::dup2(error.ends[1], STDERR_FILENO);
    for (const int end : {out.ends[0], out.ends[1], error.ends[0], error.ends[1]}) ::close(end);
    if (::chdir(folder.c_str()) != 0) ::_exit(126);
    for (const std::string& variable : variables) ::putenv(const_cast<char*>(variable.c_str()));
    std::vector<char*> list;
    for (const std::string& argument : arguments) list.push_back(const_cast<char*>(argument.c_str()));
    list.push_back(nullptr);
    ::execv(list[0], list.data());
    ::_exit(127);
  }
  ::close(out.ends[1]);
  ::close(error.ends[1]);
  Answer answer;
  drain(out.ends[0], error.ends[0], answer);
  int status = 0;
  rusage used{};
  ::wait4(child, &status, 0, &used);
  answer.peak_mebibytes = used.ru_maxrss / 1024;
  answer.exit_code = WIFEXITED(status) ? WEXITSTATUS(status) : -WTERMSIG(status);
  return answer;
}

Answer periscena_command(std::vector<std::string> arguments, const std::vector<std::string>& variables) {
  arguments.insert(arguments.begin(), PERISCENA_BINARY_FOLDER "/periscena");
  return run_process(arguments, PERISCENA_SOURCE_FOLDER, variables);
}
