#pragma once

#include <periscena/gl/frame_runner.h>
#include <periscena/gl/pixel_reader.h>
#include <periscena/scene/scene.h>

#include <memory>
#include <optional>
#include <string>
#include <vector>

namespace periscena::passes {

/// An object that was picked.
struct Picked {
  std::uint64_t question = 0;
  NodeHandle node;   ///< not valid: nothing is there
  std::string name;  ///< of the node, else of the nearest one above it that has a name
};

/// Tells which object is at a pixel, from the numbers that a `geometry` pass wrote as `id`, without stalling the frame:
/// questions are answered some frames later. Objects that should not be picked are left out of that pass by their tags.
class Picker {
 public:
  /// @param scene  that the geometry pass draws
  /// @param places  how many questions may wait
  explicit Picker(std::shared_ptr<const Scene> scene, std::size_t places = 8)
      : scene_(std::move(scene)), reader_(places) {}

  /// Asks which object is at a pixel of the last frame.
  /// @param ids  the target, one that is kept; @param x, y  pixels from the upper left
  /// @return the question's number; nothing while all places are taken
  /// @throws as FrameRunner::texture and PixelReader::ask; Mistake "not-ids" when the target does not hold numbers
  std::optional<std::uint64_t> ask(const gl::FrameRunner& runner, std::string_view ids, int x, int y);

  /// The oldest question's answer, if it has come. Never waits.
  std::optional<Picked> answer();

  std::size_t waiting() const { return reader_.waiting(); }

 private:
  std::shared_ptr<const Scene> scene_;
  gl::PixelReader reader_;
};

/// The object that a number of a geometry pass stands for. @param id  from 1; 0 is nothing
Picked picked(const Scene& scene, std::uint64_t id);

}  // namespace periscena::passes
