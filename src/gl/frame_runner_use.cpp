// What a runner makes of a plan: all but running it.

#include "gl/frame_step.h"
#include "gl/frame_targets.h"
#include "gl/saved_state.h"

#include <periscena/gl/frame_runner.h>

#include <periscena/base/error.h>

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cstring>
#include <optional>
#include <utility>

namespace periscena::gl {
namespace {

std::size_t round_up(std::size_t value, std::size_t step) {
  return (value + step - 1) / step * step;
}

GLenum attachment_point(const PlannedTarget& target, int color) {
  const FormatInfo& format = info(target.description.format);
  if (format.depth) return format.stencil ? GL_DEPTH_STENCIL_ATTACHMENT : GL_DEPTH_ATTACHMENT;
  return format.stencil ? GL_STENCIL_ATTACHMENT : GL_COLOR_ATTACHMENT0 + static_cast<GLenum>(color);
}

using Writers = std::vector<std::vector<std::shared_ptr<const Pass>>>;

/// By target: the passes that write it and that others may ask what they are. Of those that say nothing nobody does,
/// nor of filters: plan() makes new ones each time where it fuses them.
Writers writers_of(const FramePlan& plan) {
  Writers writers(plan.targets().size());
  for (const PlannedPass& pass : plan.passes()) {
    for (const PlannedWrite& write : pass.writes) {
      const bool asked = pass.declared && !std::holds_alternative<FilterChain>(pass.declared->facts) &&
                         !std::holds_alternative<PlainFacts>(pass.declared->facts) &&
                         !std::holds_alternative<std::monostate>(pass.declared->facts);
      if (asked) writers[write.target].push_back(pass.declared);
    }
  }
  return writers;
}

/// The passes that write what one reads.
std::vector<std::shared_ptr<const Pass>> sources_of(const FramePlan& plan, const PlannedPass& pass,
                                                    const Writers& writers) {
  std::vector<std::shared_ptr<const Pass>> sources;
  for (const PlannedRead& read : pass.reads) {
    const auto& found = writers[plan.targets()[read.target].resolved_from.value_or(read.target)];
    sources.insert(sources.end(), found.begin(), found.end());
  }
  return sources;
}

/// Does the pass, as it is now, fit the targets that were planned for it?
void expect_fitting_targets(const Pass& pass, const FramePlan& plan, const PlannedPass& planned) {
  if (!pass.check_targets) return;
  std::vector<WrittenTarget> written;
  for (const PlannedWrite& write : planned.writes) {
    const PlannedTarget& target = plan.targets()[write.target];
    written.push_back({target.name, pass.place, target.width, target.height, target.layers, write.layer,
                       target.description.format, target.samples});
  }
  Diagnostics problems;
  pass.check_targets(written, problems);
  if (problems.has_errors()) throw Mistake(std::move(problems));
}

}  // namespace

void FrameRunner::use(FramePlan plan, std::vector<Outside> outside) {
  const FramePlan before = plan_;
  const bool goes_on = ready_;
  try {
    take(std::move(plan), outside);
    outside_ = std::move(outside);
  } catch (...) {
    if (goes_on) take_back(before);
    throw;
  }
}

/// After a plan that can't be used. What fails now, too, is the machine: then there is nothing to run.
void FrameRunner::take_back(const FramePlan& before) {
  ready_ = false;
  try {
    take(before, outside_);
  } catch (const Error&) {
    // ready_ stays false.
  }
}

void FrameRunner::take(FramePlan plan, const std::vector<Outside>& outside) {
  steps_since_ = 0;
  idle_.clear();
  std::optional<SavedState> saved;
  if (device_.restores_state()) saved.emplace();
  device_.state().forget();
  const bool goes_on = ready_;
  ready_ = false;
  diagnostics_ = {};
  if (goes_on) tell_lost_history(plan);
  targets_->change(goes_on ? &plan_ : nullptr, plan, outside);
  plan_ = std::move(plan);
  take_latest_options();
  tell_sample_counts();
  std::vector<Step> earlier = std::move(steps_);
  steps_.clear();
  steps_.reserve(plan_.passes().size());
  const Writers writers = writers_of(plan_);
  for (std::size_t i = 0; i < plan_.passes().size(); ++i)
    make_step(i, sources_of(plan_, plan_.passes()[i], writers), earlier);
  make_frame_blocks();
  earlier.clear();
  shared_.let_go();
  device_.state().forget();
  ready_ = true;
}

void FrameRunner::make_step(std::size_t index, std::vector<std::shared_ptr<const Pass>> sources,
                            std::vector<Step>& earlier) {
  const PlannedPass& pass = plan_.passes()[index];
  Step step;
  const auto same = std::find_if(earlier.begin(), earlier.end(), [&](const Step& one) {
    return pass.declared && one.declared == pass.declared && one.sources == sources;
  });
  if (same != earlier.end()) step = std::move(*same);
  const bool resized = step.width != pass.width || step.height != pass.height;
  step.declared = pass.declared;
  step.options_seen = pass.declared ? version_of(*pass.declared) : 0;
  step.sources = std::move(sources);
  step.holds = false;
  step.width = pass.width;
  step.height = pass.height;
  step.connections = Connector(*targets_, shared_, plan_, pass).connect(std::move(step.connections));
  if (pass.draws()) {
    if (!step.work) {
      make_work(step, pass);
    } else if (resized || stays(pass)) {
      PassSetup setup(device_, shared_, plan_, pass);
      step.work->resize(setup);
    }
    route_outputs(step);
  }
  list_finished(step, pass);
  steps_.push_back(std::move(step));
}

void FrameRunner::route_outputs(Step& step) const {
  const bool outside = !step.connections.empty() && step.connections[0].framebuffer.name() == 0;
  for (Connection& connection : step.connections) {
    if (!step.output_order.empty() && !outside) connection.framebuffer.route_outputs(step.output_order);
  }
}

/// Lets the plan's passes be what their options say now.
void FrameRunner::take_latest_options() {
  std::vector<std::shared_ptr<const Pass>> now;
  for (const PlannedPass& pass : plan_.passes()) {
    now.push_back(latest(pass.declared));
    if (now.back() != pass.declared) expect_fitting_targets(*now.back(), plan_, pass);
  }
  for (std::size_t i = 0; i < now.size(); ++i) plan_.update(i, std::move(now[i]));
}

/// Hands changed options to the work of their passes. Works that can't take them over go, and those of passes that have
/// asked what such a pass is.
/// @return what works that were made again for that can share as before
std::vector<std::shared_ptr<void>> FrameRunner::follow_options() {
  const auto is_changed = [](const Step& step) {
    return step.declared && version_of(*step.declared) != step.options_seen;
  };
  if (std::none_of(steps_.begin(), steps_.end(), is_changed)) return {};
  const bool stale = std::any_of(steps_.begin(), steps_.end(), [](const Step& step) { return step.is_stale(); });
  auto held = stale ? std::vector<std::shared_ptr<void>>() : shared_.hold();
  take_latest_options();
  const Writers writers = writers_of(plan_);
  for (std::size_t i = 0; i < steps_.size(); ++i) {
    const PlannedPass& pass = plan_.passes()[i];
    Step& step = steps_[i];
    auto sources = sources_of(plan_, pass, writers);
    const bool changed = pass.declared != step.declared;
    const bool stays_as_it_is = sources == step.sources && (!changed || (step.work && step.work->take(*pass.declared)));
    if (!stays_as_it_is) step.work = nullptr;
    if (changed) step.holds = false;
    step.declared = pass.declared;
    step.options_seen = pass.declared ? version_of(*pass.declared) : 0;
    step.sources = std::move(sources);
  }
  return held;
}

/// Makes the work of passes again that were made from what has changed. All of them let go of theirs first: they share
/// what they were made from.
void FrameRunner::follow_changes() {
  const auto held = follow_options();
  const bool stale = std::any_of(steps_.begin(), steps_.end(), [](const Step& step) { return step.is_stale(); });
  const auto kept = stale ? shared_.hold_fitting() : std::vector<std::shared_ptr<void>>();
  bool lacks_work = false;
  for (std::size_t i = 0; i < steps_.size(); ++i) {
    if (steps_[i].is_stale()) steps_[i].work = nullptr;
    lacks_work = lacks_work || (plan_.passes()[i].draws() && !steps_[i].work);
  }
  if (!lacks_work) return;
  shared_.let_go();
  device_.state().forget();
  for (std::size_t i = 0; i < steps_.size(); ++i) {
    if (!plan_.passes()[i].draws() || steps_[i].work) continue;
    make_work(steps_[i], plan_.passes()[i]);
    route_outputs(steps_[i]);
  }
  device_.state().forget();
}

/// What the pass is the last to use, by how its contents are given up.
void FrameRunner::list_finished(Step& step, const PlannedPass& pass) const {
  step.finished_attachments.clear();
  step.finished_storages.clear();
  step.finishes_source = false;
  for (const std::uint32_t target : pass.finishes) {
    int color = 0;
    const auto write = std::find_if(pass.writes.begin(), pass.writes.end(), [&](const PlannedWrite& one) {
      const bool found = one.target == target;
      color += !found && is_color(one);
      return found;
    });
    if (write != pass.writes.end() && pass.draws()) {
      step.finished_attachments.push_back(attachment_point(plan_.targets()[target], color));
    } else if (!pass.draws() && pass.reads[0].target == target) {
      step.finishes_source = true;
    } else if (targets_->own_texture(plan_.targets()[target].storage)) {
      step.finished_storages.push_back(plan_.targets()[target].storage);
    }
  }
}

void FrameRunner::make_work(Step& step, const PlannedPass& pass) {
  PassSetup setup(device_, shared_, plan_, pass);
  device_.programs().take_files();
  step.work = pass.declared->work->make(setup);
  step.files = device_.programs().take_files();
  step.watched.clear();
  for (const ChangeCount& count : setup.watched()) step.watched.push_back({count, count()});
  step.holds = false;
  step.output_order = setup.output_order();
  step.draw_buffers.clear();
  const auto& order = step.output_order;
  const auto colors = static_cast<int>(std::count_if(pass.writes.begin(), pass.writes.end(), is_color));
  for (int color = 0; color < colors; ++color) {
    const auto location = std::find(order.begin(), order.end(), color) - order.begin();
    step.draw_buffers.push_back(order.empty() ? color : static_cast<int>(location));
  }
}

/// One block for each size that passes draw at.
void FrameRunner::make_frame_blocks() {
  const auto alignment = static_cast<std::size_t>(device_.capabilities().limit("UNIFORM_BUFFER_OFFSET_ALIGNMENT"));
  frame_stride_ = round_up(sizeof(FrameBlock), std::max<std::size_t>(16, alignment));
  std::vector<std::array<int, 2>> sizes;
  for (Step& step : steps_) {
    const std::array size{step.width, step.height};
    const auto known = std::find(sizes.begin(), sizes.end(), size) - sizes.begin();
    if (static_cast<std::size_t>(known) == sizes.size()) sizes.push_back(size);
    step.block = static_cast<std::uint32_t>(known);
  }
  const std::size_t bytes = std::max<std::size_t>(1, sizes.size()) * frame_stride_;
  if (frame_blocks_.size() != bytes) frame_blocks_ = Buffer::writable(bytes, "frame blocks");
  frame_bytes_.assign(bytes, std::byte{0});
  for (std::size_t i = 0; i < sizes.size(); ++i) {
    FrameBlock block;
    block.resolution = Vec2(static_cast<float>(sizes[i][0]), static_cast<float>(sizes[i][1]));
    block.size = Vec2(static_cast<float>(plan_.width()), static_cast<float>(plan_.height()));
    std::memcpy(frame_bytes_.data() + i * frame_stride_, &block, sizeof block);
  }
}

void FrameRunner::tell_sample_counts() {
  for (const PlannedTarget& target : plan_.targets()) {
    if (target.samples == 1 || target.description.origin != Origin::ours) continue;
    const int given = targets_->samples(target.storage);
    if (given == target.samples) continue;
    diagnostics_.warning("sample-count", {},
                         fmt::format("target \"{}\" was made with {} samples, and the driver gave {}", target.name,
                                     target.samples, given),
                         "the picture is right; it costs what the driver chose");
  }
}

/// What earlier frames were does not fit a target of another size.
void FrameRunner::tell_lost_history(const FramePlan& next) {
  for (const PlannedTarget& target : next.targets()) {
    if (target.frames == 1) continue;
    const auto known = plan_.find_target(target.name);
    if (!known) continue;
    const PlannedTarget& was = plan_.targets()[*known];
    if (was.frames == 1 || (was.width == target.width && was.height == target.height)) continue;
    diagnostics_.warning(
        "history-lost", {},
        fmt::format("target \"{}\" is {} x {} pixels now, and was {} x {}: passes that read {} begin anew", target.name,
                    target.width, target.height, was.width, was.height,
                    target.frames == 2 ? "what it was in the last frame" : "what it was in earlier frames"),
        "for what shall go on while sizes change, give the target a size of its own: size = [1280, 720]");
  }
}

}  // namespace periscena::gl
