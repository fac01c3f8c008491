#include "graph/planner.h"

#include <periscena/base/error.h>
#include <periscena/base/names.h>

#include <fmt/format.h>

#include <algorithm>

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
  // A pass may be added to several frames: each has options of its own.
  if (pass.live) pass.live = pass.live->copy();
  passes_.push_back(std::make_shared<const Pass>(std::move(pass)));
  if (passes_.back()->live) passes_.back()->live->begin(passes_.back());
}

std::shared_ptr<LiveOptions> FrameGraph::options(std::string_view name, Place place) const {
  const auto found = std::find_if(passes_.begin(), passes_.end(), [&](const auto& pass) { return pass->name == name; });
  if (found == passes_.end()) {
    std::vector<std::string> names;
    for (const auto& pass : passes_) names.push_back(pass->name);
    throw Mistake("unknown-pass", std::move(place), fmt::format("the frame has no pass \"{}\"", name),
                  name_hint(name, names));
  }
  if ((*found)->live) return (*found)->live;
  throw Mistake("no-options", std::move(place), fmt::format("pass \"{}\" has no options: its work is your own", name),
                "let the work itself look at what changes");
}

/// With passes as their options are now; nothing where none has changed.
std::optional<FrameGraph> FrameGraph::with_latest() const {
  if (std::all_of(passes_.begin(), passes_.end(), [](const auto& pass) { return version_of(*pass) == 0; }))
    return std::nullopt;
  FrameGraph now = *this;
  for (auto& pass : now.passes_) pass = latest(pass);
  return now;
}

void FrameGraph::keep(TargetUse target) {
  kept_.push_back(std::move(target));
}

void FrameGraph::before_each_frame(SetTime set_time) {
  set_time_.push_back(std::move(set_time));
}

PlanResult FrameGraph::plan(int width, int height, const DeviceLimits& limits) const {
  if (const std::optional<FrameGraph> now = with_latest()) return now->plan_as_declared(width, height, limits);
  return plan_as_declared(width, height, limits);
}

PlanResult FrameGraph::plan_as_declared(int width, int height, const DeviceLimits& limits) const {
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
