// Maps of spot and point lights, in tiles of one target.
#include "draw/scene/view_camera.h"
#include "passes/pass_checks.h"
#include "passes/shadow_map/caster_draws.h"

#include <periscena/base/cases.h>

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <utility>

namespace periscena::passes {
namespace {

/// What a face of a cube looks along, and what is up on it.
struct Face {
  Vec3 ahead, up;
};
const std::array<Face, 6> faces = {{{Vec3::unit_x(), Vec3::unit_y()},
                                    {-Vec3::unit_x(), Vec3::unit_y()},
                                    {Vec3::unit_y(), Vec3::unit_z()},
                                    {-Vec3::unit_y(), Vec3::unit_z()},
                                    {Vec3::unit_z(), Vec3::unit_y()},
                                    {-Vec3::unit_z(), Vec3::unit_y()}}};

/// A light as it stands in a frame.
struct Lamp {
  std::size_t light;  ///< number in the scene
  Vec3 position = Vec3::zero(), direction = Vec3(0, -1, 0);
  float reach = 1;        ///< metres
  float cone = 0;         ///< of a spot light
  double importance = 0;  ///< when tiles were shared out last
  std::vector<Tile> tiles = {};
  bool fresh = false;          ///< is its map of this light, these tiles, and these casters?
  bool near_changing = false;  ///< was there a caster within reach that moves at times, when it was drawn?
};

class LampMaps final : public gl::PassWork {
 public:
  LampMaps(const ShadowMap& options, gl::PassSetup& setup)
      : LampMaps(setup, options, draw::SceneBuffers::shared(setup, options.scene, options.batching)) {}

  LampMaps(gl::PassSetup& setup, const ShadowMap& given, const std::shared_ptr<draw::SceneBuffers>& scene)
      : options_(with_scene(given, *scene)),
        scene_(scene),
        view_(draw::ShadowView::of_pass(setup, setup.pass().declared)),
        clear_(setup.device(), {fmt::format("{}, cleared", given.name),
                                pass_shader("periscena/clear_tiles.vert")
                                    .with_lines({"#extension GL_ARB_shader_viewport_layer_array : require"})}),
        draws_(options_, scene_, setup.device(), CasterDraws::Views::tiles, faces.size()),
        part_buffer_(gl::Buffer::writable(faces.size() * sizeof(draw::ShadowPartBlock), "a light's views")) {
    for (const Light* light : shadowed_lights(options_))
      lamps_.push_back({static_cast<std::size_t>(light - options_.scene->lights().data())});
    const std::vector<bool> changing = draws_.changing();
    for (std::uint32_t i = 0; i < changing.size(); ++i) {
      if (changing[i]) changing_.push_back(i);
    }
    if (!given.view.empty()) watched_.emplace(setup, given.scene, given.view, given.batching, false);
    resize(setup);
  }

  void resize(gl::PassSetup& setup) override {
    const PlannedTarget& target = setup.plan().targets()[setup.pass().writes[0].target];
    target_ = target.description;
    rotates_ = target.frames > 1;
    width_ = target.width;
    height_ = target.height;
    layers_ = target.layers;
    if (watched_) watched_->resize(setup);
    stale_ = true;
  }

  void run(gl::PassContext& context) override {
    scene_->update(context);
    stale_ = draws_.holes_changed() || stale_ || rotates_;
    const bool looked_elsewhere = watched_ && watched_->update(context);
    const std::uint64_t lights = scene_->source().versions().lights;
    const bool changed = std::exchange(lights_seen_, lights) != lights;
    if (stale_ || changed || scene_->moved()) place_lamps();
    if (stale_ || changed || looked_elsewhere || (watched_ && scene_->moved())) share_out();
    if (stale_) context.clear(target_);
    stale_ = false;
    for (std::size_t i = 0; i < lamps_.size(); ++i) {
      if (!lamps_[i].tiles.empty() && wants_drawing(lamps_[i])) draw(context, i);
    }
  }

  const Camera* camera() const override { return nullptr; }
  const Camera* camera_of_layer(int layer) const override {
    // Of tiles that share a layer, none speaks for all.
    for (const Lamp& lamp : lamps_) {
      for (std::size_t k = 0; k < lamp.tiles.size(); ++k) {
        if (lamp.tiles[k].layer != layer || lamp.tiles[k].size != std::min(width_, height_)) continue;
        return &view_->camera(view_->lights()[static_cast<std::size_t>(&lamp - lamps_.data())].first_part + k);
      }
    }
    return nullptr;
  }

  std::vector<gl::Choice> choices() const override {
    std::vector<gl::Choice> choices{{"merged", scene_->merging()}};
    for (const Lamp& lamp : lamps_) {
      choices.push_back({fmt::format("map of \"{}\"", light_of(lamp).name),
                         lamp.tiles.empty() ? "none: there are more lights than tiles, and this one matters least"
                                            : fmt::format("{} x {} texels{}", lamp.tiles[0].size, lamp.tiles[0].size,
                                                          lamp.tiles.size() > 1 ? " to each side" : "")});
    }
    return choices;
  }

  std::vector<gl::Batch> batches() const override { return draws_.batches(); }

 private:
  const Light& light_of(const Lamp& lamp) const { return scene_->source().lights()[lamp.light]; }

  void place_lamps() {
    Box box;
    const std::vector<bool>& casters = draws_.casters();
    for (std::size_t i = 0; i < casters.size(); ++i) {
      if (!casters[i]) continue;
      const Sphere ball = scene_->bounds().ball(i);
      if (ball.empty() || !std::isfinite(ball.radius)) continue;
      box.include(ball.center + Vec3::constant(ball.radius));
      box.include(ball.center - Vec3::constant(ball.radius));
    }
    for (Lamp& lamp : lamps_) {
      const Light& light = light_of(lamp);
      const NodeHandle node = light.node;
      const Transform world = node.valid() ? scene_->worlds()[node.index] : Transform::identity();
      Vec3 position = lamp.position, direction = lamp.direction;
      const float cone = light.spot() ? light.spot()->outer_cone : 0;
      std::visit(Cases{[](const DirectionalLight&) {}, [&](const PointLight& one) { position = one.position; },
                       [&](const SpotLight& one) {
                         position = one.position;
                         direction = one.direction;
                       }},
                 light.placed(world));
      float reach = light.range();
      // Not much farther than the farthest caster; in steps, so that not all that moves out there changes the view.
      if (!box.empty()) {
        const Vec3 corner = (position - box.min).abs().max((position - box.max).abs());
        reach = std::min(reach, std::exp2(std::ceil(std::log2(corner.norm()))));
      }
      if (!std::isfinite(reach)) reach = 1;
      reach = std::max(reach, 2 * options_.near);
      if (position == lamp.position && direction == lamp.direction && reach == lamp.reach && cone == lamp.cone)
        continue;
      lamp.position = position;
      lamp.direction = direction;
      lamp.reach = reach;
      lamp.cone = cone;
      lamp.fresh = false;
    }
  }

  /// How large its light is in the view, at most 1.
  double importance(const Lamp& lamp) const {
    if (!watched_) return 1;
    const double away = (lamp.position - watched_->camera().eye).cast<double>().norm();
    const double size = lamp.reach / std::max<double>(away, lamp.reach);
    return watched_->frustum().may_see(Sphere{lamp.position, lamp.reach}) ? size : size / 8;
  }

  /// Gives lights their tiles. Sizes stay unless one is off by four times, so that maps need not be drawn anew in each
  /// frame; and nobody asks before an importance is off by a quarter.
  void share_out() {
    bool asks = stale_;
    for (const Lamp& lamp : lamps_) {
      const double now = importance(lamp);
      asks = asks || now > 1.25 * lamp.importance || 1.25 * now < lamp.importance;
    }
    if (!asks) return;
    std::vector<TileWish> wishes;
    for (Lamp& lamp : lamps_) {
      lamp.importance = importance(lamp);
      wishes.push_back({lamp.importance, draw::looks_all_round(light_of(lamp)) ? 6 : 1});
    }
    const auto shares = share_out_tiles(wishes, std::min(width_, height_), layers_, least_tile(options_));
    const auto size = [](const std::vector<Tile>& tiles) { return tiles.empty() ? 0 : tiles[0].size; };
    bool adopt = stale_;
    for (std::size_t i = 0; i < lamps_.size(); ++i) {
      const int now = size(lamps_[i].tiles), fair = size(shares[i]);
      adopt = adopt || fair >= 4 * now || 4 * fair <= now;
    }
    if (!adopt) return;
    for (std::size_t i = 0; i < lamps_.size(); ++i) {
      lamps_[i].fresh = lamps_[i].fresh && !stale_ && lamps_[i].tiles == shares[i];
      lamps_[i].tiles = shares[i];
      view_->cast(i, !shares[i].empty());
    }
  }

  bool wants_drawing(const Lamp& lamp) const {
    if (!lamp.fresh || draws_.animated()) return true;
    return scene_->changed() && (lamp.near_changing || is_near_changing(lamp));
  }

  bool is_near_changing(const Lamp& lamp) const {
    for (const std::uint32_t i : changing_) {
      const Sphere ball = scene_->bounds().ball(i);
      if (!((ball.center - lamp.position).norm() > ball.radius + lamp.reach)) return true;
    }
    return false;
  }

  Camera camera_of(const Lamp& lamp, std::size_t part) const {
    const Light& light = light_of(lamp);
    const bool all_round = draw::looks_all_round(light);
    const Face face =
        all_round ? faces[part]
                  : Face{lamp.direction, std::abs(lamp.direction.y()) < 0.99f ? Vec3::unit_y() : Vec3::unit_x()};
    const auto texels = static_cast<float>(lamp.tiles[part].size);
    // As much wider as filters reach, but never so that nothing is left.
    const float border = std::min(static_cast<float>(border_of(options_)), texels / 4);
    const float half = all_round ? 1.0f : std::tan(std::max(light.spot()->outer_cone, 1e-3f));
    Camera camera;
    camera.eye = lamp.position;
    camera.target = lamp.position + face.ahead;
    camera.up = face.up;
    camera.fov_y = 2 * std::atan(half * texels / (texels - 2 * border));
    camera.near = options_.near;
    camera.far = lamp.reach;
    return camera;
  }

  void draw(const gl::PassContext& context, std::size_t index) {
    Lamp& lamp = lamps_[index];
    lamp.fresh = true;
    lamp.near_changing = is_near_changing(lamp);
    const draw::ShadowView::Shadowed& shadowed = view_->lights()[index];
    viewports_.clear();
    for (std::size_t k = 0; k < shadowed.part_count; ++k) {
      const Tile& tile = lamp.tiles[k];
      view_->look_through(shadowed.first_part + k, camera_of(lamp, k), width_, height_, tile);
      const auto size = static_cast<float>(tile.size);
      viewports_.push_back({static_cast<float>(tile.x), static_cast<float>(tile.y), size, size});
    }
    const auto parts = view_->parts().subspan(shadowed.first_part, shadowed.part_count);
    context.write(part_buffer_, 0, std::as_bytes(parts));
    gl::State& state = context.state();
    state.set_viewports(viewports_);
    state.bind_storage_block(gl::binding::shadow_part_storage, part_buffer_.name());
    clear_.use(state);
    state.apply({.depth = {true, true, gl::Compare::always}});
    context.draw_generated(3, gl::Vertices::triangles, static_cast<int>(parts.size()));
    draws_.look_through(context, view_->cameras().subspan(shadowed.first_part, shadowed.part_count), 1);
    draws_.draw(context);
  }

  ShadowMap options_;
  std::shared_ptr<draw::SceneBuffers> scene_;
  std::shared_ptr<draw::ShadowView> view_;
  gl::Program clear_;
  CasterDraws draws_;
  gl::Buffer part_buffer_;
  std::vector<Lamp> lamps_;
  std::vector<std::uint32_t> changing_;  ///< nodes that cast, and move at times
  std::optional<draw::ViewCamera> watched_;
  std::vector<std::array<float, 4>> viewports_;
  TargetDescription target_;
  int width_ = 1, height_ = 1, layers_ = 1;
  bool rotates_ = false;  ///< does each frame draw into another storage, because somebody reads earlier frames' maps?
  bool stale_ = true;
  std::uint64_t lights_seen_ = 0;  ///< SceneVersions::lights
};

}  // namespace

std::unique_ptr<gl::PassWork> draw_lamp_maps(const ShadowMap& options, gl::PassSetup& setup) {
  expect_vertex_layers(options, setup, "maps of spot or point lights",
                       "leave this pass out: its lights cast no shadows then");
  return std::make_unique<LampMaps>(options, setup);
}

}  // namespace periscena::passes
