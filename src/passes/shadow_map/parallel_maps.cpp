// Maps of directional lights: one for all casters, or cascades.
#include "passes/shadow_map/caster_draws.h"

#include "draw/scene/view_camera.h"

#include <periscena/base/error.h>
#include <periscena/base/names.h>
#include <periscena/math/light_fit.h>

#include <fmt/format.h>

#include <algorithm>
#include <limits>
#include <utility>

namespace periscena::passes {
namespace {

class ParallelMaps final : public gl::PassWork {
 public:
  ParallelMaps(const ShadowMap& options, gl::PassSetup& setup)
      : ParallelMaps(options, setup, draw::SceneBuffers::shared(setup, options.scene, options.batching)) {}

  ParallelMaps(const ShadowMap& given, gl::PassSetup& setup, const std::shared_ptr<draw::SceneBuffers>& scene)
      : ParallelMaps(setup, with_scene(given, *scene), scene) {
    fit_to_parts_of_merged(given);
    if (given.cascades == 0) return;
    watched_.emplace(setup, given.scene, given.view, given.batching, false);
    split();
  }

  ParallelMaps(gl::PassSetup& setup, const ShadowMap& options, const std::shared_ptr<draw::SceneBuffers>& scene)
      : options_(options),
        scene_(scene),
        light_(number_of_light(options)),
        view_(draw::ShadowView::of_pass(setup, setup.pass().declared)),
        draws_(options, scene_, setup.device(),
               options.cascades > 0 ? CasterDraws::Views::layers : CasterDraws::Views::camera, view_->parts().size()),
        part_buffer_(gl::Buffer::writable(view_->parts().size() * sizeof(draw::ShadowPartBlock), "light's views")),
        fitted_(view_->parts().size()) {
    const std::vector<bool> changing = draws_.changing();
    changes_ = std::find(changing.begin(), changing.end(), true) != changing.end();
    spheres_.reserve(changing.size());
    resize(setup);
  }

  void resize(gl::PassSetup& setup) override {
    width_ = setup.pass().width;
    height_ = setup.pass().height;
    const PlannedTarget& target = setup.plan().targets()[setup.pass().writes[0].target];
    target_ = target.description;
    rotates_ = target.frames > 1;
    aspect_ = static_cast<float>(setup.plan().width()) / static_cast<float>(setup.plan().height());
    if (watched_) watched_->resize(setup);
    stale_ = true;
  }

  void run(gl::PassContext& context) override {
    scene_->update(context);
    stale_ = draws_.holes_changed() || stale_ || rotates_;
    const bool looked_elsewhere = watched_ && watched_->update(context);
    const std::uint64_t lights = scene_->source().versions().lights;
    const bool changed = std::exchange(lights_seen_, lights) != lights;
    if (stale_ || changed || scene_->moved() || looked_elsewhere) fit(context);
    if (!stale_ && !draws_.animated() && !(changes_ && scene_->changed())) return;
    stale_ = false;
    context.clear(target_);
    if (watched_) context.state().bind_storage_block(gl::binding::shadow_part_storage, part_buffer_.name());
    draws_.draw(context);
  }

  const Camera* camera() const override { return &view_->camera(0); }
  const Camera* camera_of_layer(int layer) const override {
    // A single map may be drawn into an array, too.
    return &view_->camera(view_->parts().size() == 1 ? 0 : static_cast<std::size_t>(layer));
  }

  std::vector<gl::Choice> choices() const override { return {{"merged", scene_->merging()}}; }
  std::vector<gl::Batch> batches() const override { return draws_.batches(); }

 private:
  /// What was merged is fitted to by its parts, so that the map is the same however it is drawn.
  void fit_to_parts_of_merged(const ShadowMap& given) {
    if (given.scene == scene_->shared_scene()) return;
    const Scene &whole = *given.scene, &merged = scene_->scene();
    const std::vector<bool> casters = casters_in(given);
    const std::vector<batch::MeshBounds> meshes = batch::mesh_bounds(whole);
    unmerged_ = whole.nodes().size();
    std::vector<Transform> worlds(unmerged_, Transform::identity());
    whole.world_transforms(0, worlds);
    batch::BoundsSet bounds(unmerged_);
    for (std::size_t i = 0; i < unmerged_; ++i) {
      if (!casters[i] || merged.nodes()[i].mesh.valid()) continue;
      batch::place(bounds, i, meshes[whole.nodes()[i].mesh.index], worlds[i]);
      merged_parts_.push_back(bounds.ball(i));
    }
    spheres_.reserve(merged_parts_.size() + unmerged_);
  }

  /// Lets the light look at where the casters are.
  void fit(const gl::PassContext& context) {
    const Light& light = scene_->source().lights()[light_];
    const Transform world = light.node.valid() ? scene_->worlds()[light.node.index] : Transform::identity();
    const std::vector<bool>& casters = draws_.casters();
    spheres_ = merged_parts_;
    for (std::size_t i = 0; i < std::min(casters.size(), unmerged_); ++i) {
      if (casters[i]) spheres_.push_back(scene_->bounds().ball(i));
    }
    const Vec3 direction = world.apply_to_direction(std::get<DirectionalLight>(light.kind).direction);
    if (watched_) return fit_cascades(context, direction);
    const float margin = static_cast<float>(border_of(options_)) / static_cast<float>(std::min(width_, height_));
    const auto camera = fit_parallel(direction, spheres_, margin);
    if (camera && looks_through(0, *camera)) look_through(context);
  }

  /// @return is that news?
  bool looks_through(std::size_t part, const Camera& camera) {
    if (!stale_ && fitted_[part] == camera) return false;
    fitted_[part] = camera;
    view_->look_through(part, camera, width_, height_);
    stale_ = true;
    return true;
  }

  /// The light's number in its scene.
  static std::size_t number_of_light(const ShadowMap& options) {
    const std::vector<const Light*> lights = shadowed_lights(options);
    if (lights.empty()) {
      const Reference& light = options.lights.empty() ? options.light : options.lights[0];
      throw Mistake("unknown-light", light.place, fmt::format("the scene has no light \"{}\" any more", light.name),
                    name_hint(light.name, names_of(options.scene->lights())));
    }
    return static_cast<std::size_t>(lights.front() - options.scene->lights().data());
  }

  void split() {
    const float near = std::max(watched_->camera().near, 1e-3f), far = std::max(options_.reach, 2 * near);
    // Steps that grow from a very near plane would spend all but the last part on the first metre.
    splits_ = split_view(std::max(near, far / 100), far, options_.cascades, options_.split_weight);
    splits_[0] = near;
  }

  /// Lets it look at each part of what the camera sees.
  void fit_cascades(const gl::PassContext& context, const Vec3& direction) {
    const Camera& camera = watched_->camera();
    if (camera.near != splits_[0]) split();
    bool news = false;
    for (std::size_t i = 0; i + 1 < splits_.size(); ++i) {
      const Sphere part = view_part(camera, aspect_, splits_[i], splits_[i + 1]);
      const Camera light = fit_steady(direction, part, spheres_, std::min(width_, height_), border_of(options_));
      news = looks_through(i, light) || news;
    }
    if (!news) return;
    context.write(part_buffer_, 0, std::as_bytes(view_->parts()));
    look_through(context);
  }

  void look_through(const gl::PassContext& context) {
    draws_.look_through(context, view_->cameras(), static_cast<float>(width_) / static_cast<float>(height_));
  }

  ShadowMap options_;
  std::shared_ptr<draw::SceneBuffers> scene_;
  std::size_t light_;              ///< number in the scene
  std::uint64_t lights_seen_ = 0;  ///< SceneVersions::lights
  std::shared_ptr<draw::ShadowView> view_;
  CasterDraws draws_;
  gl::Buffer part_buffer_;
  std::vector<Camera> fitted_;               ///< by part
  std::optional<draw::ViewCamera> watched_;  ///< whose picture cascades share out
  std::vector<float> splits_;                ///< distances from its eye where parts end
  float aspect_ = 1;                         ///< of that picture
  std::vector<Sphere> spheres_, merged_parts_;
  std::size_t unmerged_ = std::numeric_limits<std::size_t>::max();  ///< nodes before those that were merged
  TargetDescription target_;
  int width_ = 1, height_ = 1;
  bool changes_ = false;  ///< is there a caster that moves at times?
  bool rotates_ = false;  ///< does each frame draw into another storage, because somebody reads earlier frames' maps?
  bool stale_ = true;     ///< is there no map yet of what the views see?
};

}  // namespace

std::unique_ptr<gl::PassWork> draw_parallel_maps(const ShadowMap& options, gl::PassSetup& setup) {
  if (options.cascades > 0)
    expect_vertex_layers(options, setup, "cascades", "leave out cascades: one map then holds all casters");
  return std::make_unique<ParallelMaps>(options, setup);
}

}  // namespace periscena::passes
