#include "tool/verbs.h"

#include <periscena/base/file.h>
#include <periscena/inspect/report.h>

namespace periscena::tool {

namespace {

struct PlanOptions : FrameOptions {
  bool dot = false, svg = false;
  std::string output;
};

int plan(const PlanOptions& options) {
  const PlanResult result = options.read().plan();
  if (!result.ok()) return fail_with(result.diagnostics(), options.json);
  const FramePlan& planned = result.value();
  const std::string text = options.json  ? inspect::to_json(planned, result.diagnostics())
                           : options.dot ? inspect::to_dot(planned)
                           : options.svg ? inspect::to_svg(planned)
                                         : inspect::to_text(planned);
  if (!options.json) print_diagnostics(result.diagnostics());
  if (options.output.empty()) {
    print(text);
  } else {
    write_file(options.output, text);
  }
  return done;
}

}  // namespace

Action add_plan(CLI::App& app, CLI::App*& verb) {
  verb = app.add_subcommand("plan", "What will run, in what order, in how much memory? Without a device");
  verb->footer(
      "Example: periscena plan demo/lock.toml --size 1920x1080\n"
      "         periscena plan demo/lock.toml --svg -o lock.svg");
  const auto options = std::make_shared<PlanOptions>();
  options->add_to(*verb);
  CLI::Option* json = verb->get_option("--json");
  CLI::Option* dot = verb->add_flag("--dot", options->dot, "Answer as a graph in the DOT language");
  CLI::Option* svg =
      verb->add_flag("--svg", options->svg, "Answer as a chart of passes and the lives of targets, in SVG");
  dot->excludes(json);
  svg->excludes(json)->excludes(dot);
  verb->add_option("-o,--output", options->output, "Write the answer to this file instead");
  return [options] { return plan(*options); };
}

}  // namespace periscena::tool
