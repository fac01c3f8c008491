#include "passes/shading/view_camera.h"

namespace periscena::passes {

ViewCamera::ViewCamera(gl::PassSetup& setup, const std::shared_ptr<const Scene>& scene, const Reference& view,
                       batch::Batching batching)
    : views_(scene), view_(scene->find_view(view.name)) {
  if (view_->node.valid()) scene_ = SceneBuffers::shared(setup, scene, batching);
  resize(setup);
}

void ViewCamera::resize(gl::PassSetup& setup) {
  placed_ = placed(setup);
  seen_ = 0;
}

std::shared_ptr<ViewCamera::Placed> ViewCamera::placed(gl::PassSetup& setup) const {
  const auto views = setup.shared().get<PlacedViews>(view_, [] { return std::make_shared<PlacedViews>(); });
  for (const std::shared_ptr<Placed>& known : *views) {
    if (known->aspect == setup.aspect()) return known;
  }
  auto made = std::make_shared<Placed>();
  made->scene = views_;
  made->aspect = setup.aspect();
  made->camera = view_->camera;
  made->block = CameraBlock::of(made->camera, made->aspect);
  made->buffer = view_->node.valid()
                     ? std::make_shared<gl::Buffer>(gl::Buffer::writable(sizeof(CameraBlock), "moving camera"))
                     : shared_block(setup, made->block, "camera");
  views->push_back(made);
  return made;
}

bool ViewCamera::update(const gl::PassContext& context) {
  Placed& placed = *placed_;
  if (scene_) {
    scene_->update(context);
    if (placed.frame != context.time().number) {
      const Camera camera = view_->placed(scene_->worlds()[view_->node.index]);
      if (placed.frame == 0 || camera != placed.camera) {
        placed.camera = camera;
        placed.block = CameraBlock::of(camera, placed.aspect);
        context.write(*placed.buffer, 0, std::as_bytes(std::span(&placed.block, 1)));
        ++placed.version;
      }
      placed.frame = context.time().number;
    }
  }
  const bool changed = seen_ != placed.version;
  seen_ = placed.version;
  return changed;
}

void ViewCamera::bind(gl::State& state) const {
  state.bind_uniform_block(gl::binding::camera_block, placed_->buffer->name(), 0, sizeof(CameraBlock));
}

}  // namespace periscena::passes
