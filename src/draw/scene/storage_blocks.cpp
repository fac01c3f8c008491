#include "draw/scene/storage_blocks.h"

#include <periscena/base/error.h>

#include <fmt/format.h>

namespace periscena::draw {

void BlockRoom::expect(const char* what, std::size_t bytes) const {
  if (bytes <= most_bytes) return;
  throw Mistake("over-device-limit", {},
                fmt::format("the {} of the scene take {} bytes, and a storage block of this device holds {}", what,
                            bytes, most_bytes),
                "draw it as several scenes");
}

void bind_block(gl::State& state, std::uint32_t binding, const gl::Buffer& buffer, std::size_t block_bytes,
                std::uint32_t block) {
  const std::size_t at = block * block_bytes;
  state.bind_storage_block(binding, buffer.name(), at, std::min(block_bytes, buffer.size() - at));
}

}  // namespace periscena::draw
