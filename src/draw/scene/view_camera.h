#pragma once

#include "draw/scene/scene_buffers.h"

#include <memory>

namespace periscena::draw {

/// What a pass looks through, on the device. A view that follows a node is placed anew in each frame.
class ViewCamera {
 public:
  /// @param view  one of the scene's
  /// @param batching  of the buffers that the pass draws the scene from, if it does; they move the view
  /// @param jitters  for passes that draw what it sees; not for those that only want to know what that is
  ViewCamera(gl::PassSetup& setup, const std::shared_ptr<const Scene>& scene, const Reference& view,
             batch::Batching batching = batch::Batching::automatic, bool jitters = true);

  /// For targets of another shape.
  void resize(gl::PassSetup& setup);

  /// Once a frame, before anything is asked. @return does it see otherwise than when this was last called?
  bool update(const gl::PassContext& context);

  void bind(gl::State& state) const;

  const Camera& camera() const { return placed_->camera; }
  const CameraBlock& block() const { return placed_->block; }  ///< as it is bound: jittered
  float aspect() const { return placed_->aspect; }

  /// The camera as it was, or will be. @param worlds  of the scene's nodes at that time
  Camera camera_among(std::span<const Transform> worlds) const {
    return view().node.valid() ? view().placed(worlds[view().node.index]) : view().camera;
  }

  /// How far the picture of this frame lies from where it would without jitter, as a share of clip space, which is 2
  /// wide.
  const Vec2& jitter() const { return placed_->jitter; }
  Frustum frustum() const { return Frustum::of(block().view_projection, camera().depth); }

 private:
  /// A view as it is in one frame, for all passes of a runner whose targets have the same shape.
  struct Placed {
    float aspect = 1;
    Camera camera;
    CameraBlock block;
    gl::Buffer buffer;
    std::vector<Vec2> places;  ///< in clip space, for frames in a row; empty: without jitter
    Vec2 jitter = Vec2::zero();
    std::uint64_t frame = 0;    ///< for which it was placed
    std::uint64_t version = 1;  ///< counts up with each change
    std::uint64_t set_at = 0;   ///< SceneVersions::views
  };
  using PlacedViews = std::vector<std::weak_ptr<Placed>>;

  std::shared_ptr<Placed> placed(gl::PassSetup& setup);
  void place(Placed& placed, const gl::PassContext& context) const;

  const View& view() const { return views_->at(view_); }

  std::shared_ptr<const Scene> views_;
  ViewHandle view_;
  bool jitters_;
  std::shared_ptr<SceneBuffers> scene_;  ///< null when the view stands still
  std::shared_ptr<PlacedViews> known_;   ///< of this view
  std::shared_ptr<Placed> placed_;
  std::uint64_t seen_ = 0;  ///< version at the last update
};

}  // namespace periscena::draw
