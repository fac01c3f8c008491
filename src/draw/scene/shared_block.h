#pragma once

#include <periscena/gl/buffer.h>
#include <periscena/gl/pass_work.h>

#include <memory>
#include <span>
#include <string_view>

namespace periscena::draw {

/// A block's bytes on the device: one buffer for all passes of a runner that want the same bytes, so that it stays
/// bound from one to the next.
std::shared_ptr<const gl::Buffer> shared_block(gl::PassSetup& setup, std::span<const std::byte> bytes,
                                               std::string_view label);

template <class Block>
std::shared_ptr<const gl::Buffer> shared_block(gl::PassSetup& setup, const Block& block, std::string_view label) {
  return shared_block(setup, std::as_bytes(std::span(&block, 1)), label);
}

}  // namespace periscena::draw
