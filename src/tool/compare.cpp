#include "tool/verbs.h"

#include <periscena/base/error.h>
#include <periscena/base/file.h>
#include <periscena/image/files.h>
#include <periscena/inspect/comparison.h>
#include <periscena/inspect/variation.h>

#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include <cmath>
#include <filesystem>

namespace periscena::tool {
namespace {

using Json = nlohmann::ordered_json;

struct CompareOptions {
  std::string a, b, heat, size;
  double time = 0;
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

/// @param more  that is told besides: text or JSON
int compare_images(const CompareOptions& options, const Image& a, const Image& b, const std::string& more = {}) {
  const PictureDifference numbers = compare(a, b);
  const bool same = options.measure(numbers) <= options.tolerance;
  if (!options.heat.empty()) {
    const double most = std::isfinite(numbers.greatest) && numbers.greatest > 0 ? numbers.greatest : 1;
    write_picture(difference_heat(a, b, most), options.heat);
  }
  if (options.json) {
    Json json = numbers_json(numbers);
    json["same"] = same;
    if (!more.empty()) json["frames"] = Json::parse(more)["variations"];
    print_json(json);
  } else {
    print(inspect::to_text(numbers) + "\n" + (more.empty() ? "" : "\n") + more);
  }
  return same ? done : found_wanting;
}

/// Renders both, measures them, and compares their pictures.
int compare_frames(const CompareOptions& options) {
  inspect::VariationOptions measuring;
  measuring.seconds = options.time;
  std::vector<FrameFile> files;
  for (const std::string& path : {options.a, options.b}) {
    FrameFileOptions read;
    read.size = parse_size(options.size);
    files.push_back(read_frame_file(path, read));
  }
  gl::Device device = open_device();
  const inspect::Variations found = inspect::vary_frames(device, files, measuring);
  return compare_images(options, found.all[0].picture, found.all[1].picture,
                        options.json ? inspect::to_json(found) : inspect::to_text(found));
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
  if (!options.heat.empty() && found.heat.width() > 0) write_picture(found.heat, options.heat);
  if (options.json) {
    print_json({{"same", over == 0}, {"compared", found.compared}, {"differences", list}});
  } else {
    print(text + fmt::format("{}{} of {} targets differ\n", over ? "\n" : "", over, found.compared));
  }
  return over == 0 ? done : found_wanting;
}

bool is_frame(const std::string& path) {
  return std::filesystem::path(path).extension() == ".toml";
}

int run(const CompareOptions& options) {
  const bool folder_a = std::filesystem::is_directory(options.a), folder_b = std::filesystem::is_directory(options.b);
  const auto kind_of = [](bool folder, const std::string& path) {
    return folder ? "folder" : is_frame(path) ? "frame file" : "picture";
  };
  for (const std::string& path : {options.a, options.b}) {
    if (!file_identity(path)) read_bytes(path);  // refuses, with what may have been meant
  }
  const std::string kind_a = kind_of(folder_a, options.a), kind_b = kind_of(folder_b, options.b);
  if (kind_a != kind_b) {
    throw WrongUsage("unlike-things",
                     fmt::format("\"{}\" is a {}, \"{}\" is a {}", options.a, kind_a, options.b, kind_b),
                     "compare two pictures, two captures or two frames");
  }
  if (!options.heat.empty()) expect_writable(options.heat);
  if (folder_a) return compare_folders(options);
  if (is_frame(options.a)) return compare_frames(options);
  return compare_images(options, read_image(options.a), read_image(options.b));
}

}  // namespace

Action add_compare(CLI::App& app, CLI::App*& verb) {
  verb = app.add_subcommand(
      "compare", "Do two pictures, captures or frames differ; in which pass first, where, how much, at what cost?");
  verb->footer(
      "Example: periscena compare before.png after.png --tolerance 0.01 --heat heat.png\n"
      "         periscena compare before.capture after.capture\n"
      "         periscena compare before.toml after.toml --time 2.5 --heat heat.png\n"
      "Of frames, cost and shadows are measured as by vary.\n"
      "Differences of 8-bit pictures are shares of full scale (0..1), of others as they are. Exit code 1 above "
      "--tolerance.");
  const auto options = std::make_shared<CompareOptions>();
  verb->add_option("A", options->a, "A picture (PNG, OpenEXR), the folder of a capture, or a frame file")->required();
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
  add_size(*verb, options->size);
  add_time(*verb, options->time);
  verb->add_flag("--json", options->json, "Answer in JSON on standard output");
  return [options] { return run(*options); };
}

}  // namespace periscena::tool
