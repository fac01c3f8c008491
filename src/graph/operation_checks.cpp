#include "graph/planner.h"

#include <fmt/format.h>

#include <algorithm>

namespace periscena {
namespace {

std::string area_text(const PixelRect& area) {
  return fmt::format("[{}, {}, {}, {}]", area.x, area.y, area.width, area.height);
}

std::array<int, 2> level_size(const ResolvedTarget& target, int level) {
  const int down = std::clamp(level, 0, 30);
  return {std::max(1, target.width >> down), std::max(1, target.height >> down)};
}

}  // namespace

void Planner::check_operation(std::uint32_t p) {
  const Pass& declared = pass(p);
  const auto reads = reads_of(p), writes = writes_of(p);
  if (reads.size() != 1 || writes.size() != 1) {
    diagnostics_.error("operation-ends", declared.place,
                       fmt::format("{} has {} reads and {} writes", quoted(p), reads.size(), writes.size()),
                       "a copy, a resolve and mip levels have one of each");
    return;
  }
  const std::uint32_t from = reads[0], to = writes[0];
  if (from == none || to == none) return;
  const Write& write = declared.writes[0];
  const bool level_is_there =
      write.level == upper_levels || check_part(quoted(p), to, write.level, write.layer, place_of(write.target, p));
  if (!level_is_there) return;
  if (const auto* copy = std::get_if<CopyOperation>(&declared.operation)) check_copy(p, *copy, from, to);
  if (const auto* resolve = std::get_if<ResolveOperation>(&declared.operation)) check_resolve(p, *resolve, from, to);
  if (std::holds_alternative<LevelsOperation>(declared.operation)) check_levels(p, to);
}

bool Planner::check_area(std::uint32_t p, const PixelRect& area, std::uint32_t target, int level, const char* key) {
  if (area.whole()) return true;
  const auto [width, height] = level_size(targets_[target], level);
  const bool inside = area.x >= 0 && area.y >= 0 && area.width >= 1 && area.height >= 1 &&
                      area.x <= width - area.width && area.y <= height - area.height;
  if (!inside) {
    diagnostics_.error("area-outside", pass(p).place,
                       fmt::format("{} copies with {} = {}, but \"{}\" is {} x {} pixels", quoted(p), key,
                                   area_text(area), name(target), width, height),
                       "an area is [left, top, width, height] from the upper left, all of it inside");
  }
  return inside;
}

void Planner::check_copied_formats(std::uint32_t p, std::uint32_t from, std::uint32_t to, bool linear) {
  const FormatInfo &source = info(description(from).format), &sink = info(description(to).format);
  const bool alike = source.color() ? sink.color() && value_kind(source.format) == value_kind(sink.format)
                                    : source.format == sink.format;
  if (!alike) {
    diagnostics_.error(
        "copy-formats", pass(p).place,
        fmt::format("{} copies \"{}\" of {} to \"{}\" of {}", quoted(p), name(from), source.name, name(to), sink.name),
        "floats go to floats, signed to signed, unsigned to unsigned, and depth to the same depth format");
  }
  if (linear && (!source.color() || source.integer())) {
    diagnostics_.error("copy-filter", pass(p).place,
                       fmt::format("{} filters \"{}\" of {} linearly", quoted(p), name(from), source.name),
                       "depth, stencil and integers are copied by the nearest pixel: filter = \"nearest\"");
  }
}

void Planner::check_copy(std::uint32_t p, const CopyOperation& copy, std::uint32_t from, std::uint32_t to) {
  const Read& read = pass(p).reads[0];
  const Write& write = pass(p).writes[0];
  check_copied_formats(p, from, to, copy.linear);
  const int from_level = std::max(0, read.level), to_level = std::max(0, write.level);
  const bool inside = check_area(p, copy.from, from, from_level, "from_area");
  if (!check_area(p, copy.to, to, to_level, "to_area") || !inside) return;
  if (targets_[from].samples != targets_[to].samples && targets_[to].samples > 1) {
    diagnostics_.error("copy-samples", pass(p).place,
                       fmt::format("{} copies \"{}\" of {} to \"{}\" of {} samples", quoted(p), name(from),
                                   targets_[from].samples, name(to), targets_[to].samples),
                       "samples can be copied to as many, or resolved to one");
  }
  const bool one_layer_each = (read.layer != all_layers || targets_[from].layers == 1) &&
                              (write.layer != all_layers || targets_[to].layers == 1);
  if (!one_layer_each && targets_[from].layers != targets_[to].layers) {
    diagnostics_.error("copy-layers", pass(p).place,
                       fmt::format("{} copies \"{}\" of {} to \"{}\" of {} layers", quoted(p), name(from),
                                   targets_[from].layers, name(to), targets_[to].layers),
                       "copy one layer: { target = \"…\", layer = 0 }");
  }
}

void Planner::check_resolve(std::uint32_t p, const ResolveOperation& resolve, std::uint32_t from, std::uint32_t to) {
  const FormatInfo& source = info(description(from).format);
  const ResolvedTarget &a = targets_[from], &b = targets_[to];
  const bool averages = resolve.rule == ResolveRule::average;
  if (averages && (!source.color() || source.integer() || description(from).meaning() == Holds::normal)) {
    diagnostics_.error(source.integer() ? "average-of-integers" : "average-of-depth", pass(p).place,
                       fmt::format("{} resolves \"{}\" of {} by average", quoted(p), name(from), source.name),
                       "choose by = \"first_sample\", \"least\" or \"greatest\"");
  }
  if (description(from).format != description(to).format) {
    diagnostics_.error("copy-formats", pass(p).place,
                       fmt::format("{} resolves \"{}\" of {} into \"{}\" of {}", quoted(p), name(from), source.name,
                                   name(to), to_string(description(to).format)),
                       "both must have one format");
  }
  const auto size = level_size(b, pass(p).writes[0].level);
  if (a.width != size[0] || a.height != size[1] || b.samples > 1) {
    diagnostics_.error(
        "size-mismatch", pass(p).place,
        fmt::format("{} resolves \"{}\" of {} x {} into \"{}\" of {} x {} pixels, {} sample{}", quoted(p), name(from),
                    a.width, a.height, name(to), size[0], size[1], b.samples, b.samples == 1 ? "" : "s"),
        "the result has the same size and one sample a pixel");
  }
}

void Planner::check_levels(std::uint32_t p, std::uint32_t target) {
  const FormatInfo& format = info(description(target).format);
  if (targets_[target].levels == 1) {
    diagnostics_.error("no-such-level", pass(p).place,
                       fmt::format("{} makes the mip levels of \"{}\", which has one", quoted(p), name(target)),
                       "give the target levels = 0, for the whole chain");
  }
  if (!format.color() || format.integer()) {
    diagnostics_.error(
        "copy-filter", pass(p).place,
        fmt::format("{} makes mip levels of \"{}\" of {}", quoted(p), name(target), format.name),
        "OpenGL averages four pixels into one, which means nothing here: write the levels with passes of "
        "your own");
  }
}

}  // namespace periscena
