#pragma once

#include <periscena/gl/buffer.h>
#include <periscena/gl/pass_work.h>
#include <periscena/gl/program.h>
#include <periscena/scene/scene.h>

#include <optional>
#include <span>
#include <vector>

namespace periscena::draw {

/// Moves objects on the device, so that thousands of them cost the CPU nothing: a vertex program computes each one's
/// place from the time, by the same formulas as Motion::at, and captures it. A compute program would need a barrier, at
/// which some devices wait for the frame before.
///
/// Takes what moves by motions alone: not by keys, nor in a tree with something that does, or that carries a light,
/// whose place the CPU needs.
class Motions {
 public:
  static constexpr std::size_t fewest = 1024;  ///< below that many the CPU moves them

  /// @param most_block_bytes  what a storage block holds
  Motions(gl::Device& device, const Scene& scene, std::size_t most_block_bytes);

  /// By node: does it move here? None does when there are too few, or one block does not hold their motions.
  const std::vector<bool>& moved_here() const { return moved_here_; }

  bool moves_anything() const { return !ranges_.empty(); }

  /// Objects between those that move may be written along with them, as they stand at time 0: those that the CPU moves
  /// are to be written afterwards. @param objects  the storage block Objects; always the same
  void run(const gl::PassContext& context, const gl::Buffer& objects, double seconds);

 private:
  /// Objects that lie one after the other.
  struct Range {
    std::uint32_t node, first, count;  ///< the first object, and its mover
    std::optional<gl::VertexCapture> capture = {};
  };

  void choose(const Scene& scene);
  bool list(const Scene& scene, std::size_t most_block_bytes);  ///< false: too many

  std::vector<bool> moved_here_;
  std::vector<Range> ranges_;
  gl::Buffer movers_;
  std::optional<gl::VertexArray> vertices_;
  std::optional<gl::Program> program_;
  gl::Uniform<Vec2> seconds_;
};

/// A ball in world space that holds what a node shows at all times, when all that it hangs on moves by motions alone.
/// @param mesh  around what it shows, in its own coordinates
Sphere swept_bounds(const Scene& scene, std::uint32_t node, const Sphere& mesh);

}  // namespace periscena::draw
