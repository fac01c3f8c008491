#include "tool/verbs.h"

#include <periscena/base/error.h>
#include <periscena/base/file.h>
#include <periscena/image/files.h>
#include <periscena/inspect/comparison.h>

#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include <cmath>
#include <filesystem>

namespace periscena::tool {
namespace {

using Json = nlohmann::ordered_json;

struct CompareOptions {
  std::string a, b, heat;
  double tolerance = 0;
  std::string by = "greatest";
  bool json = false;

  double measure(const PictureDifference& numbers) const { return by == "rmse" ? numbers.rmse : numbers.greatest; }
};

Json number_json(double value) {
  return std::isfinite(value) ? Json(value) : Json("infinity");
}

Json numbers_json(const PictureDifference& numbers) {
  return {{"rmse", number_json(numbers.rmse)},
          {"psnr", number_json(numbers.psnr)},
          {"ssim", numbers.ssim},
          {"greatest", number_json(numbers.greatest)},
          {"x", numbers.x},
          {"y", numbers.y},
          {"channel", numbers.channel},
          {"pixels", numbers.pixels}};
}

void print_json(const Json& json) {
  print(json.dump(2, ' ', false, Json::error_handler_t::replace) + "\n");
}

int compare_pictures(const CompareOptions& options) {
  const Image a = read_image(options.a), b = read_image(options.b);
  const PictureDifference numbers = compare(a, b);
  const bool same = options.measure(numbers) <= options.tolerance;
  if (!options.heat.empty()) {
    const double most = std::isfinite(numbers.greatest) && numbers.greatest > 0 ? numbers.greatest : 1;
    write_png(difference_heat(a, b, most), options.heat);
  }
  if (options.json) {
    Json json = numbers_json(numbers);
    json["same"] = same;
    print_json(json);
  } else {
    print(inspect::to_text(numbers) + "\n");
  }
  return same ? done : found_wanting;
}

int compare_folders(const CompareOptions& options) {
  const inspect::CaptureComparison found = inspect::compare_captures(options.a, options.b);
  Json list = Json::array();
  std::string text;
  std::size_t over = 0;
  for (const inspect::CaptureDifference& one : found.differences) {
    const bool counts = !one.what.empty() || options.measure(one.numbers) > options.tolerance;
    if (!counts) continue;
    if (over++ == 0) text += fmt::format("first differ in target \"{}\" after pass \"{}\"\n\n", one.target, one.pass);
    text +=
        fmt::format("{} / {}: {}\n", one.pass, one.target, one.what.empty() ? inspect::to_text(one.numbers) : one.what);
    Json json{{"pass", one.pass}, {"target", one.target}};
    if (one.what.empty()) json["numbers"] = numbers_json(one.numbers);
    if (!one.what.empty()) json["what"] = one.what;
    list.push_back(json);
  }
  if (!options.heat.empty() && found.heat.width() > 0) write_png(found.heat, options.heat);
  if (options.json) {
    print_json({{"same", over == 0}, {"compared", found.compared}, {"differences", list}});
  } else {
    print(text + fmt::format("{}{} of {} targets differ\n", over ? "\n" : "", over, found.compared));
  }
  return over == 0 ? done : found_wanting;
}

int run(const CompareOptions& options) {
  const bool folder_a = std::filesystem::is_directory(options.a), folder_b = std::filesystem::is_directory(options.b);
  if (folder_a != folder_b) {
    fail("unlike-things", {},
         fmt::format("\"{}\" is a {}, \"{}\" is a {}", options.a, folder_a ? "folder" : "file", options.b,
                     folder_b ? "folder" : "file"),
         "compare two pictures, or two captures");
  }
  if (!options.heat.empty()) expect_writable(options.heat);
  return folder_a ? compare_folders(options) : compare_pictures(options);
}

}  // namespace

Action add_compare(CLI::App& app, CLI::App*& verb) {
  verb =
      app.add_subcommand("compare", "Do two pictures, or two captures, differ; in which pass first, where, how much?");
  verb->footer(
      "Example: periscena compare before.png after.png --tolerance 0.01 --heat heat.png\n"
      "         periscena compare before.capture after.capture\n"
      "Differences of 8-bit pictures are shares of full scale (0..1), of others as they are. Exit code 1 above "
      "--tolerance.");
  const auto options = std::make_shared<CompareOptions>();
  verb->add_option("A", options->a, "A picture (PNG, OpenEXR) or the folder of a capture")->required();
  verb->add_option("B", options->b, "The other one")->required();
  verb->add_option("--tolerance", options->tolerance, "The largest difference that passes")
      ->capture_default_str()
      ->check([](const std::string& text) {
        const auto number = parse_finite(text);
        return number && *number >= 0 ? std::string() : fmt::format("\"{}\" is no finite number of 0 or more", text);
      });
  verb->add_option("--by", options->by, "What --tolerance is compared with: the greatest difference, or the rmse")
      ->capture_default_str()
      ->check(CLI::IsMember({"greatest", "rmse"}));
  verb->add_option("--heat", options->heat, "Write where they differ as a PNG; of captures, where they first do");
  verb->add_flag("--json", options->json, "Answer in JSON on standard output");
  return [options] { return run(*options); };
}

}  // namespace periscena::tool
