#pragma once

#include <periscena/gl/buffer.h>
#include <periscena/gl/framebuffer.h>
#include <periscena/gl/pass_work.h>
#include <periscena/gl/sampler.h>

#include <string_view>

namespace periscena::gl {

/// Runs a plan on a device. Making it makes everything that frames need: targets, framebuffers, programs; running it
/// makes nothing.
class FrameRunner {
 public:
  /// @param device  must outlive the runner, and be current
  /// @throws Mistake for mistakes in shaders and their inputs; Error "out-of-memory", "framebuffer-incomplete"
  FrameRunner(Device& device, FramePlan plan);
  FrameRunner(const FrameRunner&) = delete;
  FrameRunner& operator=(const FrameRunner&) = delete;
  ~FrameRunner();

  /// The frame as it is at `seconds`. The same time gives the same pixels. Each pass is a debug group of its name.
  /// @throws Mistake "not-finite"
  void run(double seconds);

  /// A target's contents after the last run. @throws Mistake "unknown-target" with the nearest name
  Image read(std::string_view target, Place place = Place::here()) const;

  /// The target itself, for calls of your own. @throws as read
  const Texture& texture(std::string_view target, Place place = Place::here()) const;

  const FramePlan& plan() const { return plan_; }

 private:
  struct PassResources;

  void make_pass(const PlannedPass& pass, std::uint32_t index);
  void run_pass(std::size_t index, FrameTime time);
  void write_frame_blocks(double seconds);

  Device& device_;
  FramePlan plan_;
  SharedThings shared_;
  std::vector<Texture> textures_;  ///< by target
  std::vector<PassResources> passes_;
  Buffer frame_blocks_;
  std::vector<std::byte> frame_bytes_;
  std::size_t frame_stride_ = 0;
  VertexArray empty_vertices_;  ///< core profile draws want one bound, even without attributes
  std::uint64_t runs_ = 0;
};

}  // namespace periscena::gl
