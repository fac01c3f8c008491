#include "gl/api.h"
#include "gl/saved_state.h"

#include <periscena/base/error.h>
#include <periscena/base/names.h>
#include <periscena/gl/frame_runner.h>

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <cstring>
#include <optional>

namespace periscena::gl {
namespace {

/// The Frame block of frame.glsl.
struct FrameBlock {
  Vec2 resolution = Vec2::Zero();
  Vec2 size = Vec2::Zero();
  float time = 0;
  float padding[3] = {};
};

std::size_t round_up(std::size_t value, std::size_t step) {
  return (value + step - 1) / step * step;
}

}  // namespace

struct FrameRunner::PassResources {
  Framebuffer framebuffer;
  std::vector<const Texture*> reads;
  std::vector<int> draw_buffers;  ///< by colour write: the output location that leads to it
  std::unique_ptr<PassWork> work;
};

FrameRunner::FrameRunner(Device& device, FramePlan plan)
    : device_(device), plan_(std::move(plan)), empty_vertices_("no vertices") {
  for (const PlannedTarget& target : plan_.targets()) {
    textures_.emplace_back(target.width, target.height, target.description.format, target.name);
  }
  const auto alignment = static_cast<std::size_t>(device.capabilities().limit("UNIFORM_BUFFER_OFFSET_ALIGNMENT"));
  frame_stride_ = round_up(sizeof(FrameBlock), std::max<std::size_t>(16, alignment));
  frame_bytes_.resize(std::max<std::size_t>(1, plan_.passes().size()) * frame_stride_);
  frame_blocks_ = Buffer::writable(frame_bytes_.size(), "frame blocks");
  passes_.reserve(plan_.passes().size());
  for (std::uint32_t i = 0; i < plan_.passes().size(); ++i) make_pass(plan_.passes()[i], i);
}

FrameRunner::~FrameRunner() = default;

void FrameRunner::make_pass(const PlannedPass& pass, std::uint32_t index) {
  FrameBlock block;
  block.resolution = Vec2(static_cast<float>(pass.width), static_cast<float>(pass.height));
  block.size = Vec2(static_cast<float>(plan_.width()), static_cast<float>(plan_.height()));
  std::memcpy(frame_bytes_.data() + index * frame_stride_, &block, sizeof block);

  PassResources resources;
  std::vector<const Texture*> colors;
  const Texture* depth = nullptr;
  for (const PlannedWrite& write : pass.writes) {
    (write.slot == "depth" ? depth : colors.emplace_back()) = &textures_[write.target];
  }
  for (const PlannedRead& read : pass.reads) resources.reads.push_back(&textures_[read.target]);
  resources.framebuffer = Framebuffer(colors, depth, pass.name);
  PassSetup setup(device_, shared_, plan_, pass);
  resources.work = pass.work(setup);
  const std::vector<int>& order = setup.output_order();
  if (!order.empty()) resources.framebuffer.route_outputs(order);
  for (int color = 0; color < static_cast<int>(colors.size()); ++color) {
    const auto location = std::find(order.begin(), order.end(), color) - order.begin();
    resources.draw_buffers.push_back(order.empty() ? color : static_cast<int>(location));
  }
  passes_.push_back(std::move(resources));
}

void FrameRunner::write_frame_blocks(double seconds) {
  const auto time = static_cast<float>(seconds);
  for (std::size_t i = 0; i < passes_.size(); ++i) {
    std::memcpy(frame_bytes_.data() + i * frame_stride_ + offsetof(FrameBlock, time), &time, sizeof time);
  }
  frame_blocks_.write(0, frame_bytes_);
}

void FrameRunner::run_pass(std::size_t index, FrameTime time) {
  const PlannedPass& pass = plan_.passes()[index];
  const PassResources& resources = passes_[index];
  State& state = device_.state();
  glPushDebugGroup(GL_DEBUG_SOURCE_APPLICATION, static_cast<GLuint>(index), static_cast<GLsizei>(pass.name.size()),
                   pass.name.data());
  state.bind_draw_framebuffer(resources.framebuffer.name());
  state.set_viewport(pass.width, pass.height);
  state.bind_uniform_block(binding::frame_block, frame_blocks_.name(),
                           static_cast<std::uint32_t>(index * frame_stride_), sizeof(FrameBlock));
  std::size_t color = 0;
  for (const PlannedWrite& write : pass.writes) {
    const TargetDescription& target = plan_.targets()[write.target].description;
    const bool depth = write.slot == "depth";
    if (write.load == LoadAction::clear) {
      state.open_write_masks();
      if (depth) {
        resources.framebuffer.clear_depth(target.clear_depth);
      } else {
        const auto& c = target.clear_color;
        resources.framebuffer.clear_color(resources.draw_buffers[color], {c[0], c[1], c[2], c[3]});
      }
    }
    if (!depth) ++color;
  }
  PassContext context(device_, pass, time, resources.framebuffer.name(), resources.reads, empty_vertices_.name());
  resources.work->run(context);
  glPopDebugGroup();
}

void FrameRunner::run(double seconds) {
  if (!std::isfinite(static_cast<float>(seconds))) {
    throw Mistake("not-finite", {}, fmt::format("the frame's time is {} s", seconds),
                  "give a number of seconds that a 32-bit float holds: GLSL gets it as one");
  }
  std::optional<SavedState> saved;
  if (device_.adopted()) saved.emplace();
  // Other code may have used the context since the last run, and names of deleted objects may be in use again.
  device_.state().forget();
  device_.state().set_conventions();
  write_frame_blocks(seconds);
  const FrameTime time{seconds, ++runs_};
  for (std::size_t i = 0; i < passes_.size(); ++i) run_pass(i, time);
}

const Texture& FrameRunner::texture(std::string_view target, Place place) const {
  if (const auto found = plan_.find_target(target)) return textures_[*found];
  throw Mistake("unknown-target", std::move(place), fmt::format("the plan has no target \"{}\"", target),
                name_hint(target, plan_.target_names()));
}

Image FrameRunner::read(std::string_view target, Place place) const {
  return texture(target, std::move(place)).read();
}

}  // namespace periscena::gl
