#pragma once

#include <cstdint>
#include <iterator>
#include <map>
#include <optional>

namespace periscena::draw {

/// Which elements of a buffer nothing is in.
class FreeRanges {
 public:
  std::uint64_t size() const { return size_; }

  /// So many in a row, the first ones that there are. @return where they begin; nothing where there is no such row
  std::optional<std::uint64_t> take(std::uint64_t count) {
    if (count == 0) return 0;
    for (auto range = free_.begin(); range != free_.end(); ++range) {
      const auto [first, length] = *range;
      if (length < count) continue;
      free_.erase(range);
      if (length > count) free_.emplace(first + count, length - count);
      return first;
    }
    return std::nullopt;
  }

  void give_back(std::uint64_t first, std::uint64_t count) {
    if (count == 0) return;
    auto range = free_.emplace(first, count).first;
    if (const auto next = std::next(range); next != free_.end() && first + count == next->first) {
      range->second += next->second;
      free_.erase(next);
    }
    if (range == free_.begin()) return;
    if (const auto before = std::prev(range); before->first + before->second == first) {
      before->second += range->second;
      free_.erase(range);
    }
  }

  void grow(std::uint64_t size) {
    give_back(size_, size - size_);
    size_ = size;
  }

  /// How many more elements there must be for so many in a row.
  std::uint64_t missing(std::uint64_t count) const {
    if (free_.empty()) return count;
    const auto [first, length] = *free_.rbegin();
    return first + length == size_ && length < count ? count - length : count;
  }

 private:
  std::map<std::uint64_t, std::uint64_t> free_;  ///< first elements, and how many there are
  std::uint64_t size_ = 0;
};

}  // namespace periscena::draw
