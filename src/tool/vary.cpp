#include "tool/verbs.h"

#include <periscena/base/file.h>
#include <periscena/image/files.h>
#include <periscena/inspect/variation.h>

#include <fmt/format.h>

#include <charconv>

namespace periscena::tool {
namespace {

struct VaryOptions : MomentOptions {
  std::string output, reference, part;
  inspect::VariationOptions variation;
  int width = 1280;
};

/// "X,Y,WIDTH,HEIGHT".
std::optional<PixelRect> parse_part(const std::string& text) {
  int numbers[4];
  const char *at = text.data(), *end = at + text.size();
  for (int i = 0; i < 4; ++i) {
    const auto result = std::from_chars(at, end, numbers[i]);
    if (result.ec != std::errc() || (i < 3 ? result.ptr == end || *result.ptr != ',' : result.ptr != end))
      return std::nullopt;
    at = result.ptr + 1;
  }
  return PixelRect{numbers[0], numbers[1], numbers[2], numbers[3]};
}

int vary(const VaryOptions& options) {
  if (!options.output.empty()) expect_writable(options.output);
  inspect::VariationOptions variation = options.variation;
  variation.seconds = options.time;
  variation.size = options.picture_size();
  std::size_t count = 1;
  for (const std::string& text : options.overrides) {
    variation.keys.push_back(inspect::VariedKey::parse(text));
    count *= variation.keys.back().values.size();
  }
  if (!options.reference.empty()) variation.reference = read_image(options.reference);
  gl::Device device = open_device();
  inspect::Variations found;
  {
    Progress progress("setting", count);
    found = inspect::vary(device, options.file, variation, [&](const inspect::Variation&) { progress.step(); });
  }
  if (!options.output.empty()) {
    inspect::VariationPictureOptions picture;
    picture.width = options.width;
    if (!options.part.empty()) picture.part = *parse_part(options.part);
    write_picture(inspect::make_picture(found, picture), options.output);
  }
  if (options.json) {
    print_json_text(inspect::to_json(found));
  } else {
    print(inspect::to_text(found));
  }
  return done;
}

}  // namespace

Action add_vary(CLI::App& app, CLI::App*& verb) {
  verb =
      app.add_subcommand("vary", "Which setting is best? A frame with each of several values: pictures, cost, errors");
  verb->footer(
      "Example: periscena vary demo/lock.toml --set 'target.sun.depth.size=[512,512],[1024,1024],[2048,2048]' \\\n"
      "             --set 'pass.sun shadow.radius=1,2,4' -o vary.png --part 500,300,320,180\n"
      "Shadows are measured by rays, at every 4th pixel: leaks are lit and should be dark, stripes are dark and should "
      "be lit, "
      "both in percent of points away from edges; detachment is how far light gets under what casts; jaggedness how "
      "far edges "
      "are from those that a light of that size makes.\n"
      "rmse is how far all pixels are from the reference, edges those at its edges alone; of several frames, their "
      "mean.\n"
      "Time is the median of --rounds frames in which everything is drawn anew.");
  const auto options = std::make_shared<VaryOptions>();
  options->add_to(*verb);
  verb->get_option("--set")->description(
      "A key and its values: SECTION.NAME.KEY=VALUE,VALUE,… ; several make all combinations, 64 at most");
  verb->add_option("-o,--output", options->output, "Write the pictures side by side as a PNG, the best one framed");
  verb->add_option("--width", options->width, "Of that PNG, pixels")
      ->capture_default_str()
      ->check(CLI::Range(320, 16384));
  verb->add_option("--part", options->part,
                   "Show this part of the pictures: X,Y,WIDTH,HEIGHT, pixels from the upper left")
      ->check([](const std::string& text) {
        return parse_part(text) ? std::string() : fmt::format("\"{}\" is no part; write X,Y,WIDTH,HEIGHT", text);
      });
  verb->add_option("--by", options->variation.by,
                   "The measure that decides, the least wins: time, memory, leaks, stripes, detachment, jaggedness, "
                   "rmse, edges or flicker");
  verb->add_option("--reference", options->reference,
                   "A picture of the frame's size: rmse is how far pictures are from it");
  verb->add_option(
      "--reference-set", options->variation.reference_overrides,
      "Instead of a picture: compare each setting with the same frame with KEY=VALUE besides; may be given again");
  verb->add_option("--moving", options->variation.moving,
                   "Measure so many frames after the first, too, at the file's history_rate: flicker is what changes "
                   "and should not")
      ->capture_default_str()
      ->check(CLI::Range(0, 1000));
  verb->add_option("--light", options->variation.shadows.lights,
                   "Measure the shadows of this light, may be given again; left out, the first of each shadow map");
  verb->add_option("--step", options->variation.shadows.step, "Pixels from one that is measured to the next")
      ->capture_default_str()
      ->check(CLI::Range(1, 1024));
  verb->add_option("--rounds", options->variation.rounds, "Frames that time is the median of")
      ->capture_default_str()
      ->check(CLI::Range(1, 1000));
  return [options] { return vary(*options); };
}

}  // namespace periscena::tool
