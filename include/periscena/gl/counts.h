#pragma once

#include <cstdint>

namespace periscena::gl {

/// What a pass, or a frame, cost. Calls of your own in a pass of plain GL are not seen.
struct Counts {
  std::uint64_t draw_calls = 0;     ///< of OpenGL
  std::uint64_t commands = 0;       ///< within them: an indirect call may hold many
  std::uint64_t instances = 0;      ///< of meshes, within the commands
  std::uint64_t triangles = 0;      ///< sent to be drawn; lines and points do not count
  std::uint64_t culled = 0;         ///< objects that were left out, because the view can't see them
  std::uint64_t state_changes = 0;  ///< calls that bind or set something
  std::uint64_t bytes_sent = 0;     ///< written into buffers

  Counts& operator+=(const Counts& more);
  bool operator==(const Counts&) const = default;
};

}  // namespace periscena::gl
