#include "tool/verbs.h"

#include <periscena/inspect/report.h>

namespace periscena::tool {

Action add_plan(CLI::App& app, CLI::App*& verb) {
  verb = app.add_subcommand("plan", "What will run, in what order, in how much memory? Without a device");
  verb->footer("Example: periscena plan demo/lock.toml --size 1920x1080");
  const auto options = std::make_shared<FrameOptions>();
  options->add_to(*verb);
  return [options] {
    const PlanResult result = options->read().plan();
    if (!result.ok()) {
      if (options->json) print(inspect::to_json(result.diagnostics()));
      if (!options->json) print_diagnostics(result.diagnostics());
      return found_wanting;
    }
    if (options->json) {
      print(inspect::to_json(result.value(), result.diagnostics()));
    } else {
      print_diagnostics(result.diagnostics());
      print(inspect::to_text(result.value()));
    }
    return done;
  };
}

}  // namespace periscena::tool
