#include "tool/verbs.h"

#include <periscena/base/error.h>
#include <periscena/base/file.h>
#include <periscena/base/utf8.h>
#include <periscena/gl/frame_runner.h>
#include <periscena/image/files.h>
#include <periscena/inspect/emptiness.h>
#include <periscena/inspect/report.h>

#include <fmt/format.h>

#include <algorithm>
#include <nlohmann/json.hpp>

#include <charconv>

namespace periscena::tool {
namespace {

/// What passes found while they ran.
Diagnostics found_since(const Diagnostics& told, const Diagnostics& all) {
  Diagnostics found;
  for (const Diagnostic& one : all) {
    const auto same = [&](const Diagnostic& before) { return before.message == one.message; };
    // Two passes over one scene find the same.
    const bool known = std::any_of(told.begin(), told.end(), same) || std::any_of(found.begin(), found.end(), same);
    if (!known) found.add(one);
  }
  return found;
}

struct RenderOptions : FrameOptions {
  std::string output;
  double time = 0;
  std::string frames;
  double rate = 24;
  bool stats = false;
};

struct FrameRange {
  int first = 0, end = 1;
};

std::optional<FrameRange> parse_range(const std::string& text) {
  constexpr int most = 99'999'999;
  const std::size_t colon = text.find(':');
  if (colon == text.npos) return std::nullopt;
  const auto number = [&](std::size_t from, std::size_t to) -> std::optional<int> {
    int value = 0;
    const auto read = std::from_chars(text.data() + from, text.data() + to, value);
    const bool whole = read.ec == std::errc() && read.ptr == text.data() + to;
    return whole && value >= 0 && value <= most && text[from] != '-' ? std::optional(value) : std::nullopt;
  };
  const auto first = number(0, colon), end = number(colon + 1, text.size());
  if (!first || !end) return std::nullopt;
  return FrameRange{*first, *end};
}

/// "out/lock-%04d.png": the text before and after the number, and its width.
struct NumberedPath {
  std::string before, after;
  int width = 0;

  std::string at(int number) const { return fmt::format("{}{:0{}}{}", before, number, width, after); }
};

std::optional<NumberedPath> parse_numbered_path(const std::string& text) {
  const std::size_t percent = text.find('%');
  if (percent == text.npos || text.find('%', percent + 1) != text.npos) return std::nullopt;
  std::string_view rest = std::string_view(text).substr(percent + 1);
  int width = 0;
  if (rest.size() > 1 && rest[0] == '0' && rest[1] >= '0' && rest[1] <= '9') {
    width = rest[1] - '0';
    rest.remove_prefix(2);
  }
  if (!rest.starts_with('d')) return std::nullopt;
  return NumberedPath{text.substr(0, percent), std::string(rest.substr(1)), width};
}

int render(const RenderOptions& options) {
  const FrameRange range = options.frames.empty() ? FrameRange{} : *parse_range(options.frames);
  const std::optional<NumberedPath> numbered = parse_numbered_path(options.output);
  const auto path_of = [&](int frame) {
    return numbered && !options.frames.empty() ? numbered->at(frame) : options.output;
  };
  expect_writable(path_of(range.first));
  Diagnostics wrong;
  const std::optional<RunningFrame> running = start(options, wrong);
  if (!running) return fail_with(wrong, options.json);
  const FrameFile& file = running->file;
  gl::FrameRunner& runner = *running->runner;
  if (!runner.plan().output()) {
    fail("no-output", Place::file(options.file), "the frame makes no picture", "let a pass write \"output\"");
  }
  for (int frame = range.first; frame < range.end; ++frame) expect_no_input(path_of(frame));
  nlohmann::ordered_json written = nlohmann::ordered_json::array();
  const Diagnostics told = runner.diagnostics();
  {
    Progress progress("frame", static_cast<std::size_t>(range.end - range.first));
    for (int frame = range.first; frame < range.end; ++frame) {
      const double seconds = options.time + (options.frames.empty() ? 0 : frame / options.rate);
      runner.run_settled(seconds, file.history_steps, file.history_rate);
      write_picture(runner.read("output"), path_of(frame));
      written.push_back({{"file", path_of(frame)}, {"time", seconds}});
      progress.step();
    }
  }
  Diagnostics found = found_since(told, runner.diagnostics());
  found.append(inspect::find_empty_passes(file.graph, runner.plan(), options.time));
  if (options.json) {
    nlohmann::ordered_json answer{{"width", file.width}, {"height", file.height}, {"pictures", written}};
    answer["diagnostics"] = nlohmann::ordered_json::parse(inspect::to_json(found));
    if (options.stats) answer["counts"] = nlohmann::ordered_json::parse(inspect::counts_json(runner));
    print_json(answer);
  } else if (range.end - range.first == 1) {
    print(fmt::format("{}: {} x {} at {} s\n", printable(path_of(range.first)), file.width, file.height,
                      written.front()["time"].get<double>()));
  } else {
    print(fmt::format("{} to {}: {} pictures of {} x {}\n", printable(path_of(range.first)),
                      printable(path_of(range.end - 1)), range.end - range.first, file.width, file.height));
  }
  if (!options.json) print_diagnostics(found);
  if (options.stats && !options.json) print("\n" + inspect::counts_text(runner));
  return done;
}

}  // namespace

Action add_render(CLI::App& app, CLI::App*& verb) {
  verb = app.add_subcommand("render", "What does it look like? One picture, or a series of frames");
  verb->footer(
      "Example: periscena render demo/lock.toml -o lock.png --time 2.5 --size 640x360\n"
      "         periscena render demo/lock.toml --frames 0:48 --rate 24 -o out/lock-%04d.png\n"
      "         periscena render demo/lock.toml -o lock.png --stats");
  const auto options = std::make_shared<RenderOptions>();
  options->add_to(*verb);
  verb->add_option("-o,--output", options->output, "The PNG to write; with --frames it holds %d or %04d for the number")
      ->required();
  add_time(*verb, options->time);
  verb->add_flag("--stats", options->stats, "Say what the last frame cost, pass by pass: draw calls, triangles, …");
  verb->add_option("--frames", options->frames, "A series FIRST:END, END not included: 0:48 makes 48 pictures")
      ->check([](const std::string& text) {
        const auto range = parse_range(text);
        if (!range) return fmt::format("\"{}\" is no range; write FIRST:END, such as 0:48", text);
        return range->first < range->end ? std::string() : fmt::format("\"{}\" holds no frame", text);
      });
  verb->add_option("--rate", options->rate, "Frames a second of a series")
      ->capture_default_str()
      ->check([](const std::string& text) {
        const auto rate = parse_finite(text);
        const bool fine = rate && *rate > 0;
        return fine ? std::string() : fmt::format("\"{}\" is no rate; write a number more than 0", text);
      });
  return [options] {
    if (!options->frames.empty() && !parse_numbered_path(options->output)) {
      throw CLI::ValidationError("--output", "a series needs one %d or %04d in the name, such as out/lock-%04d.png");
    }
    return render(*options);
  };
}

}  // namespace periscena::tool
