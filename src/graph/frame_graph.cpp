#include "graph/planner.h"

#include <periscena/base/error.h>

#include <algorithm>

namespace periscena {

FrameGraph::FrameGraph() {
  TargetDescription picture;
  picture.format = Format::rgba8_srgb;
  picture.clear_color = {0, 0, 0, 1};
  targets_.push_back({"output", picture, {}});
}

TargetHandle FrameGraph::target(std::string name, const TargetDescription& description, Place place) {
  targets_.push_back({std::move(name), description, std::move(place)});
  return {static_cast<std::uint32_t>(targets_.size() - 1)};
}

void FrameGraph::add(Pass pass, Place place) {
  if (!pass.place.known()) pass.place = std::move(place);
  passes_.push_back(std::move(pass));
}

void FrameGraph::keep(TargetUse target) {
  kept_.push_back(std::move(target));
}

PlanResult FrameGraph::plan(int width, int height, const DeviceLimits& limits) const {
  return Planner(*this, width, height, limits).plan();
}

std::vector<std::string> FrameGraph::target_names() const {
  std::vector<std::string> names;
  for (const Target& target : targets_) names.push_back(target.name);
  return names;
}

std::size_t FramePlan::bytes() const {
  std::size_t sum = 0;
  for (const PlannedTarget& target : targets_) sum += target.bytes;
  return sum;
}

std::optional<std::uint32_t> FramePlan::find_target(std::string_view name) const {
  const auto found =
      std::find_if(targets_.begin(), targets_.end(), [&](const auto& target) { return target.name == name; });
  if (found == targets_.end()) return std::nullopt;
  return static_cast<std::uint32_t>(found - targets_.begin());
}

std::vector<std::string> FramePlan::target_names() const {
  std::vector<std::string> names;
  for (const PlannedTarget& target : targets_) names.push_back(target.name);
  return names;
}

const FramePlan& PlanResult::value() const& {
  if (!plan_) throw Mistake(diagnostics_);
  return *plan_;
}

FramePlan PlanResult::value() && {
  if (!plan_) throw Mistake(diagnostics_);
  return *std::move(plan_);
}

}  // namespace periscena
