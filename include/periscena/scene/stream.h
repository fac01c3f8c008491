#pragma once

#include <algorithm>
#include <cstddef>
#include <memory>
#include <span>
#include <utility>
#include <vector>

namespace periscena {

/// One value for each corner of a mesh, packed. The values never change: copies share them, and they may lie in memory
/// that was there before, such as the buffer of a file.
template <class T>
class Stream {
 public:
  Stream() = default;

  Stream(std::vector<T> values) {
    auto owned = std::make_shared<const std::vector<T>>(std::move(values));
    values_ = *owned;
    keeper_ = std::move(owned);
  }

  /// @param keeper  keeps the values alive
  Stream(std::span<const T> values, std::shared_ptr<const void> keeper) : values_(values), keeper_(std::move(keeper)) {}

  bool empty() const { return values_.empty(); }
  std::size_t size() const { return values_.size(); }
  const T& operator[](std::size_t index) const { return values_[index]; }
  auto begin() const { return values_.begin(); }
  auto end() const { return values_.end(); }
  std::span<const T> values() const { return values_; }
  std::span<const std::byte> bytes() const { return std::as_bytes(values_); }
  bool operator==(const Stream& other) const { return std::equal(begin(), end(), other.begin(), other.end()); }
  std::vector<T> copy() const { return {values_.begin(), values_.end()}; }

 private:
  std::span<const T> values_;
  std::shared_ptr<const void> keeper_;
};

}  // namespace periscena
