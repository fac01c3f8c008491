#pragma once

#include <periscena/gl/object_name.h>
#include <periscena/gl/state.h>
#include <periscena/image/sampling.h>

namespace periscena::gl {

/// Samples along slanted pixels that the current context's samplers take at most: what the device says; 1 where it has
/// none, and on llvmpipe, whose anisotropic filter walks over all texels that a pixel covers and takes minutes for a
/// ground that runs to the horizon.
float anisotropy_limit();

/// How a texture is looked up. Made once, used with any texture.
class Sampler {
 public:
  Sampler() = default;
  Sampler(const Sampling& sampling, std::string_view label);
  Sampler(Filter filter, Wrap wrap, std::string_view label)
      : Sampler({.filter = filter, .wrap_u = wrap, .wrap_v = wrap}, label) {}

  /// For sampler2DShadow and its like: gives the share of texels for which `reference compare texel` holds.
  static Sampler comparing(Compare compare, Filter filter, std::string_view label);

  std::uint32_t name() const { return name_.get(); }

 private:
  ObjectName<ObjectKind::sampler> name_;
};

}  // namespace periscena::gl
