#include <periscena/passes/sky.h>

#include "draw/lights/lighting.h"
#include "draw/scene/view_camera.h"
#include "draw/screen/filling.h"
#include "passes/shared_keys.h"

#include <fmt/format.h>

namespace periscena::passes {
namespace {

draw::LightingChoice lighting_of(const Sky& options) {
  return {{}, options.environment, options.fog, options.cache};
}

class SkyWork final : public gl::PassWork {
 public:
  SkyWork(const Sky& options, draw::Filling filling, gl::PassSetup& setup)
      : filling_(filling),
        lighting_(setup, draw::SceneBuffers::shared(setup, options.scene), lighting_of(options)),
        program_(setup.device(), {options.name, filling_.vertices(),
                                  pass_shader("periscena/sky.frag").with_lines(lighting_.define_lines())}),
        textures_(program_),
        view_(setup, options.scene, options.view) {
    program_.expect_block(draw::CameraBlock::layout());
    program_.set(program_.uniform<float>("blur"), options.blur);
    lighting_.put_textures(program_, textures_);
    setup.match_outputs(program_);
  }

  void resize(gl::PassSetup& setup) override { view_.resize(setup); }

  const Camera* camera() const override { return &view_.camera(); }

  void prepare(gl::PassContext& context) override {
    lighting_.update(context);
    view_.update(context);
  }

  void run(gl::PassContext& context) override {
    gl::State& state = context.state();
    program_.use(state);
    state.apply(filling_.state());
    view_.bind(state);
    lighting_.bind(state);
    textures_.bind(state);
    context.draw_triangle();
  }

 private:
  draw::Filling filling_;
  draw::Lighting lighting_;
  gl::Program program_;
  draw::BoundTextures textures_;
  draw::ViewCamera view_;
};

Keys<Sky> sky_keys() {
  Keys<Sky> keys;
  keys.key("view", &Sky::view, {.required = true}, view_sentence)
      .key("environment", &Sky::environment, {.required = true}, "What is all around")
      .key("fog", &Sky::fog, {}, "Left out, none; the sky is taken to be 10 km away")
      .key("blur", &Sky::blur, {.minimum = 0, .maximum = 1},
           "0 for sharp, 1 for as wide as a fully rough surface's lobe");
  return keys;
}

const Kind<Sky>& sky_said() {
  static const Kind<Sky> kind{
      .name = "sky",
      .sentence = "Fills a target with an environment, as a view sees it, for the passes after it to draw over.",
      .example =
          "[[pass]]\nname        = \"dusk sky\"\nkind        = \"sky\"\nview        = \"towpath\"\nenvironment = "
          "\"dusk\"\nwrites      = { color = \"scene.color\" }\n",
      .reads = {},
      .writes = {{{"color", Need::required, "Linear light, nits"}, &Sky::color, whole_picture()}},
      .keys = sky_keys(),
      .finish = [](const Sky& options, Pass& pass) {
        pass.makes = LightRange::scene;
        pass.work = gl::work<SkyWork>(options, draw::Filling());
        pass.behind = [options](DepthOrder order) { return gl::work<SkyWork>(options, draw::Filling{order}); };
      }};
  return kind;
}

}  // namespace

Pass sky(const Sky& options, Place place) {
  return sky_said().make(options, std::move(place));
}

Pass sky(const Defaults& defaults, Sky options, Place place) {
  return sky_said().make(defaults, std::move(options), std::move(place));
}

PassKind sky_kind() {
  return sky_said().kind();
}

}  // namespace periscena::passes
