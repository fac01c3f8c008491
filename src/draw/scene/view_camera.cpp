#include "draw/scene/view_camera.h"

#include <periscena/math/jitter.h>

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
    : views_(scene), view_(scene->find_view(view.name)), jitters_(jitters) {
  if (view_->node.valid()) scene_ = SceneBuffers::shared(setup, scene, batching);
  resize(setup);
}

void ViewCamera::resize(gl::PassSetup& setup) {
  placed_ = placed(setup);
  seen_ = 0;
}

std::shared_ptr<ViewCamera::Placed> ViewCamera::placed(gl::PassSetup& setup) {
  // The view is a part of its scene.
  known_ = setup.shared().get<PlacedViews>(std::shared_ptr<const View>(views_, view_),
                                           [] { return std::make_shared<PlacedViews>(); });
  std::erase_if(*known_, [](const std::weak_ptr<Placed>& one) { return one.expired(); });
  const std::vector<Vec2> places = jitters_ ? places_of(setup.plan(), view_->name) : std::vector<Vec2>();
  for (const std::weak_ptr<Placed>& one : *known_) {
    if (auto known = one.lock(); known->aspect == setup.aspect() && known->places == places) return known;
  }
  auto made = std::make_shared<Placed>();
  made->aspect = setup.aspect();
  made->camera = view_->camera;
  made->places = places;
  made->block = CameraBlock::of(made->camera, made->aspect);
  made->buffer = view_->node.valid() || !places.empty()
                     ? std::make_shared<gl::Buffer>(gl::Buffer::writable(sizeof(CameraBlock), "moving camera"))
                     : shared_block(setup, made->block, "camera");
  known_->push_back(made);
  return made;
}

bool ViewCamera::update(const gl::PassContext& context) {
  Placed& placed = *placed_;
  if (scene_) scene_->update(context);
  if ((scene_ || !placed.places.empty()) && placed.frame != context.time().number) place(placed, context);
  const bool changed = seen_ != placed.version;
  seen_ = placed.version;
  return changed;
}

void ViewCamera::place(Placed& placed, const gl::PassContext& context) const {
  const Camera camera = scene_ ? camera_among(scene_->worlds()) : view_->camera;
  const Vec2 jitter = placed.places.empty() ? Vec2(0, 0) : placed.places[context.time().step % placed.places.size()];
  if (placed.frame == 0 || camera != placed.camera || jitter != placed.jitter) {
    placed.camera = camera;
    placed.jitter = jitter;
    placed.block = CameraBlock::of(camera, placed.aspect);
    placed.block.shift(jitter);
    context.write(*placed.buffer, 0, std::as_bytes(std::span(&placed.block, 1)));
    ++placed.version;
  }
  placed.frame = context.time().number;
}

void ViewCamera::bind(gl::State& state) const {
  state.bind_uniform_block(gl::binding::camera_block, placed_->buffer->name(), 0, sizeof(CameraBlock));
}

}  // namespace periscena::draw
