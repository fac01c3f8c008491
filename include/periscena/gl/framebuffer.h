#pragma once

#include <periscena/gl/texture.h>

#include <span>

namespace periscena::gl {

/// A set of textures to draw into.
class Framebuffer {
 public:
  Framebuffer() = default;

  /// @param colors  attachments 0, 1, …; @param depth  may be null
  /// @throws Error "framebuffer-incomplete" with the driver's reason and what is attached
  Framebuffer(std::span<const Texture* const> colors, const Texture* depth, std::string_view label);

  /// Which attachment each fragment output goes to: output location i goes to attachment order[i]; −1 sends it nowhere.
  void route_outputs(std::span<const int> order) const;

  void clear_color(int output, const float (&linear)[4]) const;
  void clear_depth(float depth) const;

  std::uint32_t name() const { return name_.get(); }

 private:
  ObjectName<ObjectKind::framebuffer> name_;
};

}  // namespace periscena::gl
