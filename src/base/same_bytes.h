#pragma once

#include <cstring>
#include <span>

namespace periscena {

/// Whether two blocks for the device hold the same bytes. Blocks are laid out without holes, and are what is sent:
/// other bits of an equal number (-0) are a difference.
template <typename Block>
bool same_bytes(const Block& a, const Block& b) {
  return std::memcmp(std::as_bytes(std::span(&a, 1)).data(), std::as_bytes(std::span(&b, 1)).data(), sizeof(Block)) ==
         0;
}

}  // namespace periscena
