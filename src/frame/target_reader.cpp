#include "frame/sections.h"

namespace periscena {
namespace {

struct TargetKeys {
  std::string format = "rgba16f";
  std::optional<std::array<int, 2>> size;
  std::optional<float> scale;
  std::optional<int> samples;
  int levels = 1, layers = 1;
  bool cube = false, lasts = false;
  Holds holds = Holds::automatic;
  ResolveRule resolve = ResolveRule::automatic;
  std::array<float, 4> clear_color{0, 0, 0, 0};
  float clear_depth = 0;
  int clear_stencil = 0;
};

const Keys<TargetKeys>& target_keys() {
  static const auto keys = [] {
    Keys<TargetKeys> k;
    k.key("format", &TargetKeys::format, {.choices = format_names()}, "What each pixel holds")
        .key("size", &TargetKeys::size, {.unit = "pixels", .minimum = 1}, "Width and height; without it, the frame's")
        .key("scale", &TargetKeys::scale, {.minimum = 0, .maximum = 16, .above_minimum = true},
             "Share of the frame's size, rounded up: 0.5 for half, 2 for twice; not together with size")
        .key("samples", &TargetKeys::samples, {.minimum = 1, .maximum = 64},
             "Samples a pixel; without it, as many as the other targets of the passes that write this one")
        .key("levels", &TargetKeys::levels, {.minimum = 0, .maximum = 16}, "Mip levels; 0 for all down to 1 x 1")
        .key("layers", &TargetKeys::layers, {.minimum = 1}, "Layers of an array; read through sampler2DArray")
        .key("cube", &TargetKeys::cube, {}, "Six square faces, read through samplerCube")
        .key("lasts", &TargetKeys::lasts, {},
             "It is wanted after the frame, for probes, captures and reads of your own, whether or not a pass reads it")
        .key("holds", &TargetKeys::holds, {},
             "What the numbers mean, for resolves and for looking at; automatic: color, or depth or id by the format")
        .key("resolve", &TargetKeys::resolve, {},
             "How samples become one value; automatic: average for color and data, first_sample for the others")
        .key("clear_color", &TargetKeys::clear_color, {},
             "Red, green, blue, alpha before the first pass draws into it, linear")
        .key("clear_depth", &TargetKeys::clear_depth, {.minimum = 0, .maximum = 1},
             "The same for depth: 0 is far in reversed depth, 1 in ordinary depth")
        .key("clear_stencil", &TargetKeys::clear_stencil, {.minimum = 0, .maximum = 255}, "The same for stencil");
    return k;
  }();
  return keys;
}

/// The inner table of [target.scene.color], where [target."scene.color"] was meant; null when there is none.
const ValueMember* unquoted(const Value& target) {
  for (const ValueMember& member : *target.table()) {
    if (member.value.table()) return &member;
  }
  return nullptr;
}

}  // namespace

void read_targets(const Value& root, FrameGraph& graph, Diagnostics& diagnostics) {
  for (const ValueMember* section : named_tables(root, "target", diagnostics)) {
    const std::string what = fmt::format("target \"{}\"", section->name);
    if (const ValueMember* inner = unquoted(section->value)) {
      const std::string name = section->name + "." + inner->name;
      diagnostics.error("unquoted-name", section->place,
                        fmt::format("this is target \"{}\" with a table \"{}\" in it", section->name, inner->name),
                        fmt::format("a name with a dot needs quotes: [target.\"{}\"]", name));
      graph.target(name, {}, section->place);
      continue;
    }
    TargetKeys given;
    target_keys().read(section->value, what, given, diagnostics);
    report_unknown_keys(section->value, what, target_keys().names(), diagnostics);
    TargetDescription description;
    parse_format(given.format, description.format);
    if (given.size && given.scale) {
      diagnostics.error("two-sizes", section->place, fmt::format("{} has both a size and a scale", what),
                        "keep one of them");
    }
    if (given.size) description.size = TargetSize::pixels((*given.size)[0], (*given.size)[1]);
    if (given.scale && !given.size) description.size = TargetSize::of_frame(*given.scale);
    // What was out of range has been told with its place; a size that works avoids telling it twice.
    if (given.size && ((*given.size)[0] < 1 || (*given.size)[1] < 1)) description.size = {};
    if (given.scale && !(*given.scale > 0 && *given.scale <= 16)) description.size = {};
    description.clear_color = given.clear_color;
    description.clear_depth = given.clear_depth;
    description.clear_stencil = given.clear_stencil;
    description.samples = given.samples.value_or(0);
    description.levels = given.levels;
    description.layers = given.layers;
    if (given.cube) description.shape = TargetShape::cube;
    description.holds = given.holds;
    description.resolve = given.resolve;
    const TargetHandle made = graph.target(section->name, description, section->place);
    if (given.lasts) graph.keep(made);
  }
}

SectionInfo target_section() {
  return {"[target.NAME]",
          "Something that passes draw into and read. \"output\" is the picture (rgba8_srgb) and is always there.",
          target_keys().infos(), "[target.\"scene.color\"]\nformat = \"rgba16f\"\nscale  = 2\n"};
}

}  // namespace periscena
