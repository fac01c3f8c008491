#include "tool/verbs.h"

#include <periscena/base/file.h>
#include <periscena/base/utf8.h>
#include <periscena/image/files.h>
#include <periscena/inspect/sheet.h>

#include <fmt/format.h>
#include <nlohmann/json.hpp>

namespace periscena::tool {
namespace {

struct SheetVerbOptions : MomentOptions {
  std::string output;
  inspect::SheetOptions sheet;
};

int sheet(const SheetVerbOptions& options) {
  expect_writable(options.output);
  Diagnostics wrong;
  const std::optional<RunningFrame> running = start(options, wrong, true);
  if (!running) return fail_with(wrong, options.json);
  const Image picture = make_sheet(*running->runner, running->moment(options.time), options.sheet);
  write_picture(picture, options.output);
  if (options.json) {
    const nlohmann::ordered_json answer{
        {"file", options.output}, {"width", picture.width()}, {"height", picture.height()}};
    print_json(answer);
  } else {
    print(fmt::format("{}: {} x {}, all targets of the frame at {} s\n", printable(options.output), picture.width(),
                      picture.height(), options.time));
  }
  return done;
}

}  // namespace

Action add_sheet(CLI::App& app, CLI::App*& verb) {
  verb = app.add_subcommand("sheet", "All targets of a frame on one labelled picture, in the order of its passes");
  verb->footer("Example: periscena sheet demo/lock.toml -o lock_sheet.png --time 12");
  const auto options = std::make_shared<SheetVerbOptions>();
  options->add_to(*verb);
  verb->add_option("-o,--output", options->output, "The PNG to write")->required();
  verb->add_option("--width", options->sheet.width, "Width of the sheet, pixels")
      ->capture_default_str()
      ->check(CLI::Range(320, 16384));
  verb->add_option("--columns", options->sheet.columns, "Pictures side by side; as fits if left out")
      ->check(CLI::Range(1, 64));
  return [options] { return sheet(*options); };
}

}  // namespace periscena::tool
