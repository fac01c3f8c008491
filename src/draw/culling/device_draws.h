#pragma once

#include "draw/culling/depth_pyramid.h"
#include "draw/culling/object_draws.h"
#include "draw/scene/scene_buffers.h"
#include "draw/scene/view_camera.h"

#include <functional>
#include <optional>

namespace periscena::draw {

/// Draws of a scene's objects that the device culls: it tests each object's bounds against the view, and against what
/// was seen in the last frame, drawn once more from where the view is now, depth alone. It writes the commands, too, so
/// a view that moves costs the CPU nothing for each object.
///
/// What is drawn is in the order in which the CPU would have drawn it, and nothing that shows is missing: the picture
/// is the same.
class DeviceDraws {
 public:
  /// @param chosen, traits  by node; none that is chosen is blended
  /// @param occludes  by node: does all of its triangles hide what is behind them?
  /// @param any_side  by state: are back faces drawn, too?
  DeviceDraws(gl::Device& device, std::shared_ptr<SceneBuffers> scene, std::vector<bool> chosen,
              std::vector<batch::Traits> traits, batch::Batching batching, std::vector<bool> occludes,
              std::vector<bool> any_side);

  /// What hides others is drawn in this size. Without a depth target nothing hides anything: do not call it then.
  void hide(int width, int height, int samples, DepthOrder order);

  /// Once a frame, after the scene's and the view's own updates.
  void update(const gl::PassContext& context, const ViewCamera& view, bool view_changed);

  std::span<const batch::Run> runs() const { return list_.runs(); }
  void draw(const gl::PassContext& context, const batch::Run& run) const;

  /// Of the last frame. Waits for the device.
  void count_on_device(gl::Counts& counts) const;

  /// As of ObjectDraws.
  std::vector<gl::Batch> batches(std::span<const MaterialHandle> materials, const StateDifference& difference) const;

 private:
  void sort();
  void upload();
  void choose(const gl::PassContext& context, bool occluders);
  void draw_occluders(const gl::PassContext& context);
  void issue(const gl::PassContext& context, const batch::Run& run) const;

  struct Drawn {
    std::uint32_t commands = 0, instances = 0, triangles = 0;
  };
  std::vector<Drawn> drawn_now() const;

  std::shared_ptr<SceneBuffers> scene_;
  std::vector<bool> chosen_;
  std::vector<batch::Traits> traits_;
  std::vector<bool> occludes_, any_side_;
  batch::DrawList list_;
  std::vector<std::uint32_t> texture_sets_;
  std::uint64_t windings_ = 0;  ///< as of which the list is sorted
  int settled_ = 0;             ///< frames in a row in which nothing changed
  bool has_occluders_ = false;
  gl::Device& device_;
  gl::Program cull_, sum_, list_objects_, write_commands_;
  std::optional<gl::Program> depth_only_;
  std::optional<DepthPyramid> pyramid_;
  gl::Buffer entries_, ranks_, totals_, seen_, nodes_, plan_, commands_, runs_, drawn_;
  std::optional<gl::VertexArray> vertices_;
};

}  // namespace periscena::draw
