#include "tool/verbs.h"

#include <periscena/base/utf8.h>
#include <periscena/inspect/report.h>

#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include <filesystem>
#include <set>

namespace periscena::tool {
namespace {

struct CaptureOptions : MomentOptions {
  std::string folder;
};

int capture(const CaptureOptions& options) {
  Diagnostics wrong;
  const std::optional<RunningFrame> running = start(options, wrong, true);
  if (!running) return fail_with(wrong, options.json);
  if (std::error_code code; std::filesystem::is_directory(options.folder, code)) {
    for (const auto& entry : std::filesystem::directory_iterator(options.folder, code))
      expect_no_input(entry.path().string());
  }
  const inspect::CaptureIndex index = write_capture(*running->runner, running->moment(options.time), options.folder);
  std::set<std::size_t> passes;
  std::size_t bytes = 0;
  for (const inspect::CaptureEntry& entry : index.entries) {
    passes.insert(entry.pass_index);
    bytes += entry.bytes;
  }
  if (options.json) {
    const nlohmann::ordered_json answer{{"folder", options.folder},
                                        {"index", (index.folder / "index.json").string()},
                                        {"passes", passes.size()},
                                        {"pictures", index.entries.size()},
                                        {"bytes", bytes}};
    print_json(answer);
    return done;
  }
  for (const inspect::CaptureEntry& entry : index.entries) {
    print(fmt::format("{:<52} {:>11}  {:<17} {}\n", entry.file, fmt::format("{} x {}", entry.width, entry.height),
                      entry.format, inspect::bytes_text(entry.bytes)));
  }
  print(fmt::format("{}: {} pictures after {} passes at {} s, {}, and index.json\n", printable(options.folder),
                    index.entries.size(), passes.size(), options.time, inspect::bytes_text(bytes)));
  return done;
}

}  // namespace

Action add_capture(CLI::App& app, CLI::App*& verb) {
  verb = app.add_subcommand("capture", "Keep every target of every pass as open files: PNG, OpenEXR and a JSON index");
  verb->footer("Example: periscena capture demo/lock.toml -o lock.capture --time 12 --size 640x360");
  const auto options = std::make_shared<CaptureOptions>();
  options->add_to(*verb);
  verb->add_option("-o,--output", options->folder,
                   "The folder to write; it appears when it is whole, and replaces an earlier capture")
      ->required();
  return [options] { return capture(*options); };
}

}  // namespace periscena::tool
