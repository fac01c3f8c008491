#include "graph/planner.h"

#include <periscena/base/names.h>

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <queue>
#include <unordered_set>

namespace periscena {

PlanResult Planner::plan() {
  check_frame();
  check_targets();
  resolve_uses();
  find_writers();
  check_passes();
  find_edges();
  check_outputs();
  const bool ordered = order_passes();
  if (diagnostics_.has_errors() || !ordered) return {std::nullopt, std::move(diagnostics_)};
  mark_needed();
  warn_unused_targets();
  return {build(), std::move(diagnostics_)};
}

std::string Planner::quoted(std::uint32_t pass) const {
  return fmt::format("pass \"{}\"", graph_.passes_[pass].name);
}

const Place& Planner::place_of(const TargetUse& use, std::uint32_t pass) const {
  return use.reference.place.known() ? use.reference.place : graph_.passes_[pass].place;
}

void Planner::check_frame() {
  if (width_ < 1 || height_ < 1) {
    diagnostics_.error("bad-size", {}, fmt::format("the frame is {} x {} pixels", width_, height_),
                       "both must be at least 1");
    width_ = std::max(1, width_);
    height_ = std::max(1, height_);
  }
  frame_fits_ = within_limit("the frame", width_, height_, {});
}

bool Planner::within_limit(const std::string& what, int width, int height, const Place& place) {
  if (std::max(width, height) <= limits_.largest_size) return true;
  const std::string message =
      fmt::format("{} is {} x {} pixels, over the {} of {}", what, width, height, limits_.largest_size,
                  limits_.asked ? "this device" : "what OpenGL 4.5 guarantees");
  if (limits_.asked) {
    diagnostics_.error("over-device-limit", place, message, "make it smaller, or render in tiles");
  } else {
    diagnostics_.warning("over-guaranteed-limit", place, message, "ask the device: periscena device");
  }
  return false;
}

void Planner::check_targets() {
  sizes_.resize(graph_.targets_.size());
  for (std::uint32_t i = 0; i < graph_.targets_.size(); ++i) {
    const auto& target = graph_.targets_[i];
    if (target.name.empty()) {
      diagnostics_.error("empty-name", target.place, "a target has no name", "name it, such as \"scene.color\"");
    } else if (!target_by_name_.emplace(target.name, i).second) {
      diagnostics_.error("taken-name", target.place, fmt::format("there are two targets named \"{}\"", target.name),
                         i > 0 && target.name == "output" ? "\"output\" is the frame's picture and is always there"
                                                          : "choose another name for one of them");
    }
    const auto& clear = target.description.clear_color;
    if (!std::all_of(clear.begin(), clear.end(), [](float c) { return std::isfinite(c); })) {
      diagnostics_.error("not-finite", target.place,
                         fmt::format("target \"{}\" clears to NaN or infinity", target.name), "give finite numbers");
    }
    if (!(target.description.clear_depth >= 0 && target.description.clear_depth <= 1)) {
      diagnostics_.error("out-of-range", target.place,
                         fmt::format("target \"{}\" clears depth to {}", target.name, target.description.clear_depth),
                         "depth is 0 to 1; the far end is 0 in reversed depth, 1 in ordinary depth");
    }
    check_target_size(i);
  }
}

void Planner::check_target_size(std::uint32_t index) {
  const auto& target = graph_.targets_[index];
  const TargetSize& size = target.description.size;
  auto& pixels = sizes_[index];
  const bool scale_fits = size.scale > 0 && size.scale <= 16;
  if (size.follows_frame() && !scale_fits) {
    diagnostics_.error("bad-size", target.place, fmt::format("target \"{}\" has scale {}", target.name, size.scale),
                       "choose more than 0 and at most 16");
  }
  if (size.follows_frame()) {
    const double scale = scale_fits ? size.scale : 1;
    pixels = {static_cast<int>(std::ceil(width_ * scale)), static_cast<int>(std::ceil(height_ * scale))};
  } else {
    pixels = {size.width, size.height};
  }
  if (pixels[0] < 1 || pixels[1] < 1) {
    diagnostics_.error("bad-size", target.place,
                       fmt::format("target \"{}\" is {} x {} pixels", target.name, pixels[0], pixels[1]),
                       "both must be at least 1");
    pixels = {1, 1};
  }
  // When the frame itself is too large, that is told once.
  if (size.follows_frame() && !frame_fits_) return;
  within_limit(fmt::format("target \"{}\"", target.name), pixels[0], pixels[1], target.place);
}

std::uint32_t Planner::resolve(const TargetUse& use, const std::string& who) {
  if (use.handle.valid()) {
    if (use.handle.index < graph_.targets_.size()) return use.handle.index;
    diagnostics_.error("unknown-target", use.reference.place, fmt::format("{} uses a target of another frame", who),
                       "use handles that this frame's target() returned");
    return none;
  }
  const auto found = target_by_name_.find(use.reference.name);
  if (found != target_by_name_.end()) return found->second;
  diagnostics_.error("unknown-target", use.reference.place,
                     fmt::format("{} uses \"{}\", which is no target", who, use.reference.name),
                     name_hint(use.reference.name, graph_.target_names()));
  return none;
}

void Planner::resolve_uses() {
  uses_.resize(graph_.passes_.size());
  for (std::uint32_t p = 0; p < graph_.passes_.size(); ++p) {
    const Pass& pass = graph_.passes_[p];
    const auto resolve_all = [&](const auto& declared, std::vector<std::uint32_t>& into) {
      into.reserve(declared.size());
      for (const auto& use : declared) {
        // The message is only made when it is needed: plans of 10,000 passes are made in milliseconds.
        const bool known_handle = use.target.handle.valid() && use.target.handle.index < graph_.targets_.size();
        into.push_back(known_handle ? use.target.handle.index : resolve(use.target, quoted(p)));
      }
    };
    resolve_all(pass.reads, uses_[p].reads);
    resolve_all(pass.writes, uses_[p].writes);
  }
  for (const TargetUse& use : graph_.kept_) kept_.push_back(resolve(use, "keep()"));
}

void Planner::find_writers() {
  writers_.resize(graph_.targets_.size());
  for (std::uint32_t p = 0; p < uses_.size(); ++p) {
    for (const std::uint32_t target : uses_[p].writes) {
      if (target == none) continue;
      if (writers_[target].empty() || writers_[target].back() != p) writers_[target].push_back(p);
    }
  }
}

void Planner::check_passes() {
  std::unordered_set<std::string_view> names;
  for (std::uint32_t p = 0; p < graph_.passes_.size(); ++p) {
    const Pass& pass = graph_.passes_[p];
    if (pass.name.empty()) {
      diagnostics_.error("empty-name", pass.place, "a pass has no name",
                         "name it by what it makes, such as \"sun shadow\"");
    } else if (!names.insert(pass.name).second) {
      diagnostics_.error("taken-name", pass.place, fmt::format("there are two passes named \"{}\"", pass.name),
                         "choose another name for one of them");
    }
    check_pass(p);
    check_attachment_sizes(p);
  }
}

void Planner::check_pass(std::uint32_t p) {
  const Pass& pass = graph_.passes_[p];
  const PassUses& uses = uses_[p];
  diagnostics_.append(pass.problems);
  if (pass.writes.empty() && !pass.problems.has_errors()) {
    diagnostics_.error("writes-nothing", pass.place, fmt::format("{} writes no target", quoted(p)),
                       "give it a target to draw into: writes = { color = \"output\" }");
  }
  if (!pass.work && !pass.problems.has_errors()) {
    diagnostics_.error("no-work", pass.place, fmt::format("{} has nothing to do", quoted(p)), "set its work");
  }
  int colors = 0, depths = 0;
  for (std::size_t i = 0; i < pass.writes.size(); ++i) {
    const Write& write = pass.writes[i];
    if (uses.writes[i] == none) continue;
    const auto& target = graph_.targets_[uses.writes[i]];
    const bool depth = info(target.description.format).depth;
    (depth ? depths : colors) += 1;
    if (depth != (write.slot == "depth")) {
      diagnostics_.error(
          "wrong-attachment", place_of(write.target, p),
          fmt::format("{} writes \"{}\", whose format is {}, as {}", quoted(p), target.name,
                      to_string(target.description.format), write.slot == "depth" ? "its depth" : "a colour"),
          depth ? fmt::format("write it as depth: writes = {{ depth = \"{}\" }}", target.name)
                : "depth needs a depth format, such as depth32f");
    }
    const auto first = std::find(uses.writes.begin(), uses.writes.end(), uses.writes[i]) - uses.writes.begin();
    if (static_cast<std::size_t>(first) < i) {
      diagnostics_.error("written-twice", place_of(write.target, p),
                         fmt::format("{} writes \"{}\" twice, as {} and as {}", quoted(p), target.name,
                                     pass.writes[static_cast<std::size_t>(first)].slot, write.slot),
                         "write another target with one of them");
    }
    const bool slot_taken = std::any_of(pass.writes.begin(), pass.writes.begin() + static_cast<std::ptrdiff_t>(i),
                                        [&](const Write& other) { return other.slot == write.slot; });
    if (slot_taken) {
      diagnostics_.error("taken-name", place_of(write.target, p),
                         fmt::format("{} has two writes named \"{}\"", quoted(p), write.slot), "name each output once");
    }
  }
  if (depths > 1) {
    diagnostics_.error("two-depths", pass.place, fmt::format("{} writes {} depth targets", quoted(p), depths),
                       "a pass has one");
  }
  if (colors > limits_.color_attachments) {
    diagnostics_.error(
        "over-device-limit", pass.place,
        fmt::format("{} writes {} colours, over the limit of {}", quoted(p), colors, limits_.color_attachments),
        "split it into two passes");
  }
  for (std::size_t i = 0; i < pass.reads.size(); ++i) {
    const std::uint32_t target = uses.reads[i];
    if (target == none) continue;
    const std::string& name = graph_.targets_[target].name;
    if (std::find(uses.writes.begin(), uses.writes.end(), target) != uses.writes.end()) {
      diagnostics_.error("feedback-loop", place_of(pass.reads[i].target, p),
                         fmt::format("{} reads \"{}\", which it also writes", quoted(p), name),
                         "write another target, and let the passes after it read that one");
    } else if (writers_[target].empty()) {
      diagnostics_.error("unwritten-target", place_of(pass.reads[i].target, p),
                         fmt::format("{} reads \"{}\", which no pass writes", quoted(p), name),
                         fmt::format("add a pass with writes = {{ color = \"{}\" }}, or read another target", name));
    }
  }
}

void Planner::check_attachment_sizes(std::uint32_t p) {
  const PassUses& uses = uses_[p];
  std::uint32_t first = none;
  for (std::size_t i = 0; i < uses.writes.size(); ++i) {
    const std::uint32_t target = uses.writes[i];
    if (target == none) continue;
    if (first == none) first = target;
    if (sizes_[target] == sizes_[first]) continue;
    diagnostics_.error("size-mismatch", place_of(graph_.passes_[p].writes[i].target, p),
                       fmt::format("{} writes \"{}\" of {} x {} and \"{}\" of {} x {} pixels", quoted(p),
                                   graph_.targets_[first].name, sizes_[first][0], sizes_[first][1],
                                   graph_.targets_[target].name, sizes_[target][0], sizes_[target][1]),
                       "all targets that a pass writes must have one size; give both the same size or scale");
  }
}

void Planner::add_read_edges(std::uint32_t pass, std::uint32_t target) {
  const auto& writers = writers_[target];
  if (writers.empty()) return;
  const auto after = std::lower_bound(writers.begin(), writers.end(), pass);
  if (after == writers.begin()) {
    if (writers.back() != pass) edges_.push_back({writers.back(), pass, true, target});
    return;
  }
  edges_.push_back({*(after - 1), pass, true, target});
  if (after != writers.end() && *after != pass) edges_.push_back({pass, *after, false, target});
}

void Planner::find_edges() {
  for (std::uint32_t p = 0; p < uses_.size(); ++p) {
    for (std::size_t i = 0; i < uses_[p].reads.size(); ++i) {
      const std::uint32_t target = uses_[p].reads[i];
      const bool also_written =
          std::find(uses_[p].writes.begin(), uses_[p].writes.end(), target) != uses_[p].writes.end();
      if (target != none && !also_written) add_read_edges(p, target);
    }
    for (std::size_t i = 0; i < uses_[p].writes.size(); ++i) {
      const std::uint32_t target = uses_[p].writes[i];
      if (target == none) continue;
      const auto& writers = writers_[target];
      const auto self = std::lower_bound(writers.begin(), writers.end(), p);
      if (self != writers.begin()) edges_.push_back({*(self - 1), p, !graph_.passes_[p].writes[i].overwrites, target});
    }
  }
}

void Planner::check_outputs() {
  bool reaches = !writers_[0].empty();
  for (const std::uint32_t target : kept_) {
    if (target == none) continue;
    if (!writers_[target].empty()) {
      reaches = true;
    } else {
      diagnostics_.error("unwritten-target", {},
                         fmt::format("\"{}\" is kept, but no pass writes it", graph_.targets_[target].name),
                         "keep a target that a pass writes");
    }
  }
  if (reaches) return;
  if (graph_.passes_.empty()) {
    diagnostics_.error("no-passes", {}, "the frame has no passes",
                       "add one: [[pass]] with a name, a kind and what it writes");
    return;
  }
  // A misspelt output, or a pass whose writes could not be read, was told already, and is the likelier cause.
  for (std::uint32_t p = 0; p < uses_.size(); ++p) {
    const auto& writes = uses_[p].writes;
    if (std::find(writes.begin(), writes.end(), none) != writes.end()) return;
    if (writes.empty() && graph_.passes_[p].problems.has_errors()) return;
  }
  diagnostics_.error("no-output", graph_.passes_.back().place,
                     "no pass writes \"output\", so the frame makes no picture",
                     "let the last pass write it: writes = { color = \"output\" }");
}

bool Planner::order_passes() {
  const auto count = static_cast<std::uint32_t>(graph_.passes_.size());
  std::vector<std::uint32_t> waiting_for(count), first_out(count + 1);
  for (const Edge& edge : edges_) {
    ++waiting_for[edge.to];
    ++first_out[edge.from + 1];
  }
  for (std::uint32_t i = 0; i < count; ++i) first_out[i + 1] += first_out[i];
  std::vector<std::uint32_t> outs(edges_.size()), next = first_out;
  for (const Edge& edge : edges_) outs[next[edge.from]++] = edge.to;

  // The earliest declared of those that are ready, so the order is the declared one wherever it may be.
  std::priority_queue<std::uint32_t, std::vector<std::uint32_t>, std::greater<>> ready;
  for (std::uint32_t p = 0; p < count; ++p) {
    if (waiting_for[p] == 0) ready.push(p);
  }
  while (!ready.empty()) {
    const std::uint32_t p = ready.top();
    ready.pop();
    order_.push_back(p);
    for (std::uint32_t k = first_out[p]; k < first_out[p + 1]; ++k) {
      if (--waiting_for[outs[k]] == 0) ready.push(outs[k]);
    }
  }
  if (order_.size() == count) return true;
  report_cycle(waiting_for);
  return false;
}

void Planner::report_cycle(const std::vector<std::uint32_t>& waiting_for) {
  // Every pass that still waits has an edge from another that waits: going back along them must come round.
  std::vector<const Edge*> comes_from(waiting_for.size(), nullptr);
  for (const Edge& edge : edges_) {
    if (waiting_for[edge.from] > 0 && waiting_for[edge.to] > 0 && (!comes_from[edge.to] || edge.carries))
      comes_from[edge.to] = &edge;
  }
  auto at = static_cast<std::uint32_t>(
      std::find_if(waiting_for.begin(), waiting_for.end(), [](std::uint32_t n) { return n > 0; }) -
      waiting_for.begin());
  for (std::size_t i = 0; i < waiting_for.size(); ++i) at = comes_from[at]->from;  // surely on the ring now
  std::vector<const Edge*> ring;
  for (std::uint32_t p = at;;) {
    ring.push_back(comes_from[p]);
    p = comes_from[p]->from;
    if (p == at) break;
  }
  std::reverse(ring.begin(), ring.end());
  std::string path = fmt::format("\"{}\"", graph_.passes_[at].name);
  for (std::size_t i = 0; i < ring.size(); ++i) {
    path += fmt::format("{} {} \"{}\" {} \"{}\"", i ? ", which" : "", ring[i]->carries ? "makes" : "must read",
                        graph_.targets_[ring[i]->target].name, ring[i]->carries ? "for" : "before",
                        graph_.passes_[ring[i]->to].name);
  }
  diagnostics_.error("cycle", graph_.passes_[at].place, fmt::format("the passes wait for each other: {}", path),
                     "break the ring: write another target, or move a pass to where its inputs are done");
}

void Planner::mark_needed() {
  std::vector<std::vector<std::uint32_t>> ins(graph_.passes_.size());
  for (const Edge& edge : edges_) {
    if (edge.carries) ins[edge.to].push_back(edge.from);
  }
  needed_.assign(graph_.passes_.size(), false);
  std::vector<std::uint32_t> open;
  const auto need = [&](std::uint32_t p) {
    if (!needed_[p]) open.push_back(p);
    needed_[p] = true;
  };
  if (!writers_[0].empty()) need(writers_[0].back());
  for (const std::uint32_t target : kept_) need(writers_[target].back());
  while (!open.empty()) {
    const std::uint32_t p = open.back();
    open.pop_back();
    for (const std::uint32_t from : ins[p]) need(from);
  }
}

void Planner::warn_unused_targets() {
  std::vector<bool> used(graph_.targets_.size(), false);
  for (const PassUses& uses : uses_) {
    for (const std::uint32_t target : uses.writes) used[target] = true;
  }
  for (std::size_t i = 1; i < used.size(); ++i) {
    if (used[i]) continue;
    diagnostics_.warning("unused-target", graph_.targets_[i].place,
                         fmt::format("no pass uses target \"{}\"", graph_.targets_[i].name), "remove it, or write it");
  }
}

FramePlan Planner::build() const {
  FramePlan plan;
  plan.width_ = width_;
  plan.height_ = height_;
  std::vector<std::uint32_t> planned_target(graph_.targets_.size(), none);
  std::vector<bool> written(graph_.targets_.size(), false);
  const auto use = [&](std::uint32_t target) {
    if (planned_target[target] == none) {
      const auto& declared = graph_.targets_[target];
      const auto [width, height] = sizes_[target];
      const auto bytes = static_cast<std::size_t>(width) * static_cast<std::size_t>(height) *
                         static_cast<std::size_t>(info(declared.description.format).bytes);
      planned_target[target] = static_cast<std::uint32_t>(plan.targets_.size());
      plan.targets_.push_back({declared.name, declared.description, width, height, bytes});
    }
    return planned_target[target];
  };
  for (const std::uint32_t p : order_) {
    const Pass& pass = graph_.passes_[p];
    if (!needed_[p]) {
      plan.removed_.push_back({pass.name, "nothing that reaches the output reads what it writes"});
      continue;
    }
    PlannedPass planned{pass.name, pass.kind, 0, 0, {}, {}, pass.work, pass.place};
    for (std::size_t i = 0; i < pass.reads.size(); ++i)
      planned.reads.push_back({pass.reads[i].slot, use(uses_[p].reads[i])});
    for (std::size_t i = 0; i < pass.writes.size(); ++i) {
      const std::uint32_t target = uses_[p].writes[i];
      const LoadAction load = pass.writes[i].overwrites ? LoadAction::discard
                              : written[target]         ? LoadAction::keep
                                                        : LoadAction::clear;
      written[target] = true;
      planned.writes.push_back({pass.writes[i].slot, use(target), load});
      planned.width = sizes_[target][0];
      planned.height = sizes_[target][1];
    }
    plan.passes_.push_back(std::move(planned));
  }
  return plan;
}

}  // namespace periscena
