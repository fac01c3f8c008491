#pragma once

#include <cstdint>
#include <string_view>
#include <utility>

namespace periscena::gl {

enum class ObjectKind {
  buffer,
  texture,
  renderbuffer,
  sampler,
  vertex_array,
  framebuffer,
  query,
  shader,
  program,
  transform_feedback
};

/// Owns the name of a GL object and deletes it, with the context that made it current. Move-only; 0 is nothing.
template <ObjectKind kind>
class ObjectName {
 public:
  ObjectName() = default;
  explicit ObjectName(std::uint32_t name) : name_(name) {}
  ObjectName(ObjectName&& other) noexcept : name_(std::exchange(other.name_, 0)), borrowed_(other.borrowed_) {}
  ObjectName& operator=(ObjectName&& other) noexcept {
    std::swap(name_, other.name_);
    std::swap(borrowed_, other.borrowed_);
    return *this;
  }

  /// A name that somebody else owns, and will delete.
  static ObjectName borrow(std::uint32_t name) {
    ObjectName borrowed(name);
    borrowed.borrowed_ = true;
    return borrowed;
  }

  ~ObjectName();

  std::uint32_t get() const { return name_; }
  explicit operator bool() const { return name_ != 0; }

  /// The name that debuggers and driver messages show.
  void set_label(std::string_view label) const;

 private:
  std::uint32_t name_ = 0;
  bool borrowed_ = false;
};

}  // namespace periscena::gl
