#include "tool/verbs.h"

#include <periscena/base/file.h>
#include <periscena/inspect/report.h>

namespace periscena::tool {

namespace {

struct PlanOptions : FrameOptions {
  bool dot = false, svg = false, batches = false;
  double time = 0;
  std::string output;
};

int put(const PlanOptions& options, const std::string& text) {
  if (!options.output.empty()) {
    write_output(text, options.output);
  } else if (options.json) {
    print_json_text(text);
  } else {
    print(text);
  }
  return done;
}

/// Runs the frame once: what is drawn in which calls depends on what is in view, and on the device.
int list_batches(const PlanOptions& options) {
  Diagnostics wrong;
  const std::optional<RunningFrame> running = start(options, wrong);
  if (!running) return fail_with(wrong, options.json);
  const inspect::Moment moment = running->moment(options.time);
  running->runner->run_settled(moment.seconds, moment.history_steps, moment.history_rate);
  return put(options, options.json ? inspect::batches_json(*running->runner) : inspect::batches_text(*running->runner));
}

int plan(const PlanOptions& options) {
  if (!options.output.empty()) expect_writable(options.output);
  if (options.batches) return list_batches(options);
  const PlanResult result = options.read(Contents::outlines).plan();
  if (!result.ok()) return fail_with(result.diagnostics(), options.json);
  const FramePlan& planned = result.value();
  const std::string text = options.json  ? inspect::to_json(planned, result.diagnostics())
                           : options.dot ? inspect::to_dot(planned)
                           : options.svg ? inspect::to_svg(planned)
                                         : inspect::to_text(planned);
  if (!options.json) print_diagnostics(result.diagnostics());
  return put(options, text);
}

}  // namespace

Action add_plan(CLI::App& app, CLI::App*& verb) {
  verb = app.add_subcommand("plan",
                            "What will run, in what order, in how much memory? Without a device, but for --batches");
  verb->footer(
      "Example: periscena plan demo/lock.toml --size 1920x1080\n"
      "         periscena plan demo/lock.toml --svg -o lock.svg\n"
      "         periscena plan demo/lock.toml --batches --time 12");
  const auto options = std::make_shared<PlanOptions>();
  options->add_to(*verb);
  CLI::Option* json = verb->get_option("--json");
  CLI::Option* dot = verb->add_flag("--dot", options->dot, "Answer as a graph in the DOT language");
  CLI::Option* svg =
      verb->add_flag("--svg", options->svg, "Answer as a chart of passes and the lives of targets, in SVG");
  CLI::Option* batches = verb->add_flag(
      "--batches", options->batches, "List what is drawn in which call at --time, and why neighbours are not one call");
  add_time(*verb, options->time);
  batches->excludes(dot)->excludes(svg);
  dot->excludes(json);
  svg->excludes(json)->excludes(dot);
  verb->add_option("-o,--output", options->output, "Write the answer to this file instead");
  return [options] { return plan(*options); };
}

}  // namespace periscena::tool
