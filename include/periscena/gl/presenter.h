#pragma once

#include <periscena/gl/device.h>
#include <periscena/gl/object_name.h>
#include <periscena/gl/texture.h>

#include <array>
#include <memory>

namespace periscena::gl {

/// A framebuffer that a window library or another part of the program made; 0 is the default framebuffer of the
/// context, which is the window's.
struct OutsideFramebuffer {
  std::uint32_t name = 0;
  int width = 0, height = 0;  ///< pixels
};

/// Copies finished pictures into a framebuffer that was made outside. Values are copied as they are stored: sRGB
/// pictures stay encoded, whether or not the framebuffer converts.
class Presenter {
 public:
  /// @param device  must outlive the presenter, and be current
  explicit Presenter(Device& device);

  /// @param part  of the framebuffer, pixels from the upper left; the picture is scaled to it, linearly where the sizes
  /// differ. A part that reaches over the edge is cut off there.
  /// @param around  what the rest of the framebuffer is cleared to, as stored
  /// @throws Mistake "not-presentable" for depth, integers, several samples, arrays and cubes
  void present(const Texture& picture, const OutsideFramebuffer& into, const PixelRect& part,
               const std::array<float, 4>& around = {0, 0, 0, 1});

  /// Copies a target's depth into the framebuffer's, so that the frame hides what the program draws there afterwards.
  /// Values stay as they are stored: for DepthOrder::reversed, nearer is greater; clip depth is 0 to 1
  /// (`glClipControl(GL_LOWER_LEFT, GL_ZERO_TO_ONE)`). Where sizes differ, the nearest pixel counts. Depth outside of
  /// the part stays as it is. @param part  of the framebuffer, pixels from the upper left
  /// @throws Mistake "not-presentable" for targets without depth, with several samples or layers; for a framebuffer
  /// that has no depth
  void present_depth(const Texture& depth, const OutsideFramebuffer& into, const PixelRect& part);

  /// What a framebuffer holds, 8 bits a channel, as stored. Row 0 is the upper one.
  Image read(const OutsideFramebuffer& from) const;

 private:
  struct DepthCopy;

  Device& device_;
  std::shared_ptr<DepthCopy> depth_copy_;  ///< made when it is first needed
  ObjectName<ObjectKind::framebuffer> source_;
};

}  // namespace periscena::gl
