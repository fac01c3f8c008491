#pragma once

// What passes that take shadows know of the maps.

#include <periscena/graph/pass.h>
#include <periscena/passes/shadow_map.h>
#include <periscena/scene/scene.h>

namespace periscena::passes {

/// The lights that a map is of, in the order of the scene; none when it names none that is there.
std::vector<const Light*> shadowed_lights(const ShadowMap& options);

/// Texels of the smallest tile: no smaller than what filters take.
int least_tile(const ShadowMap& options);

/// Texels at each side of a view that filters may reach past what is looked up.
int border_of(const ShadowMap& options);

inline constexpr std::size_t most_shadows = 4;  ///< that a lit pass takes

/// What a lit pass' program calls one of its shadow maps: "shadow_map_1" for 0.
std::string shadow_slot(std::size_t index);

/// Lets a lit pass read shadow maps: adds its reads, and their checks.
/// @param lights  that light the pass
void add_shadows(Pass& pass, const std::vector<TargetUse>& shadows, const std::shared_ptr<const Scene>& scene,
                 const LightNames& lights);

}  // namespace periscena::passes
