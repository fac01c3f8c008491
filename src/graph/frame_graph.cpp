#include "graph/planner.h"

#include <fmt/format.h>

namespace periscena {

namespace {

/// Where what is not there would have to stand, is where the pass is.
Diagnostics placed(const Diagnostics& problems, const Place& place) {
  Diagnostics all;
  all.append(problems, [&](Diagnostic& one) {
    if (!one.place.known()) one.place = place;
  });
  return all;
}

}  // namespace

FrameGraph::FrameGraph() {
  TargetDescription picture;
  picture.format = Format::rgba8_srgb;
  picture.clear_color = {0, 0, 0, 1};
  targets_.push_back({"output", picture, {}});
}
FrameGraph::FrameGraph(const FrameGraph&) = default;
FrameGraph::FrameGraph(FrameGraph&&) noexcept = default;
FrameGraph& FrameGraph::operator=(const FrameGraph&) = default;
FrameGraph& FrameGraph::operator=(FrameGraph&&) noexcept = default;
FrameGraph::~FrameGraph() = default;

TargetHandle FrameGraph::target(std::string name, const TargetDescription& description, Place place) {
  targets_.push_back({std::move(name), description, std::move(place)});
  return {static_cast<std::uint32_t>(targets_.size() - 1)};
}

void FrameGraph::set_background(const std::array<float, 4>& linear) {
  targets_[0].description.clear_color = linear;
}

void FrameGraph::set_output_origin(Origin origin) {
  targets_[0].description.origin = origin;
}

void FrameGraph::add(Pass pass, Place place) {
  if (!pass.place.known()) pass.place = std::move(place);
  pass.problems = placed(pass.problems, pass.place);
  if (!pass.inside.empty()) put_inside(pass);
  if (pass.opens) open_window(pass);
  if (pass.every < 1) {
    pass.problems.error("out-of-range", pass.place, fmt::format("pass \"{}\" has every = {}", pass.name, pass.every),
                        "choose 1 or more");
    pass.every = 1;
  }
  passes_.push_back(std::make_shared<const Pass>(std::move(pass)));
}

void FrameGraph::keep(TargetUse target) {
  kept_.push_back(std::move(target));
}

PlanResult FrameGraph::plan(int width, int height, const DeviceLimits& limits) const {
  PlanResult each = Planner(*this, width, height, limits).plan();
  if (!each.ok() || !fuses_) return each;
  std::vector<RemovedPass> gone;
  const std::optional<FrameGraph> less = fused(each.value(), gone);
  if (!less) return each;
  PlanResult together = Planner(*less, width, height, limits).plan(std::move(gone));
  // What is wrong was told of the passes as they were declared.
  return together.ok() ? PlanResult(std::move(together).value(), each.diagnostics()) : each;
}

std::vector<std::string> FrameGraph::target_names() const {
  std::vector<std::string> names;
  for (const Target& target : targets_) names.push_back(target.name);
  return names;
}

}  // namespace periscena
