#include "tool/signals.h"
#include "tool/verbs.h"

#include <periscena/base/error.h>
#include <periscena/base/names.h>
#include <periscena/base/utf8.h>

#include <fmt/format.h>
#include <spdlog/sinks/stdout_sinks.h>
#include <spdlog/spdlog.h>

#include <algorithm>
#include <filesystem>
#include <new>
#include <sstream>
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

/// The parser only says that a verb is missing.
void expect_known_verb(const CLI::App& app, int argc, char** argv) {
  if (argc < 2 || argv[1][0] == '-') return;
  std::vector<std::string> names;
  for (const CLI::App* verb : app.get_subcommands({})) names.push_back(verb->get_name());
  if (std::find(names.begin(), names.end(), argv[1]) != names.end()) return;
  throw WrongUsage("unknown-verb", fmt::format("there is no verb \"{}\"", argv[1]), name_hint(argv[1], names));
}

int run(int argc, char** argv) {
  CLI::App app("Periscena: a frame is proof-read, run on OpenGL, and looked at.", "periscena");
  app.set_version_flag("--version", PERISCENA_VERSION);
  app.require_subcommand(1);
  app.footer(
      "Exit codes: 0 done; 1 looked and found wanting; 2 wrong usage; 3 the machine could not.\n"
      "Example: periscena render demo/lock.toml -o lock.png --time 2.5");
  std::vector<Verb> verbs;
  for (const auto add : {add_render, add_frame, add_check, add_plan, add_device, add_capture, add_sheet, add_probe,
                         add_vary, add_bench, add_compare, add_pack}) {
    Verb verb;
    verb.action = add(app, verb.app);
    verbs.push_back(std::move(verb));
  }
  expect_known_verb(app, argc, argv);
  try {
    app.parse(argc, argv);
    for (const Verb& verb : verbs) {
      if (verb.app->parsed()) return verb.action();
    }
  } catch (const CLI::ParseError& error) {
    std::ostringstream out, wrong;
    const bool asked = app.exit(error, out, wrong) == 0;
    print(out.str());
    fmt::print(stderr, "{}", printable_lines(wrong.str()));
    return asked ? done : wrong_usage;
  }
  return wrong_usage;
}

}  // namespace

int main(int argc, char** argv) {
  const bool json = std::any_of(argv, argv + argc, [](std::string_view argument) { return argument == "--json"; });
  try {
    prepare_process();
    set_up_log();
    note_inputs();
    const int ended = run(argc, argv);
    if (ended == done) expect_no_driver_errors();
    return ended;
  } catch (const Error& error) {
    return report(error, json);
  } catch (const std::filesystem::filesystem_error& error) {
    fmt::print(stderr, "error[unreadable-file]: {}\nmend: check that the current folder is still there\n",
               printable(error.what()));
  } catch (const std::bad_alloc&) {
    fmt::print(stderr,
               "error[out-of-memory]: this machine has no memory left\nmend: make targets or the scene smaller\n");
  } catch (const std::exception& error) {
    fmt::print(stderr, "error[internal]: {}\nmend: this is our mistake; please report it\n", printable(error.what()));
  }
  return machine_failed;
}
