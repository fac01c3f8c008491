#pragma once

#include <cstdint>
#include <string>
#include <string_view>

namespace periscena {

/// Tells contents apart: 64 bits, FNV-1a (Fowler, Noll, Vo; RFC 9923). Not for secrets.
constexpr std::uint64_t content_hash(std::string_view bytes) {
  std::uint64_t hash = 0xcbf29ce484222325u;
  for (const char byte : bytes) hash = (hash ^ static_cast<unsigned char>(byte)) * 0x100000001b3u;
  return hash;
}

}  // namespace periscena
