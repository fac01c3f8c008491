#pragma once

#include "draw/scene/scene_buffers.h"

namespace periscena::draw {

/// Of two states, for people: "other textures"; never asked about equal ones.
using StateDifference = std::function<std::string(std::uint32_t, std::uint32_t)>;

/// Says of each run what it draws, and why it is not one with the run before it.
/// @param materials  by node; @param counts  by run
std::vector<gl::Batch> describe_batches(const batch::DrawList& list, const Scene& scene,
                                        std::span<const MaterialHandle> materials, const StateDifference& difference,
                                        const std::function<gl::Counts(std::size_t)>& counts);

/// Which sets of textures commands take, each once.
void list_texture_sets(std::span<const batch::Command> commands, std::vector<std::uint32_t>& sets);

/// The draws of one pass: those of a scene's objects that it chose and that its view may see, and their commands on the
/// device. One path for all passes that draw objects.
class ObjectDraws {
 public:
  /// @param chosen, traits  by node
  /// @param views  that are drawn at once, at most: runs say which is theirs
  ObjectDraws(std::shared_ptr<SceneBuffers> scene, std::vector<bool> chosen, std::vector<batch::Traits> traits,
              batch::Batching batching, std::size_t views = 1);

  /// What the pass sees from now on, and from where.
  void see(const Frustum& frustum, const Vec3& eye) { see(std::span(&frustum, 1), eye); }
  void see(std::span<const Frustum> views, const Vec3& eye);

  /// Once a frame, after the scene's own update. Sends nothing unless something moved in or out of view.
  void update(const gl::PassContext& context);

  /// Consecutive draws that differ in nothing but mesh and object: one call each.
  std::span<const batch::Run> runs() const { return list_.runs(); }
  void draw(const gl::PassContext& context, const batch::Run& run) const;

  /// @param materials  by node
  std::vector<gl::Batch> batches(std::span<const MaterialHandle> materials, const StateDifference& difference) const;

 private:
  gl::Counts counts_of(const batch::Run& run) const;
  void write_nodes(const gl::PassContext& context);

  std::shared_ptr<SceneBuffers> scene_;
  std::vector<bool> chosen_;
  std::vector<batch::Traits> traits_;
  std::vector<Frustum> views_;
  Vec3 eye_ = Vec3::zero();
  batch::DrawList list_;
  gl::Buffer nodes_, commands_;
  std::optional<gl::VertexArray> vertices_;
  bool stale_ = true;                        ///< does the view differ from that of the list?
  std::uint64_t windings_ = 0;               ///< as of which the list is sorted
  std::vector<std::uint32_t> listed_;        ///< nodes that are drawn
  std::vector<batch::Run> listed_runs_;      ///< in these
  std::vector<std::uint32_t> in_block_;      ///< the nodes as their places in their blocks, when there are several
  std::vector<std::uint32_t> texture_sets_;  ///< that its commands take
  std::vector<gl::DrawCommand> draws_;
  std::vector<gl::Counts> counts_;  ///< by run
};

}  // namespace periscena::draw
