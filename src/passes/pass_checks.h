#pragma once

// How passes are made of their options, and what is judged alike for several kinds.

#include "draw/lights/lighting_choice.h"

#include <periscena/gl/pass_work.h>
#include <periscena/graph/frame_graph.h>
#include <periscena/passes/options.h>
#include <periscena/passes/pass_kind.h>
#include <periscena/scene/scene.h>

#include <functional>
#include <initializer_list>

namespace periscena::passes {

/// A program of the library by its name: "periscena/forward.vert"
inline gl::ShaderText pass_shader(const std::string& name) {
  return gl::ShaderText::embedded(name, pass_shaders());
}

/// Reports a way that is not for this kind of pass.
void expect_bounds(batch::LightBounds bounds, std::initializer_list<batch::LightBounds> unfit, const char* instead,
                   Pass& pass);

/// Warns of so many lights that lists of them become coarse and large.
void expect_few_lights(const Scene* scene, const ChosenNames& lights, Pass& pass);

/// Lets a lit pass read shadow maps: adds its reads, and what they must be.
/// @param lights  that light the pass
void add_shadows(Pass& pass, const std::vector<TargetUse>& shadows, const std::shared_ptr<const Scene>& scene,
                 const ChosenNames& lights);

/// Has the plan tell when what a pass reads as "velocity" is something else than motions of its view.
void want_motion(Pass& pass, const Reference& view, WantsMotion::Since since);

/// Reports a name that was not found. @param kind  "light" @param who  for the message: `pass "mirror"`
/// @param names  what it could have meant @param declaration  where there is none: `declare it: [light."{}"]`
void expect_named(const Reference& name, bool found, const char* kind, const std::string& who,
                  const std::function<std::vector<std::string>()>& names, const char* declaration,
                  Diagnostics& problems);

/// Reports tags and variants that are not in the scene. @param who  for the message: `pass "mirror"`
void expect_objects(const Scene* scene, const ObjectChoice& choice, const std::string& who, Diagnostics& problems);

/// Reports names that are not in the scene. @param who  for messages: `pass "lock"`
void expect_lighting(const Scene* scene, const draw::LightingChoice& choice, const std::string& who,
                     Diagnostics& problems);

/// Looks a name up, and reports it with the nearest right one when it is not there.
/// @param who  for the message: `pass "mirror"`
void expect_view(const Scene* scene, const Reference& view, const std::string& who, Diagnostics& problems);

}  // namespace periscena::passes
