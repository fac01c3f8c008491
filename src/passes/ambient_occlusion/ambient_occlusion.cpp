#include <periscena/passes/ambient_occlusion.h>

#include "draw/lights/lighting.h"
#include "draw/scene/view_camera.h"
#include "passes/deferred/screen_pass.h"

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
        look_(setup.device(), {.name = options.name, .compute = pass_shader("periscena/ambient_occlusion.comp")}),
        smooth_(setup.device(), {options.name, pass_shader("periscena/fullscreen.vert"),
                                 pass_shader("periscena/ambient_occlusion.frag")}),
        look_textures_(look_),
        smooth_textures_(smooth_),
        picture_(look_.uniform<Vec4>("picture")),
        nearest_(Filter::nearest, Wrap::clamp, "nearest") {
    setup.match_outputs(smooth_);
    look_.expect_block(draw::CameraBlock::layout());
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
    if (raw_.width() != width || raw_.height() != height)
      raw_ = gl::Texture(width, height, Format::r8, "ambient occlusion");
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
    look_.use(state);
    look_textures_.bind(state);
    context.write_image(0, raw_, 0);
    context.compute(static_cast<std::uint32_t>((raw_.width() + 7) / 8),
                    static_cast<std::uint32_t>((raw_.height() + 7) / 8));
    smooth_.use(state);
    smooth_textures_.bind(state);
    state.apply({});
    context.draw_triangle();
  }

 private:
  draw::ViewCamera view_;
  gl::Program look_, smooth_;
  draw::BoundTextures look_textures_, smooth_textures_;
  gl::Uniform<Vec4> picture_;
  gl::Sampler nearest_;
  gl::Texture raw_;
};

const Keys<AmbientOcclusion>& occlusion_keys() {
  static const Keys<AmbientOcclusion> keys =
      Keys<AmbientOcclusion>()
          .key("view", &AmbientOcclusion::view, {.required = true},
               "The view that the geometry buffer was drawn through")
          .key("radius", &AmbientOcclusion::radius, {.unit = "m", .minimum = 0, .above_minimum = true},
               "Within which things count")
          .key("strength", &AmbientOcclusion::strength, {.minimum = 0, .maximum = 8},
               "Exponent of the free share: 0 none, 1 as it is, more darker");
  return keys;
}

const Kind<AmbientOcclusion>& ambient_occlusion_said() {
  static const Kind<AmbientOcclusion> kind{
      .name = "ambient_occlusion",
      .sentence = "How much of the sky above each pixel is free of what stands around it, for light from all around.",
      .example =
          "[[pass]]\nname   = \"corners\"\nkind   = \"ambient_occlusion\"\nview   = \"towpath\"\nradius = 0.8\n"
          "reads  = { depth = \"g.depth\", normal = \"g.normal\" }\nwrites = { occlusion = \"corners\" }\n",
      .reads = part_slots(occlusion_parts),
      .writes = {{{"occlusion", Need::required, "The free share, 0..1: r8"},
                  &AmbientOcclusion::occlusion,
                  {.covering = Covering::replaces}}},
      .keys = occlusion_keys(),
      .finish = [](const AmbientOcclusion& options, Pass& pass) {
        for (Read& read : pass.reads) want_geometry(read, options.view);
        pass.work = gl::work<AmbientOcclusionWork>(options);
      }};
  return kind;
}

}  // namespace

Pass ambient_occlusion(const AmbientOcclusion& options, Place place) {
  return ambient_occlusion_said().make(options, std::move(place));
}

Pass ambient_occlusion(const Defaults& defaults, AmbientOcclusion options, Place place) {
  return ambient_occlusion_said().make(defaults, std::move(options), std::move(place));
}

PassKind ambient_occlusion_kind() {
  return ambient_occlusion_said().kind();
}

}  // namespace periscena::passes
