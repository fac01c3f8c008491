#include <periscena/gl/frame_runner.h>

#include "gl/api.h"
#include "gl/clear.h"
#include "gl/connection.h"
#include "gl/frame_targets.h"
#include "gl/saved_state.h"

#include <periscena/base/error.h>
#include <periscena/base/names.h>

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <cstring>
#include <numeric>
#include <optional>
#include <utility>

namespace periscena::gl {
namespace {

/// The Frame block of frame.glsl.
struct FrameBlock {
  Vec2 resolution = Vec2::zero();
  Vec2 size = Vec2::zero();
  float time = 0;
  float padding[3] = {};
};

std::size_t round_up(std::size_t value, std::size_t step) {
  return (value + step - 1) / step * step;
}

bool is_color(const PlannedWrite& write) {
  return is_color_slot(write.slot);
}

GLenum attachment_point(const PlannedTarget& target, int color) {
  const FormatInfo& format = info(target.description.format);
  if (format.depth) return format.stencil ? GL_DEPTH_STENCIL_ATTACHMENT : GL_DEPTH_ATTACHMENT;
  return format.stencil ? GL_STENCIL_ATTACHMENT : GL_COLOR_ATTACHMENT0 + static_cast<GLenum>(color);
}

/// Does it rely on what it drew before? Its storage may be another one now.
bool stays(const PlannedPass& pass) {
  const auto& writes = pass.declared->writes;
  return std::any_of(writes.begin(), writes.end(),
                     [](const Write& write) { return write.covering == Covering::rests; });
}

using Writers = std::vector<std::vector<std::shared_ptr<const Pass>>>;

/// By target: the passes that write it and that others may ask what they are. Of filters nobody does, and plan() makes
/// new ones each time where it fuses them.
Writers writers_of(const FramePlan& plan) {
  Writers writers(plan.targets().size());
  for (const PlannedPass& pass : plan.passes()) {
    for (const PlannedWrite& write : pass.writes) {
      const bool asked = pass.declared && !std::holds_alternative<FilterChain>(pass.declared->facts);
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

}  // namespace

/// A pass on the device.
struct FrameRunner::Step {
  std::shared_ptr<const Pass> declared;
  std::vector<std::shared_ptr<const Pass>> sources;  ///< that write what it reads: its work may have asked them
  int width = 0, height = 0;
  std::unique_ptr<PassWork> work;
  std::vector<int> output_order;  ///< by output location: the colour write it goes to
  std::vector<int> draw_buffers;  ///< by colour write: the output location that leads to it
  std::vector<Connection> connections;
  std::uint32_t block = 0;                       ///< which frame block
  std::vector<GLenum> finished_attachments;      ///< to invalidate
  std::vector<std::uint32_t> finished_storages;  ///< textures that it only read
  bool finishes_source = false;                  ///< of an operation
  Counts counts;                                 ///< of the last run
  bool holds = false;                            ///< does what it wrote last count?
};

FrameRunner::FrameRunner(Device& device, FramePlan plan, std::vector<Outside> outside)
    : device_(device), plan_(plan), targets_(std::make_unique<FrameTargets>(device)), empty_vertices_("no vertices") {
  groups_ = device.listens() || device.debugger_attached();
  use(std::move(plan), std::move(outside));
}

FrameRunner::~FrameRunner() {
  // Names of what goes now may soon be those of something else.
  device_.state().forget();
}

void FrameRunner::use(FramePlan plan, std::vector<Outside> outside) {
  steps_since_ = 0;
  idle_.clear();
  std::optional<SavedState> saved;
  if (device_.adopted()) saved.emplace();
  device_.state().forget();
  const bool goes_on = ready_;
  ready_ = false;
  diagnostics_ = {};
  if (goes_on) tell_lost_history(plan);
  targets_->change(goes_on ? &plan_ : nullptr, plan, outside);
  plan_ = std::move(plan);
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
    const bool outside = !step.connections.empty() && step.connections[0].framebuffer.name() == 0;
    for (Connection& connection : step.connections) {
      if (!step.output_order.empty() && !outside) connection.framebuffer.route_outputs(step.output_order);
    }
  }
  list_finished(step, pass);
  steps_.push_back(std::move(step));
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
  step.work = pass.declared->work->make(setup);
  step.output_order = setup.output_order();
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

void FrameRunner::write_frame_blocks(double seconds) {
  const auto time = static_cast<float>(seconds);
  for (std::size_t at = 0; at < frame_bytes_.size(); at += frame_stride_)
    std::memcpy(frame_bytes_.data() + at + offsetof(FrameBlock, time), &time, sizeof time);
  frame_blocks_.write(0, frame_bytes_);
  own_counts_.bytes_sent += frame_bytes_.size();
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
  std::optional<SavedState> saved;
  if (device_.adopted()) {
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
  if (device_.adopted()) saved.emplace();
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
    if (!pass.draws() || !stays(pass)) continue;
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
