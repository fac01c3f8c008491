#pragma once

#include <periscena/gl/object_name.h>

#include <cstddef>
#include <span>
#include <string_view>

namespace periscena::gl {

/// Memory on the device, of a size that never changes.
class Buffer {
 public:
  Buffer() = default;

  /// Filled once, here. @param bytes  at least one
  /// @throws Error "out-of-memory"; Mistake "empty-buffer"
  static Buffer holding(std::span<const std::byte> bytes, std::string_view label);

  /// To be written again and again; zero at first.
  static Buffer writable(std::size_t bytes, std::string_view label);

  /// To be written through a pointer that stays good as long as the buffer does, and that the device sees without more
  /// ado.
  /// @param memory  becomes that pointer
  static Buffer mapped(std::size_t bytes, std::string_view label, std::byte*& memory);

  /// @throws Mistake "outside-buffer"
  void expect_inside(std::size_t offset, std::size_t bytes) const;

  /// Replaces a part of a writable buffer. @throws Mistake "outside-buffer"
  void write(std::size_t offset, std::span<const std::byte> bytes) const;

  template <class T>
  void write_value(std::size_t offset, const T& value) const {
    write(offset, std::as_bytes(std::span(&value, 1)));
  }

  /// Copies the first bytes of another buffer over the first ones of this, on the device. @throws as above
  void copy_from(const Buffer& other, std::size_t bytes) const;

  /// Waits until the device has written it. @throws Mistake "outside-buffer"
  void read(std::size_t offset, std::span<std::byte> bytes) const;

  std::uint32_t name() const { return name_.get(); }  ///< the GL name, for calls of your own
  std::size_t size() const { return size_; }

 private:
  static Buffer make(std::size_t size, const void* data, std::uint32_t flags, std::string_view label);

  ObjectName<ObjectKind::buffer> name_;
  std::size_t size_ = 0;
};

}  // namespace periscena::gl
