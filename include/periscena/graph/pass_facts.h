#pragma once

#include <periscena/graph/filter_chain.h>
#include <periscena/graph/target.h>
#include <periscena/scene/choice.h>
#include <periscena/scene/shadow_lookup.h>

#include <functional>
#include <memory>
#include <optional>
#include <string>
#include <variant>
#include <vector>

namespace periscena {

struct Pass;

/// Of a pass about which others need to know nothing more than what it writes.
struct PlainFacts {};

/// Of a pass that draws what lights see.
struct ShadowFacts {
  std::shared_ptr<const Scene> scene;
  std::vector<std::string> lights;  ///< names, in the order of the scene
  ObjectChoice casters;
  float near = 0;  ///< metres: what is nearer to a lamp casts nothing
  int cascades = 0;
  ShadowLookup lookup;
};

/// What a pass draws of a scene.
struct DrawnSurfaces {
  std::shared_ptr<const Scene> scene;
  Reference view;
  ObjectChoice objects;
  Surfaces surfaces = Surfaces::all;
};

/// Of a pass that draws what is known of surfaces before they are lit. Its writes are the parts of the buffer.
struct GeometryFacts {
  DrawnSurfaces drawn;
};

/// What is to be written of a light's shadows instead of light: red: the share of light that gets past, 0..1; green:
/// metres that a texel of the map is wide there; blue: the map's part, from 0; alpha: 1 where it says something.
struct ShadowQuestion {
  std::string name;  ///< of the pass
  Reference light;
  TargetUse answer, depth;
};

/// What lights surfaces.
struct LitBy {
  ChosenNames lights;
  Reference environment;  ///< empty for none
};

/// Of a pass that draws surfaces and lights them.
struct LitFacts {
  DrawnSurfaces drawn;
  std::optional<LitBy> lit;                                ///< none: it takes light that was computed before
  std::function<Pass(const ShadowQuestion&)> ask_shadows;  ///< the same pass, which answers
};

/// Of a pass that writes how far what is seen has come over the picture.
struct MotionFacts {
  Reference view;
  float seconds = 0;  ///< since how long before; 0: since the frame before
};

/// What a pass says of itself to those that read what it makes, and to those who look at the frame. Nothing: it may
/// write whatever its reader wants, as GLSL and raw calls of your own do.
using PassFacts =
    std::variant<std::monostate, PlainFacts, ShadowFacts, GeometryFacts, LitFacts, MotionFacts, FilterChain>;

}  // namespace periscena
