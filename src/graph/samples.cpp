#include "graph/samples.h"

#include <fmt/format.h>

#include <algorithm>
#include <numeric>

namespace periscena {

int available_samples(int wanted, const std::vector<Format>& formats, const DeviceLimits& limits) {
  if (wanted <= 1 || limits.sample_counts.empty()) return wanted;
  int below = 0, above = 0;
  for (const int count : limits.sample_counts[static_cast<std::size_t>(formats.front())]) {
    const bool common = std::all_of(formats.begin(), formats.end(), [&](Format format) {
      const auto& counts = limits.sample_counts[static_cast<std::size_t>(format)];
      return std::find(counts.begin(), counts.end(), count) != counts.end();
    });
    if (!common) continue;
    if (count <= wanted) below = std::max(below, count);
    if (count > wanted && (above == 0 || count < above)) above = count;
  }
  return below ? below : above ? above : 1;
}

void SampleCounts::find() {
  const auto& declared = planner_.graph_.targets_;
  const bool any =
      std::any_of(declared.begin(), declared.end(), [](const auto& target) { return target.description.samples > 1; });
  if (!any) return;
  join_targets();
  give_counts();
}

std::uint32_t SampleCounts::group_of(std::uint32_t target) {
  while (parent_[target] != target) target = parent_[target] = parent_[parent_[target]];
  return target;
}

void SampleCounts::join_targets() {
  parent_.resize(planner_.targets_.size());
  std::iota(parent_.begin(), parent_.end(), 0u);
  for (std::uint32_t p = 0; p < planner_.graph_.passes_.size(); ++p) {
    if (!planner_.pass(p).draws()) continue;
    std::uint32_t first = Planner::none;
    for (const std::uint32_t target : planner_.writes_of(p)) {
      // One that says its count belongs to itself: what does not fit is told where they meet.
      if (target == Planner::none) continue;
      if (first != Planner::none) parent_[group_of(target)] = group_of(first);
      first = target;
    }
  }
}

void SampleCounts::give_counts() {
  const auto count = static_cast<std::uint32_t>(parent_.size());
  std::vector<std::uint32_t> speaker(count, Planner::none);
  std::vector<std::vector<Format>> formats(count);
  for (std::uint32_t i = 0; i < count; ++i) {
    const std::uint32_t group = group_of(i);
    const int said = planner_.description(i).samples;
    if (said > 0 && (speaker[group] == Planner::none || said > planner_.description(speaker[group]).samples))
      speaker[group] = i;
    if (said != 1) formats[group].push_back(planner_.description(i).format);
  }
  std::vector<int> given(count, 1);
  for (std::uint32_t group = 0; group < count; ++group) {
    if (speaker[group] != Planner::none) given[group] = available(speaker[group], formats[group]);
  }
  for (std::uint32_t i = 0; i < count; ++i) {
    const std::uint32_t group = group_of(i);
    const int said = planner_.description(i).samples;
    const bool as_asked = said > 0 && said != planner_.description(speaker[group]).samples;
    planner_.targets_[i].samples = as_asked ? said : given[group];
  }
}

int SampleCounts::available(std::uint32_t speaker, const std::vector<Format>& formats) {
  const auto& target = planner_.graph_.targets_[speaker];
  const int wanted = target.description.samples;
  if (!planner_.limits_.asked) {
    warn_of_guarantees(speaker, formats);
    return wanted;
  }
  const int given = available_samples(wanted, formats, planner_.limits_);
  if (given == wanted) return given;
  std::string counts;
  for (const int known : planner_.limits_.sample_counts[static_cast<std::size_t>(target.description.format)])
    counts += fmt::format("{}{}", counts.empty() ? "" : ", ", known);
  planner_.diagnostics_.warning(
      "sample-count", target.place,
      fmt::format("target \"{}\" asks for {} samples and gets {}", target.name, wanted, given),
      counts.empty() ? fmt::format("this device has no samples for {}", to_string(target.description.format))
                     : fmt::format("this device has {} for {}{}", counts, to_string(target.description.format),
                                   formats.size() > 1 ? ", and all that a pass writes must have as many" : ""));
  return given;
}

void SampleCounts::warn_of_guarantees(std::uint32_t speaker, const std::vector<Format>& formats) {
  const auto& target = planner_.graph_.targets_[speaker];
  const bool integers =
      std::any_of(formats.begin(), formats.end(), [](Format format) { return info(format).integer(); });
  const int guaranteed = integers ? 1 : 4;
  if (target.description.samples <= guaranteed) return;
  planner_.diagnostics_.warning(
      "over-guaranteed-limit", target.place,
      fmt::format("target \"{}\" asks for {} samples, and OpenGL 4.5 guarantees {}{}", target.name,
                  target.description.samples, guaranteed, integers ? " for integers" : ""),
      "ask the device: periscena device");
}

}  // namespace periscena
