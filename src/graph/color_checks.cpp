#include "graph/planner.h"

#include <fmt/format.h>

#include <algorithm>

namespace periscena {
namespace {

bool is_for_looking_at(const FormatInfo& format) {
  return format.color() && !format.integer() && format.channels >= 3;
}

/// Does it keep what programs write, in few enough steps that light would be made for the eye first?
bool is_plain_picture(Format format) {
  return format == Format::rgba8 || format == Format::rgb10a2;
}

}  // namespace

/// Follows colours from pass to pass, in the order in which they run.
void Planner::check_colors() {
  codings_.assign(targets_.size(), {});
  ranges_.assign(targets_.size(), {});
  for (const std::uint32_t p : order_) {
    if (!needed_[p]) continue;
    check_coding_of(p);
    check_range_of(p);
  }
  for (std::uint32_t t = 0; t < targets_.size(); ++t) {
    const bool shown = t == 0 || description(t).origin == Origin::outside_framebuffer;
    if (!shown || codings_[t].coding != ColorCoding::light || !is_plain_picture(description(t).format)) continue;
    diagnostics_.warning(
        "never-encoded", pass(codings_[t].pass).place,
        fmt::format("{} writes light into \"{}\", which is {}, and nothing encodes it to sRGB: the picture comes out "
                    "too dark",
                    quoted(codings_[t].pass), name(t), to_string(description(t).format)),
        "give the target the format rgba8_srgb");
  }
}

/// The target that says most of what a pass gets: one that was encoded, else one of light, else none.
std::uint32_t Planner::telling_read(std::uint32_t p) const {
  std::uint32_t telling = none;
  const auto reads = reads_of(p);
  for (std::size_t i = 0; i < reads.size(); ++i) {
    if (reads[i] == none || pass(p).reads[i].history > 0) continue;
    if (codings_[reads[i]].coding == ColorCoding::encoded) return reads[i];
    if (codings_[reads[i]].coding == ColorCoding::light) telling = reads[i];
  }
  return telling;
}

void Planner::check_coding_of(std::uint32_t p) {
  const Pass& declared = pass(p);
  const std::uint32_t read_target = telling_read(p);
  const TargetCoding read = read_target == none ? TargetCoding() : codings_[read_target];
  const Place* encodes = declared.shader && declared.shader->encodes ? &*declared.shader->encodes : nullptr;
  const bool decodes = declared.shader && declared.shader->decodes;
  const bool reads_encoded = read.coding == ColorCoding::encoded && !decodes;
  const auto color_writes = std::count_if(declared.writes.begin(), declared.writes.end(),
                                          [](const Write& write) { return is_color_slot(write.slot); });
  const auto targets = writes_of(p);
  for (std::size_t i = 0; i < targets.size(); ++i) {
    const Write& write = declared.writes[i];
    if (targets[i] == none || !is_color_slot(write.slot)) continue;
    const FormatInfo& format = info(description(targets[i]).format);
    if (!is_for_looking_at(format)) continue;
    const bool by_hardware = format.numbers == NumberKind::srgb;
    TargetCoding made = decodes && read.coding == ColorCoding::encoded ? TargetCoding{ColorCoding::light, p, {}} : read;
    if (write.coding == ColorCoding::light) {
      if (reads_encoded) warn_encoded_light(p, read, read_target);
      made = {ColorCoding::light, p, {}};
    } else if (encodes && color_writes == 1) {
      if (by_hardware) {
        diagnostics_.warning("encoded-twice", *encodes,
                             fmt::format("\"{}\" encodes to sRGB here, and \"{}\", which {} writes, is {} and encodes "
                                         "again: the picture comes out washed out",
                                         declared.shader->source, name(targets[i]), quoted(p), format.name),
                             "write light as it is, and let the target encode it");
      } else if (reads_encoded) {
        diagnostics_.warning("encoded-twice", *encodes,
                             fmt::format("\"{}\" encodes to sRGB here, but \"{}\", which {} reads, was encoded "
                                         "already by {}",
                                         declared.shader->source, name(read_target), quoted(p), read.by(*this)),
                             "encode once, in the last pass");
      }
      made = {ColorCoding::encoded, p, *encodes};
    } else if (reads_encoded && by_hardware) {
      diagnostics_.warning(
          "encoded-twice", place_of(write.target, p),
          fmt::format("{} reads \"{}\", which was encoded to sRGB by {}, and writes \"{}\", which is {} and encodes "
                      "again: the picture comes out washed out",
                      quoted(p), name(read_target), read.by(*this), name(targets[i]), format.name),
          fmt::format("let no program encode, and give \"{}\" the format rgba8_srgb, which decodes as it is read",
                      name(read_target)));
    }
    if (by_hardware) made = {ColorCoding::light, p, {}};  // as whoever reads it gets it
    if (made.coding != ColorCoding::unknown) codings_[targets[i]] = made;
  }
}

/// Light of the scene is bent into a screen's range once, after what wants it as it is, and before what wants 0..1.
void Planner::check_range_of(std::uint32_t p) {
  const Pass& declared = pass(p);
  const auto reads = reads_of(p);
  TargetRange read;
  for (std::size_t i = 0; i < reads.size() && read.range == LightRange::unknown; ++i) {
    if (reads[i] == none || declared.reads[i].history > 0) continue;
    read = ranges_[reads[i]];
    if (read.range == LightRange::unknown) continue;
    const Place& place = place_of(declared.reads[i].target, p);
    const bool too_late = declared.takes == LightRange::scene && read.range == LightRange::screen;
    if (too_late && declared.makes == LightRange::screen) {
      diagnostics_.warning(
          "toned-twice", place,
          fmt::format("{} bends light into the range of a screen, but {} has done so to \"{}\" already", quoted(p),
                      quoted(read.pass), name(reads[i])),
          "tone map once, after all that takes light as bright as it is in the scene");
    } else if (too_late) {
      diagnostics_.warning(
          "toned-before", place,
          fmt::format(
              "{} takes light as bright as it is in the scene, but {} has bent \"{}\" into the range of a screen",
              quoted(p), quoted(read.pass), name(reads[i])),
          fmt::format("let it read what {} reads", quoted(read.pass)));
    }
    if (declared.takes == LightRange::screen && read.range == LightRange::scene) {
      diagnostics_.warning("not-toned", place,
                           fmt::format("{} takes colours of 0 to 1, as for a screen, but \"{}\", which it reads, is as "
                                       "bright as the scene, from {}",
                                       quoted(p), name(reads[i]), quoted(read.pass)),
                           "put a tone_map pass between them");
    }
  }
  const auto targets = writes_of(p);
  for (std::size_t i = 0; i < targets.size(); ++i) {
    if (targets[i] == none || !is_color_slot(declared.writes[i].slot)) continue;
    if (declared.makes == LightRange::same) {
      ranges_[targets[i]] = read;
    } else if (declared.makes != LightRange::unknown || declared.writes[i].covering == Covering::replaces) {
      ranges_[targets[i]] = {declared.makes, p};
    }
  }
}

void Planner::warn_encoded_light(std::uint32_t p, const TargetCoding& read, std::uint32_t target) {
  const auto reads = reads_of(p);
  const auto index = static_cast<std::size_t>(std::find(reads.begin(), reads.end(), target) - reads.begin());
  diagnostics_.warning("encoded-light", place_of(pass(p).reads[index].target, p),
                       fmt::format("{} takes light, but \"{}\", which it reads, was encoded to sRGB by {}", quoted(p),
                                   name(target), read.by(*this)),
                       "let nothing encode before the last pass, whose target does it");
}

std::string Planner::TargetCoding::by(const Planner& planner) const {
  if (!encoder.known()) return planner.quoted(pass);
  return fmt::format("\"{}\", line {}", encoder.file_name(), encoder.line);
}

}  // namespace periscena
