#include "tool/verbs.h"

#include <periscena/base/file.h>
#include <periscena/base/names.h>
#include <periscena/base/utf8.h>
#include <periscena/image/files.h>
#include <periscena/scene/sprite_sheet.h>

#include <fmt/format.h>
#include <nlohmann/json.hpp>

namespace periscena::tool {
namespace {

struct PackOptions {
  std::vector<std::string> pictures;
  std::string output;
  bool json = false;
};

int pack(const PackOptions& options) {
  expect_writable(options.output);
  std::vector<LoosePicture> pictures;
  for (const std::string& path : options.pictures)
    pictures.push_back({std::filesystem::path(path).stem().string(), read_png(path)});
  const std::filesystem::path output = options.output;
  expect_no_input(options.output);
  expect_no_input(sheet_picture_path(output).string());
  const SpriteSheet sheet = pack_sheet(output.stem().string(), pictures, Place::file(options.output));
  write_sheet(sheet, output);
  if (options.json) {
    const nlohmann::ordered_json answer{{"file", options.output},
                                        {"cells", sheet.cells.size()},
                                        {"width", sheet.image->width()},
                                        {"height", sheet.image->height()}};
    print_json(answer);
  } else {
    print(fmt::format("{}: {} on {} x {} pixels\n", printable(options.output), counted(sheet.cells.size(), "cell"),
                      sheet.image->width(), sheet.image->height()));
  }
  return done;
}

}  // namespace

Action add_pack(CLI::App& app, CLI::App*& verb) {
  verb =
      app.add_subcommand("pack", "Loose PNGs become one sheet of sprites: a PNG, and a JSON that says where each is");
  verb->footer("Example: periscena pack up.png level.png down.png -o dragonfly.json");
  const auto options = std::make_shared<PackOptions>();
  verb->add_option("PICTURES", options->pictures, "PNGs; each becomes a cell of its file's name")->required();
  verb->add_option("-o,--output", options->output, "The JSON to write; the sheet's PNG goes beside it")
      ->required()
      ->check([](const std::string& text) {
        return std::filesystem::path(text).extension() == ".json" ? std::string()
                                                                  : fmt::format("\"{}\" does not end in .json", text);
      });
  verb->add_flag("--json", options->json, "Answer in JSON on standard output");
  return [options] { return pack(*options); };
}

}  // namespace periscena::tool
