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

}  // namespace

std::shared_ptr<const gl::Buffer> shared_block(gl::PassSetup& setup, std::span<const std::byte> bytes,
                                               std::string_view label) {
  static const int key = 0;
  const auto known = setup.shared().get<KnownBlocks>(&key, [] { return std::make_shared<KnownBlocks>(); });
  std::erase_if(known->entries, [](const KnownBlocks::Entry& entry) { return entry.buffer.expired(); });
  for (const KnownBlocks::Entry& entry : known->entries) {
    if (std::equal(entry.bytes.begin(), entry.bytes.end(), bytes.begin(), bytes.end())) return entry.buffer.lock();
  }
  auto made = std::make_shared<const gl::Buffer>(gl::Buffer::holding(bytes, label));
  known->entries.push_back({{bytes.begin(), bytes.end()}, made});
  return made;
}

}  // namespace periscena::draw
