#include "passes/deferred/screen_pass.h"

#include "passes/deferred/screen_lights.h"

namespace periscena::passes {

void light_pixels(const ScreenPass& how, const Fullscreen& own, Pass& pass) {
  Fullscreen lit = own;
  lit.shader = how.shader;
  lit.uniforms = {{"background", 0}};
  const std::size_t parts = pass.reads.size();
  const std::vector<FragmentOutput> outputs = pass.shader->outputs;
  const std::vector<Write> writes = pass.writes;
  Pass made = fullscreen(lit, pass.place);
  made.kind = pass.kind;
  made.facts = pass.facts;
  made.problems.append(pass.problems);
  // What depends on conditions in the GLSL can't be read from its text.
  if (!made.shader) made.shader = ShaderInterface{.source = how.shader.source()->name, .outputs = {}, .samplers = {}};
  made.shader->outputs = outputs;
  for (std::size_t i = 0; i < parts && i < made.reads.size(); ++i) want_geometry(made.reads[i], own.view, how.samples);
  expect_bounds(how.bounds, {batch::LightBounds::clusters}, "tiles or quads", made);
  expect_few_lights(own.scene.get(), own.lights, made);
  ScreenLights lights{own.name,   own.scene,  own.view,         {own.lights, own.environment, own.fog, own.cache},
                      how.bounds, how.shader, how.every_sample, {},
                      {}};
  for (std::size_t i = 0; i < parts; ++i) lights.reads.push_back(pass.reads[i].slot);
  const auto work = [lights](const FilterChain& after) {
    ScreenLights with = lights;
    with.filters = after;
    return gl::work<ScreenLightsWork>(with);
  };
  if (how.filters_may_follow && how.bounds != batch::LightBounds::quads)
    let_filters_follow(made, work);
  else
    made.work = work({});
  pass = std::move(made);
}

void want_geometry(Read& read, const Reference& view, SampleReading samples) {
  read.wants = WantsGeometry{view};
  read.samples = samples;
}

}  // namespace periscena::passes
