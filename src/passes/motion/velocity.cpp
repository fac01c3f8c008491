#include <periscena/passes/velocity.h>

#include "draw/culling/object_draws.h"
#include "draw/scene/view_camera.h"
#include "draw/screen/screen_program.h"
#include "passes/motion/objects_before.h"
#include "passes/shared_keys.h"

#include <fmt/format.h>

#include <algorithm>
#include <optional>
#include <utility>

namespace periscena::passes {
namespace {

DoubleMat4 world_to_clip(const Camera& camera, float aspect) {
  return camera.projection(aspect).matrix().cast<double>() * camera.view().matrix().cast<double>();
}

/// Draws again what moves, by the depth that is there.
class MovingObjects {
 public:
  MovingObjects(gl::Device& device, const std::string& name, const std::shared_ptr<draw::SceneBuffers>& scene)
      : scene_(scene),
        draws_(scene, scene->scene().moving_nodes(), std::vector<batch::Traits>(scene->scene().nodes().size()),
               batch::Batching::unmerged),
        program_(device, {name + ": objects", pass_shader("periscena/velocity.vert"),
                          pass_shader("periscena/velocity_objects.frag")}),
        textures_(program_) {
    program_.expect_block(draw::CameraBlock::layout());
    program_.expect_block(draw::ObjectBlock::layout());
    program_.expect_block(ObjectsBefore::layout());
  }

  gl::Program& program() { return program_; }

  void draw(const gl::PassContext& context, const draw::ViewCamera& view, bool view_changed,
            const ObjectsBefore& before, const Mat4& clip_before, const gl::Texture& depth,
            const gl::Sampler& nearest) {
    if (view_changed) draws_.see(view.frustum(), view.camera().eye);
    draws_.update(context);
    if (draws_.runs().empty()) return;
    program_.set(program_.uniform<Mat4>("clip_before"), clip_before);
    program_.set(program_.uniform<Vec2>("jitter"), view.jitter());
    textures_.put(program_, "depth", depth.name(), nearest.name());
    gl::State& state = context.state();
    program_.use(state);
    textures_.bind(state);
    // Of both sides, as depth tells what is seen.
    gl::PipelineState how;
    how.cull = gl::CullFaces::none;
    state.apply(how);
    for (const batch::Run& run : draws_.runs()) {
      scene_->bind_objects(state, run.object_block);
      before.bind(state, run.object_block);
      draws_.draw(context, run);
    }
  }

 private:
  std::shared_ptr<draw::SceneBuffers> scene_;
  draw::ObjectDraws draws_;
  gl::Program program_;
  draw::BoundTextures textures_;
};

class VelocityWork final : public gl::PassWork {
 public:
  VelocityWork(const Velocity& options, gl::PassSetup& setup)
      : seconds_(options.seconds),
        view_(setup, options.scene, options.view),
        scene_(draw::SceneBuffers::shared(setup, options.scene)),
        before_(setup.device(), *scene_),
        program_(setup.device(), options.name, pass_shader("periscena/velocity.frag")) {
    setup.match_outputs(program_.program());
    const std::vector<bool> moving = scene_->scene().moving_nodes();
    if (std::find(moving.begin(), moving.end(), true) == moving.end()) return;
    objects_.emplace(setup.device(), options.name, scene_);
    setup.match_outputs(objects_->program());
    const PlannedTarget& depth = setup.plan().targets()[setup.pass().reads[0].target];
    const FormatInfo& format = info(depth.description.format);
    objects_->program().set(objects_->program().uniform<bool>("samples"), depth.resolved_from.has_value());
    objects_->program().set(objects_->program().uniform<float>("grain"), format.numbers == NumberKind::floating ? 0.0f
                                                                         : format.bytes <= 2 ? 1.0f / 32768
                                                                                             : 1.0f / 8388608);
  }

  void resize(gl::PassSetup& setup) override { view_.resize(setup); }
  const Camera* camera() const override { return &view_.camera(); }

  void run(gl::PassContext& context) override {
    const gl::FrameTime& time = context.time();
    const double then = seconds_ > 0 ? time.seconds - static_cast<double>(seconds_) : time.before;
    scene_->update(context);
    const bool view_changed = view_.update(context);
    before_.update(context, then);
    const Camera camera_before = camera_in_frame_before(time);
    const DoubleMat4 clip_before = world_to_clip(camera_before, view_.aspect());
    // Of a view that stands still nothing moves, whatever rounding says.
    const bool still = camera_before == view_.camera();
    const DoubleMat4 to_before =
        still ? DoubleMat4::identity() : clip_before * world_to_clip(view_.camera(), view_.aspect()).inverse();
    program_.set("to_before", to_before.cast<float>());
    program_.set("jitter", view_.jitter());
    program_.put("depth", context.read(0), samplers_.nearest);
    program_.draw(context);
    view_.bind(context.state());
    if (objects_)
      objects_->draw(context, view_, view_changed, before_, clip_before.cast<float>(), context.read(0),
                     samplers_.nearest);
  }

 private:
  /// By the time, as long as nothing but time moves the view; else as the frame before had it.
  Camera camera_in_frame_before(const gl::FrameTime& time) {
    const std::uint64_t views = scene_->source().versions().views;
    const bool set = std::exchange(views_seen_, views) != views;
    const std::optional<Camera> kept = std::exchange(kept_, view_.camera());
    return set && kept && !time.begins ? *kept : view_.camera_among(before_.worlds());
  }

  float seconds_;
  draw::ViewCamera view_;
  std::optional<Camera> kept_;    ///< of the frame before
  std::uint64_t views_seen_ = 0;  ///< SceneVersions::views
  std::shared_ptr<draw::SceneBuffers> scene_;
  ObjectsBefore before_;
  draw::ScreenProgram program_;
  std::optional<MovingObjects> objects_;
  draw::ScreenSamplers samplers_;
};

/// Motions go both ways, and are small.
void expect_velocity_format(const std::string& who, std::span<const WrittenTarget> targets, Diagnostics& problems) {
  for (const WrittenTarget& target : targets) {
    const FormatInfo& format = info(target.format);
    if (format.color() && format.channels >= 2 && format.numbers == NumberKind::floating &&
        target.format != Format::r11g11b10f)
      continue;
    problems.error("bad-velocity-format", target.place,
                   fmt::format("{} writes motions to \"{}\", and {} can't hold them", who, target.name, format.name),
                   "format = \"rg16f\"");
  }
}

void finish_velocity(const Velocity& options, Pass& pass) {
  const std::string who = fmt::format("pass \"{}\"", options.name);
  const View* view = options.scene ? options.scene->find_view(options.view.name) : nullptr;
  if (!view || options.depth.empty() || options.velocity.empty()) return;
  pass.shader->samplers[0].depth = true;
  pass.facts = MotionFacts{options.view, options.seconds};
  pass.check_targets = [who](std::span<const WrittenTarget> targets, Diagnostics& problems) {
    expect_velocity_format(who, targets, problems);
  };
  pass.work = gl::work<VelocityWork>(options);
}

const Kind<Velocity>& velocity_said() {
  static const Kind<Velocity> kind{
      .name = "velocity",
      .sentence = "How far what is seen at each pixel has come over the picture, by its own motion and the view's.",
      .example =
          "[[pass]]\nname    = \"velocity\"\nkind    = \"velocity\"\nview    = \"towpath\"\nseconds = 0.04\nreads   = "
          "{ depth = \"scene.depth\" }\nwrites  = { velocity = "
          "\"scene.velocity\" }\n",
      .reads = {{{"depth", Need::required, "Depth of the view"}, &Velocity::depth}},
      .writes = {{{"velocity", Need::required, "Shares of the picture's width and height, to the right and up: rg16f"},
                  &Velocity::velocity,
                  {.covering = Covering::replaces, .shows = Shows::motions}}},
      .keys = Keys<Velocity>()
                  .key("view", &Velocity::view, {.required = true}, "The view that the depth was seen through")
                  .key("seconds", &Velocity::seconds, {.unit = "seconds", .minimum = 0},
                       "Since how long before; 0: since the frame before"),
      .finish = finish_velocity};
  return kind;
}

}  // namespace

Pass velocity(const Velocity& options, Place place) {
  return velocity_said().make(options, std::move(place));
}

Pass velocity(const Defaults& defaults, Velocity options, Place place) {
  return velocity_said().make(defaults, std::move(options), std::move(place));
}

PassKind velocity_kind() {
  return velocity_said().kind();
}

}  // namespace periscena::passes
