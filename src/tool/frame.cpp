#include "tool/verbs.h"

#include <periscena/base/utf8.h>
#include <periscena/frame/model_frame.h>
#include <periscena/inspect/report.h>
#include <periscena/model/model.h>

#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include <filesystem>

namespace periscena::tool {
namespace {

struct FrameVerbOptions {
  std::string model, output;
  bool json = false;
};

int write_frame(const FrameVerbOptions& options) {
  namespace fs = std::filesystem;
  const fs::path model = options.model, output = options.output;
  PictureReader pictures(Pixels::left_out);
  const Import import = read_model(model, &pictures);
  Diagnostics found = import.notes;
  found.append(check_size(import.scene, model.filename().string(), Place::file(options.model)));
  fs::path from_output = model;
  if (!options.output.empty()) from_output = fs::absolute(model).lexically_relative(fs::absolute(output).parent_path());
  const std::string picture = (output.empty() ? model : output).stem().string() + ".png";
  const std::string name = output.empty() ? "FRAME.toml" : output.filename().string();
  const std::string text =
      frame_around(import.scene, from_output, fmt::format("periscena render {} -o {}", name, picture));
  if (options.output.empty()) {
    if (options.json)
      print_json({{"frame", text}, {"diagnostics", nlohmann::ordered_json::parse(inspect::to_json(found))}});
    else
      print(text);
  } else {
    write_output(text, options.output);
    if (options.json)
      print_json({{"file", options.output}, {"diagnostics", nlohmann::ordered_json::parse(inspect::to_json(found))}});
    else
      print(fmt::format("{}: a frame around {}\n", printable(options.output), printable(options.model)));
  }
  if (!options.json) print_diagnostics(found);
  return done;
}

}  // namespace

Action add_frame(CLI::App& app, CLI::App*& verb) {
  verb = app.add_subcommand("frame", "A frame around a model, as a short frame file to edit further");
  verb->footer(
      "Example: periscena frame demo/generated/narrowboat.glb -o boat.toml\n"
      "         periscena render boat.toml -o boat.png");
  const auto options = std::make_shared<FrameVerbOptions>();
  verb->add_option("MODEL", options->model, "A model: .glb, .gltf or .obj")->required();
  verb->add_option("-o,--output", options->output, "The frame file to write; left out, standard output")
      ->check([](const std::string& text) {
        return std::filesystem::path(text).extension() == ".toml" ? std::string()
                                                                  : fmt::format("\"{}\" does not end in .toml", text);
      });
  verb->add_flag("--json", options->json, "Answer in JSON on standard output");
  return [options] { return write_frame(*options); };
}

}  // namespace periscena::tool
