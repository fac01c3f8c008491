#include <periscena/gl/frame_runner.h>

#include "gl/api.h"
#include "gl/clear.h"
#include "gl/connection.h"
#include "gl/frame_step.h"
#include "gl/frame_targets.h"
#include "gl/saved_state.h"

#include <periscena/base/error.h>
#include <periscena/base/names.h>

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <cstring>
#include <optional>
#include <utility>

namespace periscena::gl {

FrameRunner::FrameRunner(Device& device, FramePlan plan, std::vector<Outside> outside)
    : device_(device),
      plan_(plan),
      shared_(device),
      targets_(std::make_unique<FrameTargets>(device)),
      empty_vertices_("no vertices") {
  groups_ = device.listens() || device.debugger_attached();
  use(std::move(plan), std::move(outside));
}

FrameRunner::~FrameRunner() {
  // Names of what goes now may soon be those of something else.
  device_.state().forget();
}

void FrameRunner::write_frame_blocks(double seconds) {
  const auto time = static_cast<float>(seconds);
  for (std::size_t at = 0; at < frame_bytes_.size(); at += frame_stride_)
    std::memcpy(frame_bytes_.data() + at + offsetof(FrameBlock, time), &time, sizeof time);
  frame_blocks_.write(0, frame_bytes_);
  own_counts_.bytes_sent += frame_bytes_.size();
}

void FrameRunner::begin_pass(const PlannedPass& pass, Step& step, std::uint32_t framebuffer) {
  State& state = device_.state();
  state.bind_draw_framebuffer(framebuffer);
  state.set_viewport(pass.width, pass.height);
  state.bind_uniform_block(binding::frame_block, frame_blocks_.name(),
                           static_cast<std::uint32_t>(step.block * frame_stride_), sizeof(FrameBlock));
  std::size_t color = 0;
  for (const PlannedWrite& write : pass.writes) {
    const TargetDescription& target = plan_.targets()[write.target].description;
    if (write.load == LoadAction::clear) {
      const FormatInfo& format = info(target.format);
      state.open_write_masks(format.color(), format.depth, format.stencil);
      clear_attachment(framebuffer, target, format.color() ? step.draw_buffers[color] : 0);
    }
    color += is_color(write);
  }
}

void FrameRunner::finish_targets(const PlannedPass& pass, const Step& step, std::uint32_t framebuffer) {
  if (pass.finishes.empty()) return;
  if (!step.finished_attachments.empty()) {
    glInvalidateNamedFramebufferData(framebuffer, static_cast<GLsizei>(step.finished_attachments.size()),
                                     step.finished_attachments.data());
  }
  for (const std::uint32_t storage : step.finished_storages) targets_->own_texture(storage)->invalidate();
}

void FrameRunner::run_pass(std::size_t index, FrameTime time, const AfterPass& after_pass) {
  const PlannedPass& pass = plan_.passes()[index];
  Step& step = steps_[index];
  Connection& connection = step.connections[time.number % step.connections.size()];
  if (groups_) {
    glPushDebugGroup(GL_DEBUG_SOURCE_APPLICATION, static_cast<GLuint>(index), static_cast<GLsizei>(pass.name.size()),
                     pass.name.data());
  }
  step.counts = {};
  const std::uint64_t sent = device_.state().sent();
  if (pass.draws()) {
    begin_pass(pass, step, connection.framebuffer_name);
    device_.state().draw_within(pass.declared->within);
    // Calls of its own may rely on what is set.
    if (pass.declared->within != 0) device_.state().apply({});
    PassContext context(device_, pass, time, connection.framebuffer_name, connection.reads, empty_vertices_.name(),
                        step.counts, uploads_);
    step.work->prepare(context);
    step.work->run(context);
    device_.state().draw_within(0);
  } else {
    const PlannedWrite& write = pass.writes.front();
    if (write.load == LoadAction::clear)
      connection.operation.clear_result(device_.state(), plan_.targets()[write.target].description);
    connection.operation.run(device_.state(), empty_vertices_.name());
  }
  step.counts.state_changes = device_.state().sent() - sent;
  if (after_pass) after_pass(index);
  finish_targets(pass, step, connection.framebuffer_name);
  if (step.finishes_source) connection.operation.invalidate_source();
  if (groups_) glPopDebugGroup();
}

void FrameRunner::run(double seconds, const AfterPass& after_pass) {
  if (!std::isfinite(static_cast<float>(seconds))) {
    throw Mistake("not-finite", {}, fmt::format("the frame's time is {} s", seconds),
                  "give a number of seconds that a 32-bit float holds: GLSL gets it as one");
  }
  if (!ready_) {
    throw Mistake("no-plan", {}, "the runner has nothing to run, because its last plan could not be used",
                  "call use() with a plan that fits this device");
  }
  plan_.set_time(seconds);
  std::optional<SavedState> saved;
  if (device_.restores_state()) {
    saved.emplace();
    device_.state().forget();
  } else if (device_.listens()) {
    const std::string found = device_.state().first_difference();
    if (!found.empty()) {
      device_.state().forget();
      throw Mistake("state-changed", {}, fmt::format("since the last run, {}", found),
                    "make GL calls of your own in a pass, or tell device.state().forget(…) what they changed");
    }
  }
  follow_changes();
  const std::uint64_t sent = device_.state().sent();
  own_counts_ = {};
  device_.state().set_conventions();
  write_frame_blocks(seconds);
  own_counts_.state_changes = device_.state().sent() - sent;
  const bool begins = steps_since_ == 0;
  const FrameTime time{seconds, ++runs_, begins, begins ? seconds : last_seconds_, steps_since_++};
  last_seconds_ = seconds;
  find_idle(time);
  for (std::size_t i = 0; i < steps_.size(); ++i) {
    if (idle_.empty() || !idle_[i])
      run_pass(i, time, after_pass);
    else
      steps_[i].counts = {};
  }
  uploads_.next_frame();
}

/// From the last pass to the first: one runs when it writes what lasts, or what one that runs after it looks at or adds
/// to; and when it is its turn.
void FrameRunner::find_idle(const FrameTime& time) {
  const auto& passes = plan_.passes();
  const auto chooses = [](const PlannedPass& pass) { return pass.declared && pass.declared->chooses_reads; };
  const auto rests = [](const PlannedPass& pass) { return pass.declared && pass.declared->every > 1; };
  if (idle_.empty() &&
      std::none_of(passes.begin(), passes.end(), [&](const PlannedPass& pass) { return chooses(pass) || rests(pass); }))
    return;
  idle_.assign(passes.size(), 0);
  wanted_.assign(plan_.targets().size(), 0);
  for (std::size_t t = 0; t < wanted_.size(); ++t)
    wanted_[t] = plan_.targets()[t].lasts || plan_.targets()[t].frames > 1;
  for (std::size_t i = passes.size(); i-- > 0;) {
    const PlannedPass& pass = passes[i];
    idle_[i] = std::none_of(pass.writes.begin(), pass.writes.end(),
                            [&](const PlannedWrite& write) { return wanted_[write.target] != 0; });
    if (idle_[i]) {
      steps_[i].holds = false;
      continue;
    }
    if (rests(pass)) {
      idle_[i] = steps_[i].holds && time.step % static_cast<std::uint64_t>(pass.declared->every) != 0;
      steps_[i].holds = true;
      if (idle_[i]) continue;
    }
    for (const PlannedWrite& write : pass.writes) wanted_[write.target] = 1;
    for (std::size_t r = 0; r < pass.reads.size(); ++r) {
      if (!chooses(pass) || steps_[i].work->looks_at(r, time.seconds)) wanted_[pass.reads[r].target] = 1;
    }
  }
}

void FrameRunner::reset_history() {
  begin_anew();
  std::optional<SavedState> saved;
  if (device_.restores_state()) saved.emplace();
  device_.state().forget();
  targets_->clear_history(plan_, false);
  device_.state().forget();
}

void FrameRunner::begin_anew() {
  steps_since_ = 0;
  for (Step& step : steps_) step.holds = false;
}

void FrameRunner::run_settled(double seconds, int steps, double rate, const AfterPass& after_pass) {
  if (plan_.has_history()) {
    reset_history();
    for (int i = steps; i > 0; --i) run(seconds - i / rate);
  } else {
    begin_anew();
  }
  run(seconds, after_pass);
}

void FrameRunner::draw_all_anew() {
  for (std::size_t i = 0; i < steps_.size(); ++i) {
    const PlannedPass& pass = plan_.passes()[i];
    steps_[i].holds = false;
    if (!steps_[i].work || !stays(pass)) continue;
    PassSetup setup(device_, shared_, plan_, pass);
    steps_[i].work->resize(setup);
  }
}

void FrameRunner::wait() const {
  glFinish();
}

const Camera* FrameRunner::camera(std::size_t pass, int layer) const {
  if (const Camera* camera = steps_[pass].work ? steps_[pass].work->camera_of_layer(layer) : nullptr) return camera;
  const std::shared_ptr<const Pass>& declared = steps_[pass].declared;
  return declared && declared->camera ? &*declared->camera : nullptr;
}

Counts FrameRunner::counts(std::size_t pass) const {
  Counts counts = steps_[pass].counts;
  if (steps_[pass].work) steps_[pass].work->count_on_device(counts);
  return counts;
}

Counts FrameRunner::counts() const {
  Counts sum = own_counts_;
  for (std::size_t i = 0; i < steps_.size(); ++i) sum += counts(i);
  return sum;
}

Diagnostics FrameRunner::diagnostics() const {
  Diagnostics all = diagnostics_;
  for (const Step& step : steps_) {
    if (step.work) all.append(step.work->diagnostics());
  }
  return all;
}

std::vector<Choice> FrameRunner::choices(std::size_t pass) const {
  return steps_[pass].work ? steps_[pass].work->choices() : std::vector<Choice>();
}

std::vector<Batch> FrameRunner::batches(std::size_t pass) const {
  return steps_[pass].work ? steps_[pass].work->batches() : std::vector<Batch>();
}

std::uint32_t FrameRunner::lasting(std::string_view name, const Place& place) const {
  const auto found = plan_.find_target(name);
  if (!found) {
    throw Mistake("unknown-target", place, fmt::format("the plan has no target \"{}\"", name),
                  name_hint(name, plan_.target_names()));
  }
  const PlannedTarget& target = plan_.targets()[*found];
  if (target.resolved_into && plan_.targets()[*target.resolved_into].lasts) return *target.resolved_into;
  if (target.lasts && targets_->own_texture(target.storage)) return *found;
  throw Mistake("not-kept", place,
                fmt::format("the contents of target \"{}\" do not last to the end of the frame", name),
                fmt::format("keep them: frame.keep(\"{}\"); or look at them after a pass", name));
}

const Texture& FrameRunner::texture(std::string_view name, Place place) const {
  const PlannedTarget& target = plan_.targets()[lasting(name, place)];
  return targets_->texture(target, targets_->storage_of(target, runs_));
}

Image FrameRunner::read(std::string_view name, const TargetPart& part, Place place) const {
  return texture(name, std::move(place)).read(part.level, part.layer, part.aspect);
}

Image FrameRunner::look(std::uint32_t index, const TargetPart& part) {
  const PlannedTarget& target = plan_.targets()[index];
  const std::uint32_t storage = targets_->storage_of(target, runs_);
  if (target.samples == 1 && !targets_->is_renderbuffer(storage)) {
    if (target.description.origin == Origin::outside_framebuffer) {
      throw Mistake("outside-framebuffer", {}, fmt::format("\"{}\" is a framebuffer made outside", target.name),
                    "read it with calls of your own");
    }
    return targets_->texture(target, storage).read(part.level, part.layer, part.aspect);
  }
  const Texture copy({.width = target.width, .height = target.height, .format = target.description.format}, "look");
  OperationEnd from{nullptr, {targets_->attached(target, storage, 0, part.layer)}, target.description.format};
  Texture one_layer;
  if (!targets_->is_renderbuffer(storage)) {
    one_layer =
        Texture::view(targets_->texture(target, storage), {target.description.format, all_levels, part.layer}, "look");
    from.texture = &one_layer;
  }
  ResolveRule rule = target.description.resolve_rule();
  // A renderbuffer is there for the driver's own copies alone.
  if (targets_->is_renderbuffer(storage) && rule != ResolveRule::average) rule = ResolveRule::average;
  const OperationStep resolve(shared_,
                              target.samples > 1 ? Operation(ResolveOperation{rule}) : Operation(CopyOperation{}), from,
                              {&copy, {Attached(copy)}, target.description.format}, "look");
  resolve.run(device_.state(), empty_vertices_.name());
  Image image = copy.read(0, 0, part.aspect);
  device_.state().forget();
  return image;
}

}  // namespace periscena::gl
