#pragma once

#include "draw/lights/light_lists.h"
#include "passes/deferred/gathered_edges.h"
#include "passes/filters/filter_steps.h"

#include <periscena/gl/shader_text.h>

namespace periscena::passes {

/// What a pass wants that lights a geometry buffer.
struct ScreenLights {
  std::string name;
  std::shared_ptr<const Scene> scene;
  Reference view;
  draw::LightingChoice lighting;
  batch::LightBounds bounds = batch::LightBounds::automatic;
  gl::ShaderText fragment;
  bool every_sample = false;  ///< of a buffer with several, not at edges alone
  std::vector<std::string>
      reads;                 ///< samplers of the GLSL, in the order of the pass' reads, of which `depth` is the first
  FilterChain filters = {};  ///< that what is lit goes through, of a buffer with one sample and without quads
};

/// Runs GLSL once for each pixel with the lights that can reach it, or once for each light over its rectangle; where
/// the buffer has several samples, for each of them at edges.
class ScreenLightsWork final : public gl::PassWork {
 public:
  ScreenLightsWork(const ScreenLights& options, gl::PassSetup& setup);

  void resize(gl::PassSetup& setup) override;
  const Camera* camera() const override { return &view_.camera(); }
  void run(gl::PassContext& context) override;
  std::vector<gl::Choice> choices() const override;
  Diagnostics diagnostics() const override { return filters_.found(); }

 private:
  /// A program with all that it reads.
  struct Lit {
    gl::Program program;
    draw::BoundTextures textures;
    draw::Lighting::ShadowUnits shadow_units;
    std::vector<std::optional<std::size_t>> units;  ///< by read
    std::optional<draw::LightLists::Reader> lists;
    std::optional<gl::Uniform<int>> sample_here;  ///< of those that light samples by themselves
    std::optional<gl::Uniform<Vec2>> place_in_pixel;
  };

  Lit make(const ScreenLights& options, gl::PassSetup& setup, const char* vertex, std::vector<std::string> defines);
  void use(const gl::PassContext& context, Lit& lit);
  void draw_whole(const gl::PassContext& context, Lit& lit);
  void draw_each_sample(const gl::PassContext& context);
  void draw_gathered(const gl::PassContext& context);
  void place_samples(const gl::PassContext& context);
  void choose_sample(Lit& lit, int sample);
  void draw_quads(const gl::PassContext& context, Lit& lit);
  gl::Choice lights_choice() const;

  std::shared_ptr<draw::SceneBuffers> scene_;
  draw::ViewCamera view_;
  draw::Lighting lighting_;
  batch::LightBounds bounds_;
  int samples_;
  FilterEnd filters_;
  gl::Sampler nearest_;
  std::optional<draw::LightReaches> reaches_;
  std::optional<draw::LightLists> lists_;
  std::optional<SampleEdges> edges_;
  std::optional<GatheredEdges> gathered_;  ///< where edges are lit side by side
  std::vector<Vec2> sample_places_;        ///< known when it has run
  std::optional<Lit> whole_, quads_;
  std::optional<Lit> each_sample_, quads_each_sample_;  ///< the same at edges
};

}  // namespace periscena::passes
