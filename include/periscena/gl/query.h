#pragma once

#include <periscena/gl/object_name.h>

#include <optional>

namespace periscena::gl {

/// Nanoseconds that the device spends between begin() and end().
class TimerQuery {
 public:
  explicit TimerQuery(std::string_view label);

  void begin() const;
  void end() const;
  std::optional<std::uint64_t> result_if_ready() const;  ///< does not wait
  std::uint64_t wait() const;                            ///< waits

  std::uint32_t name() const { return name_.get(); }

 private:
  ObjectName<ObjectKind::query> name_;
};

}  // namespace periscena::gl
