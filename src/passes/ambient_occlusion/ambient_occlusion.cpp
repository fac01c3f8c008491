#include "passes/ambient_occlusion/ambient_occlusion.h"

#include "passes/deferred/screen_pass.h"
#include "passes/shading/lighting.h"
#include "passes/shading/view_camera.h"

#include <fmt/format.h>

#include <cmath>

namespace periscena::passes {
namespace {

constexpr PartOf<AmbientOcclusion> occlusion_parts[] = {
    {{"depth", nullptr, "Depth of the geometry pass"}, &AmbientOcclusion::depth},
    {{"normal", nullptr, "What it wrote as `normal`"}, &AmbientOcclusion::normal},
};

class AmbientOcclusionWork final : public gl::PassWork {
 public:
  AmbientOcclusionWork(const AmbientOcclusion& options, gl::PassSetup& setup)
      : view_(setup, options.scene, options.view),
        look_({.name = options.name, .compute = gl::ShaderText::embedded("periscena/ambient_occlusion.comp", pass_shaders())}),
        smooth_({options.name, gl::ShaderText::embedded("periscena/fullscreen.vert", pass_shaders()),
                 gl::ShaderText::embedded("periscena/ambient_occlusion.frag", pass_shaders())}),
        look_textures_(look_),
        smooth_textures_(smooth_),
        picture_(look_.uniform<Vec4>("picture")),
        nearest_(Filter::nearest, Wrap::clamp, "nearest") {
    setup.match_outputs(smooth_);
    look_.expect_block(CameraBlock::layout());
    const float background = view_.camera().depth == DepthOrder::ordinary ? 1.0f : 0.0f;
    look_.set(look_.uniform<float>("radius"), options.radius);
    look_.set(look_.uniform<float>("background"), background);
    smooth_.set(smooth_.uniform<float>("background"), background);
    smooth_.set(smooth_.uniform<float>("strength"), options.strength);
    resize(setup);
  }

  void resize(gl::PassSetup& setup) override {
    view_.resize(setup);
    const int width = setup.pass().width, height = setup.pass().height;
    if (raw_.width() != width || raw_.height() != height) raw_ = gl::Texture(width, height, Format::r8, "ambient occlusion");
    look_.set(picture_, Vec4(static_cast<float>(width), static_cast<float>(height), 0, 0));
    smooth_textures_.put(smooth_, "raw", raw_.name(), nearest_.name());
  }

  const Camera* camera() const override { return &view_.camera(); }

  void run(gl::PassContext& context) override {
    gl::State& state = context.state();
    view_.update(context);
    view_.bind(state);
    for (std::size_t i = 0; i < std::size(occlusion_parts); ++i) {
      look_textures_.put(look_, occlusion_parts[i].part.slot, context.read(i).name(), nearest_.name());
      smooth_textures_.put(smooth_, occlusion_parts[i].part.slot, context.read(i).name(), nearest_.name());
    }
    state.use_program(look_.name());
    look_textures_.bind(state);
    context.write_image(0, raw_, 0);
    context.compute(static_cast<std::uint32_t>((raw_.width() + 7) / 8), static_cast<std::uint32_t>((raw_.height() + 7) / 8));
    state.use_program(smooth_.name());
    smooth_textures_.bind(state);
    state.apply({});
    context.draw_triangle();
  }

 private:
  ViewCamera view_;
  gl::Program look_, smooth_;
  BoundTextures look_textures_, smooth_textures_;
  gl::Uniform<Vec4> picture_;
  gl::Sampler nearest_;
  gl::Texture raw_;
};

struct OcclusionKeys {
  Reference view;
  float radius = AmbientOcclusion().radius, strength = AmbientOcclusion().strength;
};

Keys<OcclusionKeys> occlusion_keys() {
  Keys<OcclusionKeys> keys;
  keys.key("view", &OcclusionKeys::view, {.required = true}, "The view that the geometry buffer was drawn through")
      .key("radius", &OcclusionKeys::radius, {.unit = "m", .minimum = 0, .above_minimum = true}, "Within which things count")
      .key("strength", &OcclusionKeys::strength, {.minimum = 0, .maximum = 8}, "Exponent of the free share: 0 none, 1 as it is, more darker");
  return keys;
}

}  // namespace

Pass ambient_occlusion(const AmbientOcclusion& options, Place place) {
  Pass pass = pass_of_kind("ambient_occlusion", options.name, std::move(place));
  const std::string who = fmt::format("pass \"{}\"", options.name);
  for (const auto& [part, target] : occlusion_parts) {
    if ((options.*target).empty())
      pass.problems.error("missing-key", pass.place, fmt::format("{} reads no {}", who, part.slot), "name the target that a geometry pass writes it to");
    else
      pass.reads.push_back({part.slot, options.*target});
  }
  const auto expect = [&](const char* what, bool sound, const char* range) {
    if (!sound)
      pass.problems.error("out-of-range", pass.place, fmt::format("{} has a {} that can't be", who, what), fmt::format("{} is {}", what, range));
  };
  expect("radius", std::isfinite(options.radius) && options.radius > 0, "more than 0, metres");
  expect("strength", std::isfinite(options.strength) && options.strength >= 0, "0 or more");
  if (!options.occlusion.empty()) pass.writes.push_back({.slot = "occlusion", .target = options.occlusion, .overwrites = true});
  pass.shader = ShaderInterface{.source = "periscena/ambient_occlusion.frag", .outputs = {{"occlusion", ValueKind::floating, 0}}, .samplers = {}};
  for (const Read& read : pass.reads) pass.shader->samplers.push_back({read.slot});
  expect_view(options.scene.get(), options.view, who, pass.problems);
  expect_same_buffer(pass, options.view);
  return with_work<AmbientOcclusionWork>(std::move(pass), options);
}

PassKind ambient_occlusion_kind() {
  static const Keys<OcclusionKeys> keys = occlusion_keys();
  PassKind kind;
  kind.name = "ambient_occlusion";
  kind.sentence = "How much of the sky above each pixel is free of what stands around it, for light from all around.";
  kind.example =
      "[[pass]]\nname   = \"corners\"\nkind   = \"ambient_occlusion\"\nview   = \"towpath\"\nradius = 0.8\n"
      "reads  = { depth = \"g.depth\", normal = \"g.normal\" }\nwrites = { occlusion = \"corners\" }\n";
  for (const auto& [part, target] : occlusion_parts) kind.reads.push_back({part.slot, true, part.sentence});
  kind.writes = {{"occlusion", true, "The free share, 0..1: r8"}};
  kind.keys = keys.infos();
  kind.make = [](const PassSource& source) {
    OcclusionKeys given;
    Diagnostics problems;
    keys.read(*source.table, fmt::format("pass \"{}\"", source.name.name), given, problems);
    AmbientOcclusion options{source.name.name, source.scene, given.view, given.radius, given.strength, {}, {}, {}};
    const bool whole = take_parts(source, occlusion_parts, options) && !options.view.empty();
    if (const TargetUse* occlusion = find_write(source, "occlusion")) options.occlusion = *occlusion;
    Pass pass = ambient_occlusion(options, source.name.place);
    // What is missing or out of range was told by the keys and slots already.
    if (!whole || problems.has_errors()) pass.problems = {};
    pass.problems.append(problems);
    return pass;
  };
  return kind;
}

}  // namespace periscena::passes
