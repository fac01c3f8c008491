#pragma once

#include <periscena/gl/buffer.h>
#include <periscena/gl/pass_work.h>
#include <periscena/gl/program.h>
#include <periscena/scene/scene.h>

#include <optional>
#include <span>
#include <vector>

namespace periscena::passes {

/// Moves objects on the device, so that thousands of them cost the CPU nothing: a compute program computes each one's
/// place from the time, by the same formulas as Motion::at.
///
/// Takes what moves by motions alone: not by keys, nor in a tree with something that does, or that carries a light,
/// whose place the CPU needs.
class Motions {
 public:
  static constexpr std::size_t fewest = 1024;  ///< below that many the CPU moves them

  /// @param in_one_block  does one storage block hold all objects?
  Motions(const Scene& scene, bool in_one_block);

  /// By node: does it move here? None does when there are too few, or one block does not hold them.
  const std::vector<bool>& moved_here() const { return moved_here_; }

  bool moves_anything() const { return count_ > 0; }

  /// @param objects  the storage block Objects
  void run(const gl::PassContext& context, const gl::Buffer& objects, double seconds);

 private:
  void choose(const Scene& scene);
  void list(const Scene& scene);

  std::vector<bool> moved_here_;
  std::uint32_t count_ = 0;
  gl::Buffer movers_;
  std::optional<gl::Program> program_;
  gl::Uniform<Vec2> seconds_;
};

/// A ball in world space that holds what a node shows at all times, when all that it hangs on moves by motions alone.
/// @param mesh  around what it shows, in its own coordinates
Sphere swept_bounds(const Scene& scene, std::uint32_t node, const Sphere& mesh);

}  // namespace periscena::passes
