#pragma once

#include <periscena/gl/buffer.h>
#include <periscena/gl/state.h>

#include <algorithm>
#include <cstdint>

namespace periscena::draw {

/// What a storage block of the device holds: elements of more than that lie in several.
struct BlockRoom {
  std::size_t most_bytes;  ///< the device's limit MAX_SHADER_STORAGE_BLOCK_SIZE

  /// How many elements fit, in steps so that each block begins where blocks may begin: at multiples of 256 bytes, which
  /// every device takes.
  template <class Element, std::size_t step>
  std::uint32_t elements(std::uint32_t most = 0x80000000) const {
    static_assert(step * sizeof(Element) % 256 == 0);
    return static_cast<std::uint32_t>(std::clamp<std::size_t>(most_bytes / sizeof(Element) / step * step, step, most));
  }

  /// @throws Mistake "over-device-limit". @param what  "vertex colours", that lie in one block
  void expect(const char* what, std::size_t bytes) const;
};

/// Binds one of the blocks that the elements of a buffer lie in.
void bind_block(gl::State& state, std::uint32_t binding, const gl::Buffer& buffer, std::size_t block_bytes,
                std::uint32_t block);

}  // namespace periscena::draw
