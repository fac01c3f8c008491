#pragma once

#include "passes/pass_kind.h"
#include "passes/scene_buffers.h"

namespace periscena::passes {

/// By node: does a pass with this choice draw it? A variant leaves out objects of its own.
std::vector<bool> chosen_objects(const Scene& scene, const ObjectChoice& choice);

/// The draws of one pass: those of a scene's objects that it chose and that its view may see, and their commands on the
/// device.
class ObjectDraws {
 public:
  /// @param chosen, traits  by node
  ObjectDraws(std::shared_ptr<SceneBuffers> scene, std::vector<bool> chosen, std::vector<batch::Traits> traits);

  /// What the pass sees from now on, and from where.
  void see(const Frustum& frustum, const Vec3& eye);

  /// Once a frame, after the scene's own update. Does nothing unless something moved.
  void update();

  /// Consecutive draws that differ in nothing but their object.
  std::span<const batch::Run> runs() const { return draws_.empty() ? std::span<const batch::Run>() : list_.runs(); }
  void draw(const gl::PassContext& context, const batch::Run& run) const;

 private:
  void list_nodes();

  std::shared_ptr<SceneBuffers> scene_;
  std::vector<bool> chosen_;
  std::vector<batch::Traits> traits_;
  Frustum frustum_;
  Vec3 eye_ = Vec3::Zero();
  gl::Buffer commands_;
  batch::DrawList list_;
  bool stale_ = true;                  ///< does the view differ from that of the list?
  std::uint64_t windings_ = 0;         ///< as of which the list is sorted
  std::vector<std::uint32_t> listed_;  ///< nodes that commands_ holds
  std::vector<gl::DrawCommand> draws_;
};

}  // namespace periscena::passes
