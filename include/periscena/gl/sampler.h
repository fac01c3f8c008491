#pragma once

#include <periscena/gl/object_name.h>

namespace periscena::gl {

enum class Filter {
  nearest,
  linear,
  linear_levels,  ///< also between mip levels
};
enum class Wrap { clamp, repeat, mirror };

/// How a texture is looked up. Made once, used with any texture.
class Sampler {
 public:
  Sampler() = default;
  Sampler(Filter filter, Wrap wrap, std::string_view label);

  std::uint32_t name() const { return name_.get(); }

 private:
  ObjectName<ObjectKind::sampler> name_;
};

}  // namespace periscena::gl
