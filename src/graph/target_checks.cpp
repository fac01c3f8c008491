#include "graph/planner.h"

#include <fmt/format.h>

#include <algorithm>
#include <bit>
#include <cmath>
#include <limits>

namespace periscena {
namespace {

/// The numbers that one channel of an integer format holds.
std::array<double, 2> integer_range(Format format) {
  const FormatInfo& known = info(format);
  const double steps = std::ldexp(1.0, known.channel_bits());
  if (known.numbers == NumberKind::signed_integer) return {-steps / 2, steps / 2 - 1};
  return {0, steps - 1};
}

int whole_chain(int width, int height) {
  return static_cast<int>(std::bit_width(static_cast<unsigned>(std::max(width, height))));
}

}  // namespace

void Planner::check_target_values(std::uint32_t index) {
  const auto& target = graph_.targets_[index];
  const TargetDescription& said = target.description;
  const auto& clear = said.clear_color;
  if (!std::all_of(clear.begin(), clear.end(), [](float c) { return std::isfinite(c); })) {
    diagnostics_.error("not-finite", target.place, fmt::format("target \"{}\" clears to NaN or infinity", target.name),
                       "give finite numbers");
  } else if (info(said.format).integer()) {
    const auto [least, most] = integer_range(said.format);
    const bool fits = std::all_of(clear.begin(), clear.end(), [&, l = least, m = most](float c) {
      return c == std::floor(c) && static_cast<double>(c) >= l && static_cast<double>(c) <= m;
    });
    if (!fits) {
      diagnostics_.error("out-of-range", target.place,
                         fmt::format("target \"{}\" holds integers, and its clear colour does not", target.name),
                         fmt::format("give whole numbers from {:.0f} to {:.0f}", least, most));
    }
  }
  if (!(said.clear_depth >= 0 && said.clear_depth <= 1)) {
    diagnostics_.error("out-of-range", target.place,
                       fmt::format("target \"{}\" clears depth to {}", target.name, said.clear_depth),
                       "depth is 0 to 1; the far end is 0 in reversed depth, 1 in ordinary depth");
  }
  if (said.clear_stencil < 0 || said.clear_stencil > 255) {
    diagnostics_.error("out-of-range", target.place,
                       fmt::format("target \"{}\" clears stencil to {}", target.name, said.clear_stencil),
                       "stencil is 0 to 255");
  }
  if (said.samples < 0 || said.samples > 64) {
    diagnostics_.error("out-of-range", target.place,
                       fmt::format("target \"{}\" asks for {} samples", target.name, said.samples),
                       "choose 1 to 64; devices have 2, 4, 8, some 16 or more");
  }
}

void Planner::check_target_shape(std::uint32_t index) {
  const auto& target = graph_.targets_[index];
  const TargetDescription& said = target.description;
  ResolvedTarget& known = targets_[index];
  const auto refuse = [&](const char* slug, std::string cause, std::string mend) {
    diagnostics_.error(slug, target.place, fmt::format("target \"{}\" {}", target.name, cause), std::move(mend));
  };
  known.shape = said.shape == TargetShape::flat && said.layers > 1 ? TargetShape::array : said.shape;
  known.layers = known.shape == TargetShape::cube ? 6 : said.layers;
  if (said.layers < 1 || said.layers > limits_.layers) {
    refuse("bad-layers", fmt::format("has {} layers", said.layers), fmt::format("choose 1 to {}", limits_.layers));
    known.layers = 1;
  }
  if (known.shape == TargetShape::cube && said.layers > 1)
    refuse("bad-layers", "is a cube and has layers", "a cube has six faces; use one or the other");
  if (known.shape == TargetShape::cube && known.width != known.height) {
    refuse("cube-not-square", fmt::format("is a cube of {} x {} pixels", known.width, known.height),
           "the faces of a cube are squares: give it a size of its own, such as [256, 256]");
  }
  const int chain = whole_chain(known.width, known.height);
  known.levels = said.levels == 0 ? chain : said.levels;
  if (said.levels < 0 || said.levels > chain) {
    refuse("bad-levels", fmt::format("has {} mip levels", said.levels),
           fmt::format("{} x {} pixels have {} at most; 0 means all of them", known.width, known.height, chain));
    known.levels = 1;
  }
  const bool stencil_only = info(said.format).stencil && !info(said.format).depth;
  if (said.samples > 1 && (known.levels > 1 || known.shape == TargetShape::cube)) {
    refuse("samples-and-levels",
           fmt::format("has {} samples and {}", said.samples, known.levels > 1 ? "mip levels" : "faces"),
           "OpenGL has no such textures: draw into a multisampled target, and resolve it into a level or face");
  }
  if (stencil_only && (known.levels > 1 || known.layers > 1))
    refuse("bad-layers", "is a stencil with levels or layers", "use depth24_stencil8, or one level and one layer");
  if (said.origin == Origin::outside_framebuffer && (known.levels > 1 || known.layers > 1))
    refuse("bad-layers", "is a framebuffer with levels or layers", "adopt the texture instead");
}

void Planner::check_resolve_rule(std::uint32_t index) {
  const auto& target = graph_.targets_[index];
  const TargetDescription& said = target.description;
  const FormatInfo& format = info(said.format);
  const Holds what = said.meaning();
  if (said.resolve == ResolveRule::automatic) return;
  const bool averages = said.resolve == ResolveRule::average;
  if (averages && (format.integer() || format.stencil)) {
    diagnostics_.error(
        "average-of-integers", target.place,
        fmt::format("target \"{}\" of {} can't be resolved by average: the mean of two ids is a third", target.name,
                    format.name),
        "resolve = \"first_sample\", \"least\" or \"greatest\"; or draw the ids in a second pass at one sample");
  } else if (averages && (format.depth || what == Holds::depth || what == Holds::normal)) {
    diagnostics_.error("average-of-depth", target.place,
                       fmt::format("target \"{}\" holds {}, which can't be resolved by average: at an edge, the mean "
                                   "lies where nothing is",
                                   target.name, what == Holds::normal ? "normals" : "depth"),
                       "resolve = \"first_sample\", \"least\" or \"greatest\"");
  } else if (!averages && said.resolve != ResolveRule::first_sample && format.stencil && !format.depth) {
    diagnostics_.error(
        "stencil-rule", target.place,
        fmt::format("target \"{}\" is a stencil and can only be resolved by one of its samples", target.name),
        "resolve = \"first_sample\"");
  }
}

}  // namespace periscena
