#pragma once

// What the options of several kinds of passes share.

#include <periscena/batch/batching.h>
#include <periscena/graph/read_write.h>
#include <periscena/scene/choice.h>
#include <periscena/scene/default_cache.h>

#include <memory>
#include <string>
#include <vector>

namespace periscena {
struct Pass;
class Scene;
}  // namespace periscena

namespace periscena::passes {

struct PassKind;

/// What the passes of a frame share. A pass that says something else has that: `.fog = ""` for none.
///
///     const passes::Defaults lock{.scene = scene, .view = "towpath", .environment = "dusk"};
///     frame.add(passes::shadow_map(lock, {.light = "sun", .depth = sun}));
///     frame.add(passes::forward(lock, {.shadows = {sun}, .color = light, .depth = depth}));
struct Defaults {
  std::shared_ptr<const Scene> scene = {};
  Reference view = {};
  ChosenNames lights = {};
  Reference environment = {}, fog = {};
  std::string cache = default_cache();  ///< for what is computed of environments; empty: none
};

/// Options with the defaults of their frame, where they have such members and say nothing of their own.
template <class Options>
Options with_defaults(Options options, const Defaults& defaults) {
  const auto fill = [](Reference& own, const Reference& of_frame) {
    if (own.empty() && !own.place.known()) own = of_frame;
  };
  if constexpr (requires { options.scene; }) {
    if (!options.scene) options.scene = defaults.scene;
  }
  if constexpr (requires { options.view; }) fill(options.view, defaults.view);
  if constexpr (requires { options.lights.all(); }) {
    if (options.lights.all()) options.lights = defaults.lights;
  }
  if constexpr (requires { options.environment; }) fill(options.environment, defaults.environment);
  if constexpr (requires { options.fog; }) fill(options.fog, defaults.fog);
  if constexpr (requires { options.cache; }) {
    if (options.cache == default_cache()) options.cache = defaults.cache;
  }
  return options;
}

}  // namespace periscena::passes
