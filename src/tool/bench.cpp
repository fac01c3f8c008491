#include "tool/verbs.h"

#include <periscena/base/file.h>
#include <periscena/base/utf8.h>
#include <periscena/inspect/costs.h>

#include <fmt/format.h>
#include <nlohmann/json.hpp>

namespace periscena::tool {
namespace {

struct BenchOptions : MomentOptions {
  std::vector<std::string> more;
  std::string page;
  int rounds = 5;
};

int bench(const BenchOptions& options) {
  if (!options.page.empty()) expect_writable(options.page);
  std::vector<std::string> files = options.more;
  files.insert(files.begin(), options.file);
  std::vector<inspect::PageFrame> frames;
  nlohmann::ordered_json answer = nlohmann::ordered_json::array();
  std::string device;
  Progress progress("frame", files.size());
  for (const std::string& file : files) {
    FrameOptions one = options;
    one.file = file;
    Diagnostics wrong;
    const std::optional<RunningFrame> running = start(one, wrong);
    if (!running) return fail_with(wrong, options.json);
    gl::FrameRunner& runner = *running->runner;
    frames.push_back({file, {}, inspect::measure_costs(runner, running->moment(options.time), options.rounds)});
    if (!options.page.empty() && runner.plan().output()) frames.back().picture = runner.read("output");
    device = running->device->capabilities().renderer;
    if (options.json) {
      answer.push_back(nlohmann::ordered_json::parse(inspect::costs_json(frames.back().costs)));
      answer.back()["frame"] = file;
    } else {
      print(fmt::format("{}{} on {}\n", frames.size() > 1 ? "\n" : "", printable(file), device) +
            inspect::costs_text(frames.back().costs));
    }
    progress.step();
  }
  if (!options.page.empty()) write_output(inspect::page_html(frames, device), options.page);
  if (options.json) {
    print_json(answer);
  } else if (!options.page.empty()) {
    print(fmt::format("\n{}: {} frame{}\n", printable(options.page), frames.size(), frames.size() == 1 ? "" : "s"));
  }
  return done;
}

}  // namespace

Action add_bench(CLI::App& app, CLI::App*& verb) {
  verb = app.add_subcommand("bench", "What does each pass cost? By the wall clock, with the device idle around each");
  verb->footer(
      "Example: periscena bench demo/lock.toml --time 12\n"
      "         periscena bench demo/lock.toml demo/lock_day.toml --page costs.html");
  const auto options = std::make_shared<BenchOptions>();
  options->add_to(*verb);
  verb->add_option("MORE", options->more, "Further frame files");
  verb->add_option("--page", options->page, "Write the pictures and their costs to this HTML file, too");
  verb->add_option("--rounds", options->rounds, "Frames that times are medians of")
      ->capture_default_str()
      ->check(CLI::Range(1, 1000));
  return [options] { return bench(*options); };
}

}  // namespace periscena::tool
