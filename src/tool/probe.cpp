#include "tool/verbs.h"

#include <periscena/inspect/probe.h>

#include <fmt/format.h>

#include <charconv>

namespace periscena::tool {
namespace {

struct ProbeOptions : MomentOptions {
  std::string pixel, region;
};

/// "12,34" or "12,34,5,6". @return nothing when it is not `count` whole numbers
std::optional<std::vector<int>> parse_numbers(const std::string& text, std::size_t count) {
  std::vector<int> numbers;
  const char* at = text.data();
  const char* const end = text.data() + text.size();
  for (;;) {
    int number = 0;
    const auto result = std::from_chars(at, end, number);
    if (result.ec != std::errc()) return std::nullopt;
    numbers.push_back(number);
    at = result.ptr;
    if (at == end) break;
    if (*at++ != ',') return std::nullopt;
  }
  if (numbers.size() != count) return std::nullopt;
  return numbers;
}

PixelRect place_of(const ProbeOptions& options) {
  const auto numbers =
      options.region.empty() ? parse_numbers(options.pixel + ",1,1", 4) : parse_numbers(options.region, 4);
  return {(*numbers)[0], (*numbers)[1], (*numbers)[2], (*numbers)[3]};
}

int run(const ProbeOptions& options) {
  const PixelRect place = place_of(options);
  Diagnostics wrong;
  const std::optional<RunningFrame> running = start(options, wrong, true);
  if (!running) return fail_with(wrong, options.json);
  const auto entries = inspect::probe(*running->runner, running->moment(options.time), place);
  if (options.json) {
    print_json_text(inspect::to_json(entries));
    return done;
  }
  const int width = running->file.width, height = running->file.height;
  print(options.region.empty()
            ? fmt::format("pixel {},{} of {} x {} at {} s\n\n", place.x, place.y, width, height, options.time)
            : fmt::format("{} x {} pixels from {},{} of {} x {} at {} s\n\n", place.width, place.height, place.x,
                          place.y, width, height, options.time));
  print(to_text(entries));
  return done;
}

}  // namespace

Action add_probe(CLI::App& app, CLI::App*& verb) {
  verb = app.add_subcommand("probe", "What is at this pixel, in every target, pass by pass?");
  verb->footer(
      "Example: periscena probe demo/lock.toml --pixel 640,360 --time 12\n"
      "         periscena probe demo/lock.toml --region 600,340,64,32 --json");
  const auto options = std::make_shared<ProbeOptions>();
  options->add_to(*verb);
  CLI::Option* pixel = verb->add_option("--pixel", options->pixel, "X,Y of the picture, from the upper left")
                           ->check([](const std::string& text) {
                             return parse_numbers(text, 2)
                                        ? std::string()
                                        : fmt::format("\"{}\" is no pixel; write X,Y, such as 640,360", text);
                           });
  CLI::Option* region =
      verb->add_option("--region", options->region, "X,Y,WIDTH,HEIGHT: least, most and mean instead")
          ->check([](const std::string& text) {
            return parse_numbers(text, 4)
                       ? std::string()
                       : fmt::format("\"{}\" is no region; write X,Y,WIDTH,HEIGHT, such as 600,340,64,32", text);
          });
  region->excludes(pixel);
  return [options] {
    if (options->pixel.empty() && options->region.empty())
      throw CLI::ValidationError("--pixel", "say where: --pixel X,Y or --region X,Y,WIDTH,HEIGHT");
    return run(*options);
  };
}

}  // namespace periscena::tool
