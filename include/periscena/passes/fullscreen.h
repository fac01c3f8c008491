#pragma once

#include <periscena/graph/filter_chain.h>
#include <periscena/passes/options.h>
#include <periscena/passes/shaders.h>

#include <initializer_list>

namespace periscena::gl {
class Program;
}

namespace periscena::passes {

/// Sets a uniform to numbers, as what the GLSL declares it to be. @throws Mistake "unknown-uniform",
/// "wrong-uniform-type"
void set_uniform(gl::Program& program, const UniformValue& value);

/// Runs the user's fragment GLSL once for each pixel of what it writes.
///
/// The GLSL has at hand, after `#include "periscena/fullscreen.glsl"`: `in vec2 uv` (0..1, lower left first),
/// `frame.time` (seconds), `frame.resolution` (pixels of this pass), `frame.size` (pixels of the frame). Each target
/// that it reads is a `uniform sampler2D` of the read's name (usampler2D, sampler2DArray, samplerCube … as the target
/// is; sampler2DMS to read the samples itself), clamped at its edges, filtered linearly (colour) or not at all (depth
/// and integers). Each output is named as the write. With a view, also `#include "periscena/camera.glsl"`; with a
/// scene,
/// `#include "periscena/lights.glsl"`: the pass' lights, what gets past shadow maps, sky light, and fog
/// (periscena/fog.glsl), as the forward pass has them. GLSL that sets gl_FragDepth may write depth, too: it is tested
/// against what is there, in the view's order.
struct Fullscreen {
  std::string name = "fullscreen";
  gl::ShaderText shader = {};
  std::vector<Read> reads = {};
  std::vector<Write> writes = {};
  std::vector<UniformValue> uniforms = {};
  std::shared_ptr<const Scene> scene = {};  ///< for the view, lights and fog
  Reference view = {};                      ///< empty for none
  ChosenNames lights = {};                  ///< by names or tags; left out, all of the scene
  Reference environment = {}, fog = {};     ///< empty for none
  std::vector<TargetUse> shadows = {};      ///< that `shadow_map` passes have written, at most 4
  std::string cache = default_cache();      ///< for what is computed of environments; empty: none
  bool lenient = false;  ///< uniforms that the driver left out, because nothing depends on them, are no mistake
  /// "has distances that are no numbers": what is told of pixels that periscena/finite.glsl counts
  std::string strange = {};
};

/// Mistakes in names, and includes that are not there, are told by FrameGraph::plan; what only a compiler finds, when
/// the runner is made.
Pass fullscreen(const Fullscreen& options, Place place = Place::here());
/// With what the frame's passes share.
Pass fullscreen(const Defaults& defaults, Fullscreen options, Place place = Place::here());

PassKind fullscreen_kind();

}  // namespace periscena::passes
