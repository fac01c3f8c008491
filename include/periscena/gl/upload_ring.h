#pragma once

#include <periscena/gl/buffer.h>

#include <array>
#include <cstdint>
#include <vector>

namespace periscena::gl {

/// What the CPU sends in each frame: written into memory that stays mapped, and copied from there by the device, in
/// order with its other work. Three parts take turns; one is written again once a fence says that the device has read
/// it, so neither waits for the other unless the CPU is three frames ahead.
///
/// A frame that sends more than a part holds gets a ring whose parts hold the next power of two of what it has sent.
class UploadRing {
 public:
  static constexpr std::size_t part_count = 3;

  /// Nothing is allocated until something is written. @param least  bytes of a part, > 0
  explicit UploadRing(std::size_t least = 64 * 1024) : least_(least) {}
  UploadRing(const UploadRing&) = delete;
  UploadRing& operator=(const UploadRing&) = delete;
  ~UploadRing();

  /// @throws Mistake "outside-buffer" when they do not fit; Error "out-of-memory"
  void write(const Buffer& into, std::size_t offset, std::span<const std::byte> bytes);

  /// What was written since the last call is one frame's.
  void next_frame();

  std::size_t part_bytes() const { return part_bytes_; }  ///< 0 before the first write
  std::uint64_t waits() const { return waits_; }          ///< how often a fence was not yet passed

 private:
  void grow(std::size_t needed);
  void wait_for_part();
  void drop_fences();

  std::size_t least_, part_bytes_ = 0;
  Buffer buffer_;
  std::byte* mapped_ = nullptr;
  std::array<void*, part_count> fences_{};  ///< GLsync, null when the part is free
  std::size_t part_ = 0, used_ = 0;         ///< of the part
  bool ready_ = false;                      ///< may the part be written?
  std::uint64_t waits_ = 0;
};

}  // namespace periscena::gl
