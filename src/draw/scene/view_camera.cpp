#include "draw/scene/view_camera.h"

#include <periscena/base/error.h>
#include <periscena/base/names.h>
#include <periscena/math/jitter.h>

#include <fmt/format.h>

namespace periscena::draw {
namespace {

/// Where a view's frames lie in their pixels, in clip space; nothing when no pass of the plan moves them.
std::vector<Vec2> places_of(const FramePlan& plan, const std::string& view) {
  for (const PlannedPass& pass : plan.passes()) {
    if (!pass.declared || !pass.declared->jitter || pass.declared->jitter->view != view) continue;
    std::vector<Vec2> places = jitter_places(pass.declared->jitter->places);
    const Vec2 pixel(2 / static_cast<float>(pass.width), 2 / static_cast<float>(pass.height));
    for (Vec2& place : places) place = (place - Vec2(0.5f, 0.5f)).times(pixel);
    return places;
  }
  return {};
}

}  // namespace

ViewCamera::ViewCamera(gl::PassSetup& setup, const std::shared_ptr<const Scene>& scene, const Reference& view,
                       batch::Batching batching, bool jitters)
    : views_(scene), view_(scene->view_handle(view.name)), jitters_(jitters) {
  setup.watch([scene] { return scene->versions().structure; });
  if (!view_.valid()) {
    throw Mistake("unknown-view", view.place, fmt::format("the scene has no view \"{}\" any more", view.name),
                  name_hint(view.name, names_of(scene->views())));
  }
  if (this->view().node.valid()) scene_ = SceneBuffers::shared(setup, scene, batching);
  resize(setup);
}

void ViewCamera::resize(gl::PassSetup& setup) {
  placed_ = placed(setup);
  seen_ = 0;
}

std::shared_ptr<ViewCamera::Placed> ViewCamera::placed(gl::PassSetup& setup) {
  // The view is a part of its scene.
  known_ = setup.shared().get<PlacedViews>(std::shared_ptr<const View>(views_, &view()),
                                           [] { return std::make_shared<PlacedViews>(); });
  std::erase_if(*known_, [](const std::weak_ptr<Placed>& one) { return one.expired(); });
  const std::vector<Vec2> places = jitters_ ? places_of(setup.plan(), view().name) : std::vector<Vec2>();
  for (const std::weak_ptr<Placed>& one : *known_) {
    if (auto known = one.lock(); known->aspect == setup.aspect() && known->places == places) return known;
  }
  auto made = std::make_shared<Placed>();
  made->aspect = setup.aspect();
  made->camera = view().camera.for_shape(made->aspect);
  made->places = places;
  made->set_at = views_->versions().views;
  made->block = CameraBlock::of(made->camera, made->aspect);
  made->buffer = gl::Buffer::writable(sizeof(CameraBlock), "camera");
  made->buffer.write(0, std::as_bytes(std::span(&made->block, 1)));
  known_->push_back(made);
  return made;
}

bool ViewCamera::update(const gl::PassContext& context) {
  Placed& placed = *placed_;
  if (scene_) scene_->update(context);
  const bool moves = scene_ || !placed.places.empty() || placed.set_at != views_->versions().views;
  if (moves && placed.frame != context.time().number) place(placed, context);
  const bool changed = seen_ != placed.version;
  seen_ = placed.version;
  return changed;
}

void ViewCamera::place(Placed& placed, const gl::PassContext& context) const {
  const Camera camera = (scene_ ? camera_among(scene_->worlds()) : view().camera).for_shape(placed.aspect);
  const Vec2 jitter = placed.places.empty() ? Vec2(0, 0) : placed.places[context.time().step % placed.places.size()];
  if (placed.frame == 0 || camera != placed.camera || jitter != placed.jitter) {
    placed.camera = camera;
    placed.jitter = jitter;
    placed.block = CameraBlock::of(camera, placed.aspect);
    placed.block.shift(jitter);
    context.write(placed.buffer, 0, std::as_bytes(std::span(&placed.block, 1)));
    ++placed.version;
  }
  placed.set_at = views_->versions().views;
  placed.frame = context.time().number;
}

void ViewCamera::bind(gl::State& state) const {
  state.bind_uniform_block(gl::binding::camera_block, placed_->buffer.name(), 0, sizeof(CameraBlock));
}

}  // namespace periscena::draw
