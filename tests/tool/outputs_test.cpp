// Files of users: what the command overwrites, what it leaves, and what is there when it is stopped.
#include "sanitized.h"
#include "scratch.h"
#include "tool/process.h"

#include <periscena/base/file.h>
#include <periscena/image/files.h>
#include <periscena/inspect/capture.h>

#include <catch2/catch.hpp>

#include <algorithm>
#include <chrono>
#include <cmath>
#include <csignal>
#include <random>
#include <thread>

#include <fcntl.h>
#include <sys/stat.h>
#include <sys/wait.h>
#include <unistd.h>

using namespace periscena;
namespace fs = std::filesystem;

namespace {

const std::string frame = "examples/01_first_picture.toml", size = "--size", tiny = "32x20";

struct Outputs {
  Scratch scratch{"outputs"};
  std::string at(const std::string& name) const { return (scratch / name).string(); }

  /// Names in a folder of the scratch folder, sorted.
  std::vector<std::string> names(const std::string& folder = ".") const {
    std::vector<std::string> found;
    for (const auto& entry : fs::directory_iterator(scratch / folder))
      found.push_back(entry.path().filename().string());
    std::sort(found.begin(), found.end());
    return found;
  }

  Answer capture() const { return periscena_command({"capture", frame, "-o", at("kept"), size, tiny}); }
};

constexpr int moments = sanitized ? 8 : 40;

/// The command in a shell, which knows of redirections and limits.
Answer shell(const std::string& script) {
  return run_process({"/bin/bash", "-c", "P=" PERISCENA_BINARY_FOLDER "/periscena; " + script});
}

/// After the start of a verb: half of them even up to as long as the slowest take, half of them even in the number of
/// digits, for those that take a hundredth of it.
std::chrono::microseconds some_moment(std::mt19937& random) {
  constexpr double longest_us = sanitized ? 3e6 : 3e5, shortest_us = 100;
  const bool even = random() % 2 == 0;
  const double share = static_cast<double>(random()) / static_cast<double>(std::mt19937::max());
  return std::chrono::microseconds(
      static_cast<std::int64_t>(even ? share * longest_us : shortest_us * std::pow(longest_us / shortest_us, share)));
}

/// Starts the command with its outputs thrown away, sends it a signal after a while, and waits for it.
/// @return what waitpid says
int stopped_by(int signal, std::chrono::microseconds after, std::vector<std::string> arguments) {
  arguments.insert(arguments.begin(), PERISCENA_BINARY_FOLDER "/periscena");
  // Until it is the command, the child must not answer with the handlers of the test's framework.
  sigset_t signals, before;
  sigemptyset(&signals);
  for (const int one : {SIGINT, SIGTERM, SIGHUP}) sigaddset(&signals, one);
  ::sigprocmask(SIG_BLOCK, &signals, &before);
  const pid_t child = ::fork();
  REQUIRE(child >= 0);
  if (child == 0) {
    for (const int one : {SIGINT, SIGTERM, SIGHUP}) std::signal(one, SIG_DFL);
    ::sigprocmask(SIG_SETMASK, &before, nullptr);
    const int nowhere = ::open("/dev/null", O_WRONLY);
    ::dup2(nowhere, STDOUT_FILENO);
    ::dup2(nowhere, STDERR_FILENO);
    if (::chdir(PERISCENA_SOURCE_FOLDER) != 0) ::_exit(126);
    std::vector<char*> list;
    for (const std::string& argument : arguments) list.push_back(const_cast<char*>(argument.c_str()));
    list.push_back(nullptr);
    ::execv(list[0], list.data());
    ::_exit(127);
  }
  ::sigprocmask(SIG_SETMASK, &before, nullptr);
  std::this_thread::sleep_for(after);
  ::kill(child, signal);
  int status = 0;
  ::waitpid(child, &status, 0);
  return status;
}

/// Is what a capture's index lists there, whole, and nothing else?
void expect_whole_capture(const fs::path& folder) {
  const inspect::CaptureIndex index = inspect::read_capture(folder);
  for (const inspect::CaptureEntry& entry : index.entries) REQUIRE_NOTHROW(inspect::read_captured(index, entry));
  REQUIRE(static_cast<std::size_t>(std::distance(fs::directory_iterator(folder), fs::directory_iterator())) ==
          index.entries.size() + 1);
}

}  // namespace

TEST_CASE_METHOD(Outputs, "a capture replaces an earlier one, and no folder with anything else in it") {
  REQUIRE(capture().exit_code == 0);
  const auto written = names("kept");
  REQUIRE(capture().exit_code == 0);
  REQUIRE(names("kept") == written);
  REQUIRE(names() == std::vector<std::string>{"kept"});
  write_file(scratch / "kept/diary.txt", "dear diary");
  const Answer refused = capture();
  REQUIRE(refused.exit_code == 3);
  REQUIRE_THAT(refused.error, Catch::Contains("folder-in-use") && Catch::Contains("holds \"diary.txt\""));
  REQUIRE(read_text(scratch / "kept/diary.txt")->text == "dear diary");
  REQUIRE(names("kept").size() == written.size() + 1);
  fs::remove(scratch / "kept/diary.txt");
  // Who stands in a folder would stand in none.
  const Answer here = run_process(
      {PERISCENA_BINARY_FOLDER "/periscena", "capture", PERISCENA_SOURCE_FOLDER "/" + frame, "-o", ".", size, tiny},
      (scratch / "kept").string());
  REQUIRE(here.exit_code == 3);
  REQUIRE_THAT(here.error, Catch::Contains("is the current folder"));
  // A picture that somebody has drawn over is somebody's.
  const std::string picture = read_bytes(scratch / "kept" / written[0]);
  write_file(scratch / "kept" / written[0], picture + "more");
  REQUIRE_THAT(capture().error, Catch::Contains("holds \"" + written[0]));
  write_file(scratch / "kept" / written[0], picture);
  REQUIRE(capture().exit_code == 0);
  // A file of the capture that has become something else is not the capture's any more.
  fs::remove(scratch / "kept" / written[0]);
  fs::create_directory(scratch / "kept" / written[0]);
  REQUIRE(capture().exit_code == 3);
  REQUIRE(fs::is_directory(scratch / "kept" / written[0]));
}

TEST_CASE_METHOD(Outputs, "a capture goes where a link leads, keeps the folder's mode, and takes an empty folder") {
  fs::create_directory(scratch / "far");
  fs::permissions(scratch / "far", fs::perms::owner_all);
  fs::create_directory_symlink("far", scratch / "kept");
  REQUIRE(capture().exit_code == 0);
  REQUIRE(fs::is_symlink(scratch / "kept"));
  REQUIRE(fs::status(scratch / "far").permissions() == fs::perms::owner_all);
  expect_whole_capture(scratch / "far");
  REQUIRE(capture().exit_code == 0);
  expect_whole_capture(scratch / "far");
}

TEST_CASE_METHOD(Outputs, "the command does not overwrite itself, and a name of two lines is told in one") {
  fs::copy(PERISCENA_BINARY_FOLDER "/periscena", scratch / "copy");
  const std::string first = PERISCENA_SOURCE_FOLDER "/examples/01_first_picture.toml";
  for (const std::string& spelt : {at("copy"), std::string("/proc/self/exe")}) {
    const Answer answer = run_process({at("copy"), "render", first, "-o", spelt, size, tiny});
    REQUIRE(answer.exit_code == 2);
    REQUIRE_THAT(answer.error, Catch::Contains("output-is-input") && Catch::Contains("this program itself"));
  }
  const Answer answer = run_process({at("copy"), "render", first, "-o", at("a\nb.png"), size, tiny});
  REQUIRE(answer.exit_code == 0);
  REQUIRE_THAT(answer.out, Catch::Contains("a\u240Ab.png: "));
}

TEST_CASE_METHOD(Outputs, "no verb overwrites what it reads, however that is spelt") {
  fs::copy(PERISCENA_SOURCE_FOLDER "/examples/01_first_picture.toml", scratch / "frame.toml");
  fs::create_directory(scratch / "folder");
  fs::create_symlink("frame.toml", scratch / "link.png");
  const std::string text = read_text(scratch / "frame.toml")->text;
  for (const std::string& spelt : {at("frame.toml"), at("folder/../frame.toml"), at("link.png")}) {
    const Answer answer = periscena_command({"render", at("frame.toml"), "-o", spelt, size, tiny});
    REQUIRE(answer.exit_code == 2);
    REQUIRE_THAT(answer.error, Catch::Contains("output-is-input"));
    REQUIRE(read_text(scratch / "frame.toml")->text == text);
  }
  const Answer series =
      periscena_command({"render", at("frame.toml"), "-o", at("%d.png"), "--frames", "0:3", size, tiny});
  REQUIRE(series.exit_code == 0);
  fs::create_symlink("frame.toml", scratch / "5.png");
  REQUIRE(
      periscena_command({"render", at("frame.toml"), "-o", at("%d.png"), "--frames", "3:6", size, tiny}).exit_code ==
      2);
  REQUIRE_FALSE(fs::exists(scratch / "3.png"));  // refused before the first is drawn
  REQUIRE(periscena_command({"sheet", at("frame.toml"), "-o", at("link.png"), size, tiny}).exit_code == 2);
  REQUIRE(periscena_command({"plan", at("frame.toml"), "--svg", "-o", at("link.png")}).exit_code == 2);
  REQUIRE(periscena_command({"bench", at("frame.toml"), "--page", at("frame.toml"), size, tiny}).exit_code == 2);
  // Textures, shaders and what they include, pictures that are compared.
  write_png(Image(4, 4, Format::rgba8_srgb), scratch / "brick.png");
  write_file(scratch / "half.glsl", "const float half_light = 0.5;\n");
  write_file(scratch / "s.frag",
             "#include \"half.glsl\"\nout vec4 color;\nvoid main() { color = vec4(half_light); }\n");
  write_file(scratch / "own.toml",
             "[texture.brick]\nfile = \"brick.png\"\n[[pass]]\nname = \"a\"\nkind = \"fullscreen\"\nshader = "
             "\"s.frag\"\nwrites = { color = \"output\" }\n");
  for (const char* input : {"brick.png", "half.glsl", "s.frag"}) {
    const std::string bytes = read_bytes(scratch / input);
    REQUIRE(periscena_command({"render", at("own.toml"), "-o", at(input), size, tiny}).exit_code == 2);
    REQUIRE(read_bytes(scratch / input) == bytes);
  }
  const std::string brick = read_bytes(scratch / "brick.png");
  REQUIRE(periscena_command({"compare", at("brick.png"), at("0.png"), "--heat", at("0.png")}).exit_code != 0);
  REQUIRE(periscena_command({"pack", at("brick.png"), at("0.png"), "-o", at("brick.json")}).exit_code == 2);
  REQUIRE(read_bytes(scratch / "brick.png") == brick);
  REQUIRE_FALSE(fs::exists(scratch / "brick.json"));
}

TEST_CASE_METHOD(Outputs, "devices and pipes are written through, and stay what they are") {
  REQUIRE(periscena_command({"render", frame, "-o", "/dev/null", size, tiny}).exit_code == 0);
  REQUIRE(fs::is_character_file("/dev/null"));
  REQUIRE(::mkfifo(at("pipe").c_str(), 0600) == 0);
  std::string got;
  std::thread reader([&] { got = read_bytes(scratch / "pipe"); });
  REQUIRE(periscena_command({"render", frame, "-o", at("pipe"), size, tiny}).exit_code == 0);
  reader.join();
  REQUIRE(decode_image(got, "pipe").width() == 32);
  REQUIRE(fs::is_fifo(scratch / "pipe"));
}

TEST_CASE_METHOD(Outputs, "a full disk, a closed output and a limit on sizes end with 3, a message, and nothing half") {
  const auto expect_told = [](const Answer& answer, const char* words) {
    INFO(answer.error);
    REQUIRE(answer.exit_code == 3);
    REQUIRE_THAT(answer.error, Catch::Contains("unwritable-file") && Catch::Contains(words));
  };
  for (const std::string json : {"", " --json"}) {
    expect_told(shell("$P check " + frame + json + " > /dev/full"), "No space left");
    expect_told(shell("$P plan " + frame + json + " > /dev/full"), "No space left");
    expect_told(shell("$P check " + frame + json + " >&-"), "cannot write to standard output");
    expect_told(shell("$P check nowhere.toml --json > /dev/full"), "No space left");
  }
  expect_told(shell("$P render " + frame + " -o /dev/full --size 32x20"), "No space left");
  write_file(scratch / "a.png", "keep me");
  expect_told(shell("ulimit -f 1; $P render " + frame + " -o " + at("a.png") + " --size 320x200"), "File too large");
  expect_told(shell("ulimit -f 1; $P capture " + frame + " -o " + at("c") + " --size 320x200"), "File too large");
  REQUIRE(read_text(scratch / "a.png")->text == "keep me");
  REQUIRE(names() == std::vector<std::string>{"a.png"});
  // A file never takes the place of an output that was closed.
  const Answer closed = shell("$P render " + frame + " -o " + at("b.png") + " --size 32x20 >&- 2>&-");
  REQUIRE(closed.exit_code == 3);
  REQUIRE(read_png(scratch / "b.png").width() == 32);
}

TEST_CASE_METHOD(Outputs, "a reader that goes away stops nothing") {
  const Answer series = shell("$P render " + frame + " --frames 0:4 -o " + at("%d.png") +
                              " --size 32x20 --stats | head -c 1 > /dev/null; exit ${PIPESTATUS[0]}");
  REQUIRE(series.exit_code == 0);
  REQUIRE(names().size() == 4);
  const Answer bench = shell("$P bench " + frame + " examples/03_offscreen.toml --rounds 1 --size 32x20 --page " +
                             at("page.html") + " | head -1 > /dev/null; exit ${PIPESTATUS[0]}");
  REQUIRE(bench.exit_code == 0);
  REQUIRE(fs::exists(scratch / "page.html"));
}

TEST_CASE_METHOD(Outputs, "a signal at any moment leaves no temporary file, and ends the process by that signal") {
  write_png(Image(8, 8, Format::rgba8_srgb), scratch / "dot.png");
  write_png(Image(9, 8, Format::rgba8_srgb), scratch / "other.png");
  const std::vector<std::vector<std::string>> verbs{
      {"render", frame, "--frames", "0:3", "-o", at("r%d.png"), size, tiny},
      {"capture", frame, "-o", at("capture"), size, tiny},
      {"sheet", frame, "-o", at("sheet.png"), "--width", "320", size, tiny},
      {"plan", frame, "--svg", "-o", at("plan.svg")},
      {"vary", frame, "--set", "view.front.fov_y_degrees=30,40", "--rounds", "1", "-o", at("vary.png"), size, tiny},
      {"bench", frame, "--rounds", "1", "--page", at("page.html"), size, tiny},
      {"compare", at("dot.png"), at("dot.png"), "--heat", at("heat.png")},
      {"pack", at("dot.png"), at("other.png"), "-o", at("packed.json")}};
  std::mt19937 random(5);
  std::size_t ended = 0;
  for (const auto& verb : verbs) {
    REQUIRE(periscena_command(verb).exit_code == 0);
    for (int i = 0; i < moments; ++i) {
      const int signal = std::array{SIGINT, SIGTERM, SIGHUP}[static_cast<std::size_t>(i % 3)];
      // The first one is before the verb can have begun.
      const std::chrono::microseconds after = i == 0 ? std::chrono::microseconds(0) : some_moment(random);
      const int status = stopped_by(signal, after, verb);
      INFO(verb[0] << " stopped after " << after.count() << " us: " << status);
      const bool done = WIFEXITED(status) && WEXITSTATUS(status) == 0;
      REQUIRE((done || (WIFSIGNALED(status) && WTERMSIG(status) == signal)));
      ended += !done;
      for (const std::string& name : names()) REQUIRE_FALSE(name.starts_with(".periscena-"));
    }
  }
  REQUIRE(ended >= verbs.size());
  expect_whole_capture(scratch / "capture");
  for (const char* picture : {"r0.png", "r1.png", "r2.png", "sheet.png", "vary.png", "heat.png", "packed.png"})
    REQUIRE_NOTHROW(read_png(scratch / picture));
  REQUIRE_THAT(shell("$P render " + frame + " --frames 0:100000 -o " + at("x%d.png") +
                     " --size 32x20 & sleep 0.5; kill -TERM $!; wait $!; echo $?")
                   .out,
               Catch::EndsWith("143\n"));  // 128 and SIGTERM's 15
}

TEST_CASE_METHOD(Outputs,
                 "a kill at any moment leaves a whole capture under its name, and the next run removes the rest") {
  REQUIRE(capture().exit_code == 0);
  std::mt19937 random(6);
  for (int i = 0; i < moments; ++i) {
    const std::chrono::microseconds after = some_moment(random);
    stopped_by(SIGKILL, after, {"capture", frame, "-o", at("kept"), size, tiny});
    INFO("killed after " << after.count() << " us");
    expect_whole_capture(scratch / "kept");
  }
  REQUIRE(capture().exit_code == 0);
  REQUIRE(names() == std::vector<std::string>{"kept"});
}

TEST_CASE_METHOD(Outputs, "a name of 249 bytes can be written, and planted links are not followed") {
  const std::string name(245, 'n');
  REQUIRE(periscena_command({"render", frame, "-o", at(name + ".png"), size, tiny}).exit_code == 0);
  REQUIRE(names() == std::vector<std::string>{name + ".png"});
}
