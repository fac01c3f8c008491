#include "draw/scene/shared_block.h"

#include <algorithm>
#include <vector>

namespace periscena::draw {
namespace {

/// Blocks on the device that are in use.
struct KnownBlocks {
  struct Entry {
    std::vector<std::byte> bytes;
    std::weak_ptr<const gl::Buffer> buffer;
  };
  std::vector<Entry> entries;
};

/// Keeps them as long as one of them is in use.
struct HeldBlock {
  std::shared_ptr<KnownBlocks> known;
  gl::Buffer buffer;
};

}  // namespace

std::shared_ptr<const gl::Buffer> shared_block(gl::PassSetup& setup, std::span<const std::byte> bytes,
                                               std::string_view label) {
  const auto known = setup.shared().get<KnownBlocks>(nullptr, [] { return std::make_shared<KnownBlocks>(); });
  std::erase_if(known->entries, [](const KnownBlocks::Entry& entry) { return entry.buffer.expired(); });
  for (const KnownBlocks::Entry& entry : known->entries) {
    if (std::equal(entry.bytes.begin(), entry.bytes.end(), bytes.begin(), bytes.end())) return entry.buffer.lock();
  }
  const auto held = std::make_shared<const HeldBlock>(HeldBlock{known, gl::Buffer::holding(bytes, label)});
  std::shared_ptr<const gl::Buffer> made(held, &held->buffer);
  known->entries.push_back({{bytes.begin(), bytes.end()}, made});
  return made;
}

}  // namespace periscena::draw
