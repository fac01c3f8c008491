#include "tool/verbs.h"

#include <periscena/inspect/report.h>

namespace periscena::tool {

Action add_device(CLI::App& app, CLI::App*& verb) {
  verb = app.add_subcommand(
      "device", "What can this machine do? Limits, formats, sample counts, and which path each feature takes");
  verb->footer("Example: periscena device --json");
  const auto json = std::make_shared<bool>(false);
  verb->add_flag("--json", *json, "Answer in JSON on standard output");
  return [json] {
    const gl::Device device = open_device();
    if (*json) {
      print_json_text(inspect::to_json(device.capabilities()));
    } else {
      print(inspect::to_text(device.capabilities()));
    }
    return done;
  };
}

}  // namespace periscena::tool
