#pragma once

#include <periscena/gl/texture.h>

#include <optional>
#include <span>

namespace periscena::gl {

/// An image, or a part of one, as it is attached to a framebuffer.
struct Attached {
  Attached(const Texture& texture, int level = 0, int layer = all_layers);
  Attached(const Renderbuffer& renderbuffer);

  std::uint32_t name = 0;
  bool renderbuffer = false;
  Format format = Format::rgba8;
  int width = 1, height = 1;  ///< of the level
  int samples = 1;
  int level = 0;
  int layer = all_layers;  ///< all of an array or cube: the program chooses by gl_Layer
};

/// A set of images to draw into.
class Framebuffer {
 public:
  Framebuffer() = default;

  /// @param colors  attachments 0, 1, …; @param depth  depth, stencil or both, by its format
  /// @throws Error "framebuffer-incomplete" with the driver's reason and what is attached
  Framebuffer(std::span<const Attached> colors, const std::optional<Attached>& depth, std::string_view label);

  /// Which attachment each fragment output goes to: output location i goes to attachment order[i]; −1 sends it nowhere.
  void route_outputs(std::span<const int> order) const;

  void clear_depth(float depth) const;

  std::uint32_t name() const { return name_.get(); }

 private:
  ObjectName<ObjectKind::framebuffer> name_;
};

}  // namespace periscena::gl
