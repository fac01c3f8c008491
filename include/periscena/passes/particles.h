#pragma once

#include <periscena/passes/options.h>
#include <periscena/scene/particles.h>

namespace periscena {
class Image;
}

namespace periscena::passes {

/// Draws a cloud of particles into a view, all in one call: squares that face the camera, in the order of their
/// numbers.
///
/// The device moves them, by whole steps, by the same formulas as ParticleCloud; between steps they go straight on. A
/// time gives the same picture whatever was asked before. They are not sorted by depth: let them be small, or add.
struct Particles {
  std::string name = "particles";
  std::shared_ptr<const Scene> scene = {};
  Reference view = {};  ///< a view of the scene
  ParticleCloud cloud = {};
  std::shared_ptr<const Image> picture = {};  ///< 8-bit RGBA, alpha not multiplied in; null: a soft round spot
  float size = 0.05f;                         ///< of the squares: metres, or pixels of the frame's size; > 0
  bool in_pixels = false;                     ///< are sizes pixels?
  float size_spread = 0;                      ///< 0..1: share by which sizes vary either way
  float spin = 0;                             ///< radians a second, at most, either way
  float fade_seconds = 0.5f;                  ///< in which each comes and goes; >= 0
  Vec3 tint = Vec3::ones();                   ///< linear, multiplied: nits where targets are light; >= 0
  float alpha = 1;                            ///< 0..1, multiplied
  bool adds = false;                          ///< light is added, and nothing is hidden
  float fade_near = 0.2f;                     ///< metres before `surfaces` in which they fade out; 0: cut off there
  TargetUse color = {};                       ///< what is drawn over
  TargetUse depth = {};                       ///< attached: what lies before hides them, pixel by pixel; or
  TargetUse surfaces = {};                    ///< read: depth of the objects, before which they fade out
};

/// Mistakes (an unknown view, a box turned inside out) are told by FrameGraph::plan.
Pass particles(const Particles& options, Place place = Place::here());
/// With what the frame's passes share.
Pass particles(const Defaults& defaults, Particles options, Place place = Place::here());

PassKind particles_kind();

}  // namespace periscena::passes
