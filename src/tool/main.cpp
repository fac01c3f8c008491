#include "tool/verbs.h"

#include <periscena/base/error.h>

#include <fmt/format.h>
#include <spdlog/sinks/stdout_sinks.h>
#include <spdlog/spdlog.h>

#include <algorithm>
#include <new>
#include <string_view>

namespace {

using namespace periscena;
using namespace periscena::tool;

struct Verb {
  CLI::App* app = nullptr;
  Action action;
};

void set_up_log() {
  auto logger = std::make_shared<spdlog::logger>("periscena", std::make_shared<spdlog::sinks::stderr_sink_mt>());
  logger->set_pattern("%l: %v");
  spdlog::set_default_logger(std::move(logger));
}

int run(int argc, char** argv) {
  CLI::App app("Periscena: a frame is proof-read, run on OpenGL, and looked at.", "periscena");
  app.set_version_flag("--version", PERISCENA_VERSION);
  app.require_subcommand(1);
  app.footer(
      "Exit codes: 0 done; 1 looked and found wanting; 2 wrong usage; 3 the machine could not.\n"
      "Example: periscena render demo/lock.toml -o lock.png --time 2.5");
  std::vector<Verb> verbs;
  for (const auto add : {add_render, add_check, add_plan, add_device, add_capture, add_sheet, add_probe, add_vary,
                         add_bench, add_compare, add_pack}) {
    Verb verb;
    verb.action = add(app, verb.app);
    verbs.push_back(std::move(verb));
  }
  try {
    app.parse(argc, argv);
    for (const Verb& verb : verbs) {
      if (verb.app->parsed()) return verb.action();
    }
  } catch (const CLI::ParseError& error) {
    return app.exit(error) == 0 ? done : wrong_usage;
  }
  return wrong_usage;
}

}  // namespace

int main(int argc, char** argv) {
  const bool json = std::any_of(argv, argv + argc, [](std::string_view argument) { return argument == "--json"; });
  try {
    set_up_log();
    return run(argc, argv);
  } catch (const Error& error) {
    return report(error, json);
  } catch (const std::bad_alloc&) {
    fmt::print(stderr,
               "error[out-of-memory]: this machine has no memory left\nmend: make targets or the scene smaller\n");
  } catch (const std::exception& error) {
    fmt::print(stderr, "error[internal]: {}\nmend: this is our mistake; please report it\n", error.what());
  }
  return machine_failed;
}
