#include "tool/verbs.h"

#include <periscena/base/utf8.h>
#include <periscena/inspect/report.h>

#include <fmt/format.h>

namespace periscena::tool {

Action add_check(CLI::App& app, CLI::App*& verb) {
  verb = app.add_subcommand("check", "Is it right? Proof-reads a frame file, without a device");
  verb->footer("Example: periscena check demo/lock.toml");
  const auto options = std::make_shared<FrameOptions>();
  options->add_to(*verb);
  return [options] {
    const PlanResult result = options->read(Contents::outlines).plan();
    if (options->json) {
      print_json_text(inspect::to_json(result.diagnostics()));
    } else {
      const std::string counts = count_text(result.diagnostics());
      print(to_text(result.diagnostics()));
      print(fmt::format("{}: {}\n", printable(options->file), counts.empty() ? "nothing wrong" : counts));
    }
    return result.ok() ? done : found_wanting;
  };
}

}  // namespace periscena::tool
