#include <periscena/passes/motion_blur.h>

#include "draw/scene/view_camera.h"
#include "draw/screen/screen_program.h"
#include "passes/shared_keys.h"

#include <periscena/passes/velocity.h>

#include <cmath>

namespace periscena::passes {
namespace {

/// The longest motion of each tile of a picture, and of those around it.
class LongestMotions {
 public:
  LongestMotions(gl::Device& device, const std::string& name)
      : name_(name + ": longest motions"),
        across_(device, name, pass_shader("periscena/longest_motion.frag"), {"ACROSS"}),
        up_(device, name, pass_shader("periscena/longest_motion.frag"), {"UP"}),
        around_(device, name, pass_shader("periscena/longest_motion.frag"), {"AROUND"}) {}

  /// @param tile  pixels of its sides @param shutter, largest  see smear.glsl; largest in pixels
  void find(const gl::PassContext& context, const gl::Texture& velocity, int tile, float shutter, float largest) {
    const int across = (velocity.width() + tile - 1) / tile, up = (velocity.height() + tile - 1) / tile;
    rows_.resize(across, velocity.height(), Format::rg16f, name_);
    tiles_.resize(across, up, Format::rg16f, name_);
    longest_.resize(across, up, Format::rg16f, name_);
    for (draw::ScreenProgram* program : {&across_, &up_}) program->set("tile", tile);
    across_.set("half_shutter", 0.5f * shutter);
    across_.set("largest", largest);
    step(context, across_, velocity, rows_);
    step(context, up_, rows_.texture(), tiles_);
    step(context, around_, tiles_.texture(), longest_);
  }

  const gl::Texture& texture() const { return longest_.texture(); }

 private:
  void step(const gl::PassContext& context, draw::ScreenProgram& program, const gl::Texture& from,
            draw::OwnTarget& into) {
    program.put("from", from, samplers_.nearest);
    into.draw_into(context.state());
    program.draw(context);
  }

  std::string name_;
  draw::ScreenProgram across_, up_, around_;
  draw::OwnTarget rows_, tiles_, longest_;
  draw::ScreenSamplers samplers_;
};

class MotionBlurWork final : public gl::PassWork {
 public:
  MotionBlurWork(const MotionBlur& options, gl::PassSetup& setup)
      : options_(options),
        view_(setup, options.scene, options.view),
        longest_(setup.device(), options.name),
        program_(setup.device(), options.name, pass_shader("periscena/motion_blur.frag")) {
    setup.match_outputs(program_.program());
    program_.program().expect_block(draw::CameraBlock::layout());
    program_.set("background", view_.camera().depth == DepthOrder::ordinary ? 1.0f : 0.0f);
    program_.set("half_shutter", 0.5f * options.shutter);
    program_.set("taps", options.taps);
  }

  void resize(gl::PassSetup& setup) override { view_.resize(setup); }
  const Camera* camera() const override { return &view_.camera(); }

  void run(gl::PassContext& context) override {
    view_.update(context);
    view_.bind(context.state());
    const gl::Texture& velocity = context.read(1);
    // Whatever reaches a pixel lies in its tile, or in one beside it.
    const float largest = options_.largest * static_cast<float>(velocity.height());
    const int tile = std::max(1, static_cast<int>(std::ceil(largest)));
    longest_.find(context, velocity, tile, options_.shutter, largest);
    program_.set("tiles_across", Vec2(static_cast<float>(velocity.width()) / static_cast<float>(tile),
                                      static_cast<float>(velocity.height()) / static_cast<float>(tile)));
    program_.set("largest", largest);
    program_.put("light", context.read(0), samplers_.nearest);
    program_.put("velocity", velocity, samplers_.nearest);
    program_.put("depth", context.read(2), samplers_.nearest);
    program_.put("longest", longest_.texture(), samplers_.nearest);
    program_.draw_output(context);
  }

 private:
  MotionBlur options_;
  draw::ViewCamera view_;
  LongestMotions longest_;
  draw::ScreenProgram program_;
  draw::ScreenSamplers samplers_;
};

void finish_motion_blur(const MotionBlur& options, Pass& pass) {
  const View* view = options.scene ? options.scene->find_view(options.view.name) : nullptr;
  if (!view) return;
  want_motion(pass, options.view, WantsMotion::Since::any);
  for (std::size_t i = 0; i < pass.reads.size(); ++i) pass.shader->samplers[i].depth = pass.reads[i].slot == "depth";
  pass.takes = pass.makes = LightRange::scene;
  pass.work = gl::work<MotionBlurWork>(options);
}

const Kind<MotionBlur>& motion_blur_said() {
  static const Kind<MotionBlur> kind{
      .name = "motion_blur",
      .sentence = "What moves while the shutter is open is smeared along its way.",
      .example =
          "[[pass]]\nname    = \"shutter\"\nkind    = \"motion_blur\"\nview    = \"towpath\"\nshutter = 0.5\nreads   = "
          "{ light = \"scene.color\", velocity = \"scene.velocity\", depth "
          "= \"scene.depth\" }\nwrites  = { color = \"scene.moved\" }\n",
      .reads = {{{"light", Need::required, "Linear light"}, &MotionBlur::light},
                {{"velocity", Need::required, "Of a `velocity` pass"}, &MotionBlur::velocity},
                {{"depth", Need::required, "Depth of the light"}, &MotionBlur::depth}},
      .writes = {{{"color", Need::required, "Linear light"}, &MotionBlur::color, whole_picture()}},
      .keys =
          Keys<MotionBlur>()
              .key("view", &MotionBlur::view, {.required = true}, "The view that it was seen through")
              .key("shutter", &MotionBlur::shutter, {.minimum = 0, .maximum = 4},
                   "For which share of the velocity's time it is open")
              .key("largest", &MotionBlur::largest, {.unit = "of the picture's height", .minimum = 0, .maximum = 0.2},
                   "Half a way is at most so long")
              .key("taps", &MotionBlur::taps, {.minimum = 4, .maximum = 128}, "Fetches a pixel, of each of two kinds"),
      .finish = finish_motion_blur};
  return kind;
}

}  // namespace

Pass motion_blur(const MotionBlur& options, Place place) {
  return motion_blur_said().make(options, std::move(place));
}

Pass motion_blur(const Defaults& defaults, MotionBlur options, Place place) {
  return motion_blur_said().make(defaults, std::move(options), std::move(place));
}

PassKind motion_blur_kind() {
  return motion_blur_said().kind();
}

}  // namespace periscena::passes
