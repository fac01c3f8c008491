#include <periscena/passes/depth_of_field.h>

#include "draw/scene/view_camera.h"
#include "draw/screen/screen_program.h"
#include "passes/shared_keys.h"

#include <fmt/format.h>

#include <cmath>

namespace periscena::passes {
namespace {

float focal_length(float sensor_height, float fov_y) {
  return 0.5f * sensor_height / std::tan(0.5f * fov_y);
}

/// Radius of the disc of what is endlessly far, as a share of the height.
float far_disc(const DepthOfField& lens, float fov_y) {
  const float f = focal_length(lens.sensor_height, fov_y);
  return 0.5f * f * f / (lens.f_number * (lens.focus_distance - f) * lens.sensor_height);
}

class DepthOfFieldWork final : public gl::PassWork {
 public:
  DepthOfFieldWork(const DepthOfField& options, gl::PassSetup& setup)
      : options_(options),
        view_(setup, options.scene, options.view),
        program_(setup.device(), options.name, pass_shader("periscena/depth_of_field.frag")) {
    setup.match_outputs(program_.program());
    program_.program().expect_block(draw::CameraBlock::layout());
    program_.set("background", view_.camera().depth == DepthOrder::ordinary ? 1.0f : 0.0f);
    program_.set("focus", options.focus_distance);
    program_.set("largest", std::max(options.largest, 1e-5f));
    program_.set("taps", options.taps);
  }

  void resize(gl::PassSetup& setup) override { view_.resize(setup); }
  const Camera* camera() const override { return &view_.camera(); }

  void run(gl::PassContext& context) override {
    view_.update(context);
    view_.bind(context.state());
    program_.set("scale", far_disc(options_, view_.camera().fov_y));
    program_.put("light", context.read(0), samplers_.linear);
    program_.put("depth", context.read(1), samplers_.nearest);
    program_.draw(context);
  }

 private:
  DepthOfField options_;
  draw::ViewCamera view_;
  draw::ScreenProgram program_;
  draw::ScreenSamplers samplers_;
};

void finish_depth_of_field(const DepthOfField& options, Pass& pass) {
  const std::string who = fmt::format("pass \"{}\"", options.name);
  const View* view = options.scene ? options.scene->find_view(options.view.name) : nullptr;
  if (!view) return;
  const Camera camera = view->camera.lens ? view->camera.for_shape(1) : view->camera;
  if (camera.parallel_height > 0) {
    pass.problems.error(
        "parallel-view", options.view.place.known() ? options.view.place : pass.place,
        fmt::format("{} looks through \"{}\", whose rays are parallel: no lens sees so", who, options.view.name),
        "use a view with fov_y_degrees");
  } else if (options.focus_distance <= focal_length(options.sensor_height, camera.fov_y)) {
    pass.problems.error("too-near", pass.place,
                        fmt::format("{} is focused {} m away, within its focal length of {:.3f} m", who,
                                    options.focus_distance, focal_length(options.sensor_height, camera.fov_y)),
                        "focus farther away, or make sensor_height smaller");
  }
  for (std::size_t i = 0; i < pass.reads.size(); ++i) pass.shader->samplers[i].depth = pass.reads[i].slot == "depth";
  pass.takes = pass.makes = LightRange::scene;
  pass.work = gl::work<DepthOfFieldWork>(options);
}

const Kind<DepthOfField>& depth_of_field_said() {
  static const Kind<DepthOfField> kind{
      .name = "depth_of_field",
      .sentence = "What is nearer or farther than a lens is focused on becomes discs, by the lens' own numbers.",
      .example =
          "[[pass]]\nname           = \"lens\"\nkind           = \"depth_of_field\"\nview           = "
          "\"towpath\"\nfocus_distance = 9\nf_number       = 1.4\nreads          = { "
          "light = \"scene.color\", depth = \"scene.depth\" }\nwrites         = { color = \"scene.lens\" }\n",
      .reads = {{{"light", Need::required, "Linear light"}, &DepthOfField::light},
                {{"depth", Need::required, "Its depth"}, &DepthOfField::depth}},
      .writes = {{{"color", Need::required, "Linear light"}, &DepthOfField::color, whole_picture()}},
      .keys =
          Keys<DepthOfField>()
              .key("view", &DepthOfField::view, {.required = true},
                   "The view that it was seen through, one of perspective")
              .key("focus_distance", &DepthOfField::focus_distance,
                   {.unit = "metres", .minimum = 0, .above_minimum = true}, "Where it is sharp, along the view's axis")
              .key("f_number", &DepthOfField::f_number, {.minimum = 0.1, .maximum = 128},
                   "Focal length by aperture: the smaller, the larger the discs")
              .key("sensor_height", &DepthOfField::sensor_height,
                   {.unit = "metres", .minimum = 0, .above_minimum = true},
                   "Makes a focal length of the view's field of view: 0.024 is that of 35 mm film")
              .key("largest", &DepthOfField::largest, {.unit = "of the picture's height", .minimum = 0, .maximum = 0.2},
                   "Radius of the largest disc")
              .key("taps", &DepthOfField::taps, {.minimum = 8, .maximum = 256}, "Fetches a pixel"),
      .finish = finish_depth_of_field};
  return kind;
}

}  // namespace

float DepthOfField::disc_radius(float distance, float fov_y) const {
  const float share = std::isinf(distance) ? 1 : std::abs(distance - focus_distance) / distance;
  return far_disc(*this, fov_y) * share;
}

Pass depth_of_field(const DepthOfField& options, Place place) {
  return depth_of_field_said().make(options, std::move(place));
}

Pass depth_of_field(const Defaults& defaults, DepthOfField options, Place place) {
  return depth_of_field_said().make(defaults, std::move(options), std::move(place));
}

PassKind depth_of_field_kind() {
  return depth_of_field_said().kind();
}

}  // namespace periscena::passes
