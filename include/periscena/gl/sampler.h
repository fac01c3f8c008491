#pragma once

#include <periscena/gl/object_name.h>
#include <periscena/image/sampling.h>

namespace periscena::gl {

/// How a texture is looked up. Made once, used with any texture.
class Sampler {
 public:
  Sampler() = default;
  Sampler(const Sampling& sampling, std::string_view label);
  Sampler(Filter filter, Wrap wrap, std::string_view label)
      : Sampler({.filter = filter, .wrap_u = wrap, .wrap_v = wrap}, label) {}

  std::uint32_t name() const { return name_.get(); }

 private:
  ObjectName<ObjectKind::sampler> name_;
};

}  // namespace periscena::gl
