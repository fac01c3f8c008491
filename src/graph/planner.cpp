#include "graph/planner.h"

#include "graph/plan_builder.h"
#include "graph/samples.h"

#include <periscena/base/names.h>

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <queue>

namespace periscena {

PlanResult Planner::plan(std::vector<RemovedPass> gone) {
  gone_ = std::move(gone);
  check_frame();
  check_targets();
  resolve_uses();
  SampleCounts(*this).find();
  count_parts();
  find_writers();
  check_passes();
  find_edges();
  check_outputs();
  const bool ordered = order_passes();
  if (diagnostics_.has_errors() || !ordered) return {std::nullopt, std::move(diagnostics_)};
  mark_needed();
  check_colors();
  warn_unused_targets();
  FramePlan built = PlanBuilder(*this).build();
  if (diagnostics_.has_errors()) return {std::nullopt, std::move(diagnostics_)};
  return {std::move(built), std::move(diagnostics_)};
}

std::string Planner::quoted(std::uint32_t index) const {
  return fmt::format("pass \"{}\"", pass(index).name);
}

const Place& Planner::place_of(const TargetUse& use, std::uint32_t index) const {
  return use.reference.place.known() ? use.reference.place : pass(index).place;
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
  targets_.resize(graph_.targets_.size());
  target_by_name_.reserve(graph_.targets_.size());
  for (std::uint32_t i = 0; i < graph_.targets_.size(); ++i) {
    const auto& target = graph_.targets_[i];
    if (target.name.empty()) {
      diagnostics_.error("empty-name", target.place, "a target has no name", "name it, such as \"scene.color\"");
    } else if (!target_by_name_.emplace(target.name, i).second) {
      diagnostics_.error("taken-name", target.place, fmt::format("there are two targets named \"{}\"", target.name),
                         i > 0 && target.name == "output" ? "\"output\" is the frame's picture and is always there"
                                                          : "choose another name for one of them");
    }
    check_target_values(i);
    check_target_size(i);
    check_target_shape(i);
    check_resolve_rule(i);
  }
}

/// Do all that write it draw the same at any size?
bool Planner::may_shrink(std::uint32_t index) const {
  bool written = false;
  for (const auto& pass : graph_.passes_) {
    for (const Write& write : pass->writes) {
      const TargetUse& use = write.target;
      const bool same =
          use.handle.valid() ? use.handle.index == index : use.reference.name == graph_.targets_[index].name;
      if (same && write.fit == TargetFit::exact) return false;
      written = written || same;
    }
  }
  return written;
}

void Planner::check_target_size(std::uint32_t index) {
  const auto& target = graph_.targets_[index];
  const TargetSize& size = target.description.size;
  std::array<int, 2> pixels{};
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
  if (limits_.asked && !size.follows_frame() && std::max(pixels[0], pixels[1]) > limits_.largest_size &&
      may_shrink(index)) {
    const std::array<int, 2> wanted = pixels;
    for (int& side : pixels) side = std::min(side, limits_.largest_size);
    diagnostics_.warning("size-lowered", target.place,
                         fmt::format("target \"{}\" is {} x {} pixels, over the {} of this device; it is made {} x {}",
                                     target.name, wanted[0], wanted[1], limits_.largest_size, pixels[0], pixels[1]),
                         "give it a size that all your devices have: OpenGL 4.5 guarantees 16384");
  }
  targets_[index].width = pixels[0];
  targets_[index].height = pixels[1];
  // When the frame itself is too large, that is told once.
  if (size.follows_frame() && !frame_fits_) return;
  if (std::max(pixels[0], pixels[1]) > limits_.largest_size)
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
                     [&] { return name_hint(use.reference.name, graph_.target_names()); });
  return none;
}

void Planner::resolve_uses() {
  const auto count = graph_.passes_.size();
  first_use_.reserve(count);
  uses_.reserve(4 * count);
  for (std::uint32_t p = 0; p < count; ++p) {
    first_use_.push_back(static_cast<std::uint32_t>(uses_.size()));
    const auto resolve_all = [&](const auto& declared) {
      for (const auto& use : declared) {
        // The message is only made when it is needed: plans of 10,000 passes are made in milliseconds.
        const bool known_handle = use.target.handle.valid() && use.target.handle.index < graph_.targets_.size();
        uses_.push_back(known_handle ? use.target.handle.index : resolve(use.target, quoted(p)));
      }
    };
    resolve_all(pass(p).reads);
    resolve_all(pass(p).writes);
  }
  for (const TargetUse& use : graph_.kept_) kept_.push_back(resolve(use, "keep()"));
}

void Planner::count_parts() {
  std::uint32_t next = 0;
  for (ResolvedTarget& target : targets_) {
    target.first_part = next;
    next += target.part_count();
  }
  first_writer_.assign(next + 1, 0);
}

void Planner::find_writers() {
  const auto for_written_parts = [&](auto action) {
    for (std::uint32_t p = 0; p < graph_.passes_.size(); ++p) {
      const auto targets = writes_of(p);
      for (std::size_t i = 0; i < targets.size(); ++i) {
        const Write& write = pass(p).writes[i];
        if (targets[i] != none)
          for_parts(targets[i], write.level, write.layer, [&](std::uint32_t part) { action(p, part); });
      }
    }
  };
  for_written_parts([&](std::uint32_t, std::uint32_t part) { ++first_writer_[part + 1]; });
  for (std::size_t part = 1; part < first_writer_.size(); ++part) first_writer_[part] += first_writer_[part - 1];
  writers_.resize(first_writer_.back());
  std::vector<std::uint32_t> next(first_writer_.begin(), first_writer_.end() - 1);
  for_written_parts([&](std::uint32_t p, std::uint32_t part) { writers_[next[part]++] = p; });
}

bool Planner::is_written(std::uint32_t target) const {
  const ResolvedTarget& known = targets_[target];
  return first_writer_[known.first_part] < first_writer_[known.first_part + known.part_count()];
}

void Planner::add_read_edges(std::uint32_t reader, std::uint32_t target, std::uint32_t part) {
  const auto writers = writers_of(part);
  if (writers.empty()) return;
  const auto add = [&](Edge edge) {
    const bool again = !edges_.empty() && edges_.back() == edge;
    if (!again && edge.from != edge.to) edges_.push_back(edge);
  };
  const auto after = std::lower_bound(writers.begin(), writers.end(), reader);
  if (after == writers.begin()) return add({writers.back(), reader, true, target});
  add({*(after - 1), reader, true, target});
  if (after != writers.end()) add({reader, *after, false, target});
}

void Planner::find_edges() {
  edges_.reserve(uses_.size() + writers_.size());
  for (std::uint32_t p = 0; p < graph_.passes_.size(); ++p) {
    const auto reads = reads_of(p), writes = writes_of(p);
    for (std::size_t i = 0; i < reads.size(); ++i) {
      const Read& read = pass(p).reads[i];
      if (reads[i] == none || read.history > 0) continue;
      for_parts(reads[i], read.level, read.layer, [&](std::uint32_t part) {
        // What a pass both reads and writes was told as a feedback loop.
        const auto writers = writers_of(part);
        if (!std::binary_search(writers.begin(), writers.end(), p)) add_read_edges(p, reads[i], part);
      });
    }
    for (std::size_t i = 0; i < writes.size(); ++i) {
      const Write& write = pass(p).writes[i];
      if (writes[i] == none) continue;
      for_parts(writes[i], write.level, write.layer, [&](std::uint32_t part) {
        const auto writers = writers_of(part);
        const auto self = std::lower_bound(writers.begin(), writers.end(), p);
        if (self != writers.begin())
          edges_.push_back({*(self - 1), p, write.covering != Covering::replaces, writes[i]});
      });
    }
  }
}

void Planner::check_outputs() {
  bool reaches = is_written(0);
  for (const std::uint32_t target : kept_) {
    if (target == none) continue;
    if (is_written(target)) {
      reaches = true;
    } else {
      diagnostics_.error("unwritten-target", {}, fmt::format("\"{}\" is kept, but no pass writes it", name(target)),
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
  for (std::uint32_t p = 0; p < graph_.passes_.size(); ++p) {
    const auto writes = writes_of(p);
    const bool tries = std::any_of(writes.begin(), writes.end(), [](std::uint32_t t) { return t == none || t == 0; });
    if (tries) return;
    if (writes.empty() && pass(p).problems.has_errors()) return;
  }
  diagnostics_.error("no-output", graph_.passes_.back()->place,
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
  std::string path = fmt::format("\"{}\"", pass(at).name);
  for (std::size_t i = 0; i < ring.size(); ++i) {
    path += fmt::format("{} {} \"{}\" {} \"{}\"", i ? ", which" : "", ring[i]->carries ? "makes" : "must read",
                        name(ring[i]->target), ring[i]->carries ? "for" : "before", pass(ring[i]->to).name);
  }
  diagnostics_.error("cycle", pass(at).place, fmt::format("the passes wait for each other: {}", path),
                     "break the ring: write another target, or move a pass to where its inputs are done");
}

void Planner::mark_needed() {
  const auto count = graph_.passes_.size();
  std::vector<std::uint32_t> first_in(count + 1), ins;
  for (const Edge& edge : edges_) first_in[edge.to + 1] += edge.carries;
  for (std::size_t i = 0; i < count; ++i) first_in[i + 1] += first_in[i];
  ins.resize(first_in.back());
  std::vector<std::uint32_t> next(first_in.begin(), first_in.end() - 1);
  for (const Edge& edge : edges_) {
    if (edge.carries) ins[next[edge.to]++] = edge.from;
  }
  needed_.assign(count, false);
  std::vector<std::uint32_t> open;
  const auto need = [&](std::uint32_t p) {
    if (!needed_[p]) open.push_back(p);
    needed_[p] = true;
  };
  const auto need_contents = [&](std::uint32_t target) {
    for_parts(target, all_levels, all_layers, [&](std::uint32_t part) {
      if (!writers_of(part).empty()) need(writers_of(part).back());
    });
  };
  need_contents(0);
  for (const std::uint32_t target : kept_) need_contents(target);
  while (!open.empty()) {
    const std::uint32_t p = open.back();
    open.pop_back();
    for (std::uint32_t i = first_in[p]; i < first_in[p + 1]; ++i) need(ins[i]);
    // What the next frame will read of this one is needed, too.
    for (std::size_t i = 0; i < pass(p).reads.size(); ++i) {
      if (pass(p).reads[i].history > 0) need_contents(reads_of(p)[i]);
    }
  }
}

void Planner::warn_unused_targets() {
  std::vector<bool> used(graph_.targets_.size(), false);
  for (const std::uint32_t target : uses_) used[target] = true;
  for (std::size_t i = 1; i < used.size(); ++i) {
    if (used[i]) continue;
    diagnostics_.warning("unused-target", graph_.targets_[i].place,
                         fmt::format("no pass uses target \"{}\"", graph_.targets_[i].name), "remove it, or write it");
  }
}

}  // namespace periscena
