#pragma once

#include <periscena/passes/options.h>

namespace periscena::passes {

/// The middle of a light pre-pass: what lights give each pixel, before what is there colours it. A geometry pass comes
/// before, with normals, materials and depth; then forward passes draw the objects over the same depth with their own
/// materials, and take light from here (Forward::light_diffuse, light_specular).
///
/// Needs: what a `geometry` pass gave of the same view, in targets of one size and one sample. Gives, where Schlick's
/// share is f = (1 - v·h)^5, in floating formats (half floats do):
///
/// | output | red, green, blue | alpha |
/// |---|---|---|
/// | diffuse | sum of illuminance × (1 - f) / π; of Blinn-Phong without (1 - f) | 1 |
/// | specular | 0.04 × sum of illuminance × D V (1 - f); of Blinn-Phong its highlight | luminance of the same with f
/// instead |
///
/// Beside `forward`, highlights at grazing angles have the mean of their lights' colours.
struct LightBuffer {
  std::string name = "light buffer";
  std::shared_ptr<const Scene> scene = {};
  Reference view = {};                  ///< that the buffer was drawn through
  ChosenNames lights = {};              ///< by names or tags; left out, all of the scene
  std::vector<TargetUse> shadows = {};  ///< that `shadow_map` passes have written, at most 4
  batch::LightBounds light_bounds =
      batch::LightBounds::automatic;  ///< tiles or quads; tiles where eight lights or more have an end
  TargetUse depth = {}, normal = {}, material = {};
  TargetUse diffuse = {}, specular = {};
};

/// Mistakes (an unknown view or light, a part of the buffer that is not there) are told by FrameGraph::plan.
Pass light_buffer(const LightBuffer& options, Place place = Place::here());
/// With what the frame's passes share.
Pass light_buffer(const Defaults& defaults, LightBuffer options, Place place = Place::here());

PassKind light_buffer_kind();

}  // namespace periscena::passes
