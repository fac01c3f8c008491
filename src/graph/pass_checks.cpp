#include "graph/planner.h"

#include <fmt/format.h>

#include <algorithm>
#include <set>
#include <unordered_set>

namespace periscena {

void Planner::check_passes() {
  check_rates();
  std::unordered_set<std::string_view> names;
  names.reserve(graph_.passes_.size());
  for (std::uint32_t p = 0; p < graph_.passes_.size(); ++p) {
    const Pass& declared = pass(p);
    if (declared.name.empty()) {
      diagnostics_.error("empty-name", declared.place, "a pass has no name",
                         "name it by what it makes, such as \"sun shadow\"");
    } else if (!names.insert(declared.name).second) {
      diagnostics_.error("taken-name", declared.place, fmt::format("there are two passes named \"{}\"", declared.name),
                         "choose another name for one of them");
    }
    check_pass(p);
  }
}

void Planner::check_pass(std::uint32_t p) {
  const Pass& declared = pass(p);
  diagnostics_.append(declared.problems);
  if (declared.writes.empty() && !declared.problems.has_errors()) {
    diagnostics_.error("writes-nothing", declared.place, fmt::format("{} writes no target", quoted(p)),
                       "give it a target to draw into: writes = { color = \"output\" }");
  }
  if (!declared.work && declared.draws() && !declared.problems.has_errors()) {
    diagnostics_.error("no-work", declared.place, fmt::format("{} has nothing to do", quoted(p)), "set its work");
  }
  check_write_names(p);
  check_attachments_of(p);
  check_reads(p);
  check_targets_of(p);
  if (declared.shader) check_shader(p);
}

void Planner::check_write_names(std::uint32_t p) {
  const auto& writes = pass(p).writes;
  for (std::size_t i = 1; i < writes.size(); ++i) {
    const bool taken = std::any_of(writes.begin(), writes.begin() + static_cast<std::ptrdiff_t>(i),
                                   [&](const Write& other) { return other.slot == writes[i].slot; });
    if (!taken) continue;
    diagnostics_.error("taken-name", place_of(writes[i].target, p),
                       fmt::format("{} has two writes named \"{}\"", quoted(p), writes[i].slot),
                       "name each output once");
  }
}

void Planner::check_attachments_of(std::uint32_t p) {
  const auto targets = writes_of(p);
  const auto& writes = pass(p).writes;
  // The usual pass draws into one plain picture, about which there is little to say.
  if (targets.size() == 1 && targets[0] != none) {
    const ResolvedTarget& only = targets_[targets[0]];
    const bool plain = info(description(targets[0]).format).color() && only.part_count() == 1 && writes[0].level == 0 &&
                       writes[0].layer <= 0 && pass(p).draws() && is_color_slot(writes[0].slot);
    if (plain) return;
  }
  std::vector<Attachment> attachments;
  for (std::size_t i = 0; i < targets.size(); ++i) {
    if (targets[i] == none) continue;
    const ResolvedTarget& known = targets_[targets[i]];
    attachments.push_back({writes[i].slot, name(targets[i]), description(targets[i]).format, known.shape, known.width,
                           known.height, known.samples, known.levels, known.layers, writes[i].level, writes[i].layer,
                           place_of(writes[i].target, p)});
  }
  if (attachments.empty()) return;
  if (!pass(p).draws()) return check_operation(p);
  for (AttachmentFault& fault : check_attachments(attachments, quoted(p), limits_)) {
    if (fault.diagnostic.slug == "over-device-limit" && fault.diagnostic.place.known()) continue;  // the target's own
    if (!fault.diagnostic.place.known()) fault.diagnostic.place = pass(p).place;
    diagnostics_.add(std::move(fault.diagnostic));
  }
  const auto framebuffer = std::find_if(targets.begin(), targets.end(), [&](std::uint32_t target) {
    return target != none && description(target).origin == Origin::outside_framebuffer;
  });
  if (framebuffer != targets.end() && targets.size() > 1) {
    diagnostics_.error("outside-framebuffer", pass(p).place,
                       fmt::format("{} writes \"{}\", a framebuffer made outside, together with other targets",
                                   quoted(p), name(*framebuffer)),
                       "a framebuffer comes whole: let a pass of its own write it");
  }
}

bool Planner::check_part(const std::string& what, std::uint32_t target, int level, int layer, const Place& place) {
  const ResolvedTarget& known = targets_[target];
  if (level != all_levels && (level < 0 || level >= known.levels)) {
    diagnostics_.error("no-such-level", place,
                       fmt::format("{} uses level {} of \"{}\", which has {}", what, level, name(target), known.levels),
                       known.levels == 1 ? "give the target levels, or use level 0"
                                         : fmt::format("levels are 0 to {}", known.levels - 1));
    return false;
  }
  if (layer != all_layers && (layer < 0 || layer >= known.layers)) {
    diagnostics_.error("no-such-layer", place,
                       fmt::format("{} uses layer {} of \"{}\", which has {}", what, layer, name(target), known.layers),
                       fmt::format("layers are 0 to {}", known.layers - 1));
    return false;
  }
  return true;
}

void Planner::check_reads(std::uint32_t p) {
  const auto targets = reads_of(p);
  for (std::size_t i = 0; i < targets.size(); ++i) {
    if (targets[i] != none) check_read(p, pass(p).reads[i], targets[i]);
  }
  check_wanted(p);
}

/// What several passes draw into must be drawn by all of them or none.
void Planner::check_rates() {
  const auto& passes = graph_.passes_;
  if (std::none_of(passes.begin(), passes.end(), [](const auto& one) { return one->every > 1; })) return;
  std::set<std::uint32_t> told;
  for (std::size_t part = 0; part + 1 < first_writer_.size(); ++part) {
    const auto writers = writers_of(static_cast<std::uint32_t>(part));
    const auto other = std::find_if(writers.begin(), writers.end(),
                                    [&](std::uint32_t p) { return pass(p).every != pass(writers[0]).every; });
    if (other == writers.end() || !told.insert(*other).second) continue;
    diagnostics_.error("uneven-rates", pass(*other).place,
                       fmt::format("{} and {} write one target, but every is {} in one, and {} in the other",
                                   quoted(writers[0]), quoted(*other), pass(writers[0]).every, pass(*other).every),
                       fmt::format("set every = {} in both", std::max(pass(writers[0]).every, pass(*other).every)));
  }
  // History counts frames.
  for (std::uint32_t reader = 0; reader < passes.size(); ++reader) {
    for (std::size_t i = 0; i < passes[reader]->reads.size(); ++i) {
      const std::uint32_t target = reads_of(reader)[i];
      if (passes[reader]->reads[i].history == 0 || target == none) continue;
      for (const Pass* writer : writers_of_read(reader, i)) {
        if (writer->every == 1) continue;
        diagnostics_.error("resting-history", writer->place,
                           fmt::format("pass \"{}\" has every = {}, and {} reads what \"{}\" was in frames in between",
                                       writer->name, writer->every, quoted(reader), name(target)),
                           "let it run in each frame, or read what it makes of it in this one");
      }
    }
  }
}

void Planner::check_targets_of(std::uint32_t p) {
  if (!pass(p).check_targets) return;
  std::vector<WrittenTarget> written;
  const auto targets = writes_of(p);
  for (std::size_t i = 0; i < targets.size(); ++i) {
    if (targets[i] == none) return;  // told already
    const Write& write = pass(p).writes[i];
    const ResolvedTarget& known = targets_[targets[i]];
    written.push_back({name(targets[i]), place_of(write.target, p), known.width, known.height, known.layers,
                       write.layer, description(targets[i]).format, known.samples});
  }
  pass(p).check_targets(written, diagnostics_);
}

std::vector<const Pass*> Planner::writers_of_read(std::uint32_t p, std::size_t index) const {
  const Read& read = pass(p).reads[index];
  const std::uint32_t target = reads_of(p)[index];
  std::vector<const Pass*> writers;
  if (target == none) return writers;
  std::set<std::uint32_t> found;
  for_parts(target, read.level, read.layer, [&](std::uint32_t part) {
    const auto some = writers_of(part);
    found.insert(some.begin(), some.end());
  });
  for (const std::uint32_t writer : found) writers.push_back(&pass(writer));
  return writers;
}

void Planner::check_read(std::uint32_t p, const Read& read, std::uint32_t target) {
  const Place& place = place_of(read.target, p);
  const ResolvedTarget& known = targets_[target];
  const bool whole = read.level == all_levels && read.layer == all_layers;
  if (!whole && !check_part(quoted(p), target, read.level, read.layer, place)) return;
  if (description(target).origin == Origin::outside_framebuffer) {
    diagnostics_.error(
        "outside-framebuffer", place,
        fmt::format("{} reads \"{}\", a framebuffer made outside, which can't be sampled", quoted(p), name(target)),
        "draw into a target of your own first, and copy it there");
  }
  if (read.samples == SampleReading::each && known.samples == 1 && pass(p).draws()) {
    diagnostics_.error("no-samples", place,
                       fmt::format("{} reads the samples of \"{}\", which has one a pixel", quoted(p), name(target)),
                       "give the target samples = 4, or sample it as an ordinary texture");
  }
  if (known.samples > 1) check_samples(p, read, target);
  if (read.history != 0) return check_history(p, read, target);
  bool loops = false;
  for_parts(target, read.level, read.layer, [&](std::uint32_t part) {
    const auto writers = writers_of(part);
    loops = loops || std::binary_search(writers.begin(), writers.end(), p);
  });
  if (loops) {
    diagnostics_.error("feedback-loop", place,
                       fmt::format("{} reads \"{}\", which it also writes", quoted(p), name(target)),
                       "write another target, and let the passes after it read that one; or read last frame's: "
                       "history = 1");
  } else {
    check_unwritten(p, read, target);
  }
}

/// What has no mean is read sample by sample, and then what is made of it keeps its samples, too.
void Planner::check_samples(std::uint32_t p, const Read& read, std::uint32_t target) {
  const Place& place = place_of(read.target, p);
  const int samples = targets_[target].samples;
  if (read.samples == SampleReading::own) {
    // Told once for all parts of a buffer.
    const auto& reads = pass(p).reads;
    const auto first =
        std::find_if(reads.begin(), reads.end(), [](const Read& one) { return one.samples == SampleReading::own; });
    if (&read != &*first) return;
    for (const std::uint32_t written : writes_of(p)) {
      if (written == none || targets_[written].samples == samples) continue;
      diagnostics_.error("edge-samples", place,
                         fmt::format("{} reads {} samples of \"{}\", but writes {} to \"{}\"", quoted(p), samples,
                                     name(target), targets_[written].samples, name(written)),
                         fmt::format("give \"{}\" samples = {}: edges are brought together after they are lit",
                                     name(written), samples));
      return;
    }
    return;
  }
  if (read.samples == SampleReading::each) return;
  bool no_mean = false;
  const Pass* by = nullptr;
  for_parts(target, read.level, read.layer, [&](std::uint32_t part) {
    for (const std::uint32_t writer : writers_of(part)) {
      const auto targets = writes_of(writer);
      for (std::size_t i = 0; i < targets.size(); ++i) {
        if (targets[i] != target || pass(writer).writes[i].mean == SampleMean::useful) continue;
        no_mean = true;
        by = &pass(writer);
      }
    }
  });
  if (!no_mean) return;
  diagnostics_.error("averaged-geometry", place,
                     fmt::format("{} reads \"{}\", which pass \"{}\" writes with {} samples: it would get means of "
                                 "normals and numbers, which are of no surface",
                                 quoted(p), name(target), by->name, samples),
                     "read it in a deferred pass, which looks at samples by themselves; or give the targets of the "
                     "geometry buffer samples = 1");
}

void Planner::check_unwritten(std::uint32_t p, const Read& read, std::uint32_t target) {
  if (description(target).origin == Origin::outside_texture) return;
  const Place& place = place_of(read.target, p);
  if (!is_written(target)) {
    diagnostics_.error(
        "unwritten-target", place, fmt::format("{} reads \"{}\", which no pass writes", quoted(p), name(target)),
        fmt::format("add a pass with writes = {{ color = \"{}\" }}, or read another target", name(target)));
    return;
  }
  std::uint32_t missing = none;
  for_parts(target, read.level, read.layer, [&](std::uint32_t part) {
    if (missing == none && writers_of(part).empty()) missing = part - targets_[target].first_part;
  });
  if (missing == none) return;
  const auto layers = static_cast<std::uint32_t>(targets_[target].layers);
  diagnostics_.error("unwritten-part", place,
                     fmt::format("{} reads \"{}\", but no pass writes its level {}{}", quoted(p), name(target),
                                 missing / layers, layers > 1 ? fmt::format(", layer {}", missing % layers) : ""),
                     fmt::format("write it (kind = \"mip_chain\" writes all levels), or read one that is written: "
                                 "{{ target = \"{}\", level = 0 }}",
                                 name(target)));
}

void Planner::check_history(std::uint32_t p, const Read& read, std::uint32_t target) {
  constexpr int most = 16;
  const Place& place = place_of(read.target, p);
  if (read.history < 0 || read.history > most) {
    diagnostics_.error("out-of-range", place,
                       fmt::format("{} reads \"{}\" as it was {} frames ago", quoted(p), name(target), read.history),
                       fmt::format("history is 1 to {} frames; 0 is this frame", most));
  } else if (description(target).origin != Origin::ours) {
    diagnostics_.error("outside-history", place,
                       fmt::format("{} reads what \"{}\" was, but that was made outside", quoted(p), name(target)),
                       "copy it into a target of your own each frame, and read that one's history");
  } else {
    check_unwritten(p, read, target);
  }
}

}  // namespace periscena
