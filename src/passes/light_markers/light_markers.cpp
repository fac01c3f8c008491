#include <periscena/passes/light_markers.h>

#include "draw/lights/lighting.h"
#include "draw/scene/view_camera.h"
#include "passes/light_markers/marker_lines.h"
#include "passes/shared_keys.h"

#include <periscena/gl/sampler.h>

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <utility>

namespace periscena::passes {
namespace {

class LightMarkersWork final : public gl::PassWork {
 public:
  LightMarkersWork(const LightMarkers& options, gl::PassSetup& setup)
      : options_(options),
        scene_(draw::SceneBuffers::shared(setup, options.scene)),
        lines_program_(setup, options, "periscena/light_markers.vert", "periscena/light_markers.frag"),
        nearest_(Filter::nearest, Wrap::clamp, "nearest"),
        view_(setup, options.scene, options.view) {
    lines_program_.program.expect_block(LineBlock::layout());
    lines_program_.program.set(lines_program_.program.uniform<bool>("has_depth"), has_depth());
    for (const Light* light : chosen_lights(*options.scene, options.lights))
      lights_.push_back({static_cast<std::uint32_t>(light - options.scene->lights().data())});
    find_shadows(setup);
    find_lines();
    std::size_t most = lines_.size();
    for (const auto& shadow : shadows_) most += lines_of_part * shadow->parts().size();
    lines_.reserve(most);
    if (most > 0) line_buffer_ = gl::Buffer::writable(most * sizeof(LineBlock), "light markers");
    if (!reaches_.empty()) {
      reach_program_.emplace(setup, options, "periscena/fullscreen.vert", "periscena/light_reach.frag");
      reach_program_->program.expect_block(ReachBlock::layout());
      reach_program_->program.set(reach_program_->program.uniform<int>("count"), static_cast<int>(reaches_.size()));
      reach_buffer_ = gl::Buffer::writable(reaches_.size() * sizeof(ReachBlock), "light reaches");
    }
  }

  void resize(gl::PassSetup& setup) override { view_.resize(setup); }

  const Camera* camera() const override { return &view_.camera(); }

  void run(gl::PassContext& context) override {
    scene_->update(context);
    if (!options_.show) return;
    const std::uint64_t lights = options_.scene->versions().lights;
    const bool changed = std::exchange(lights_seen_, lights) != lights;
    if (view_.update(context) || changed || scene_->moved() || shadows_changed()) send(context);
    if (lines_.empty()) return;
    view_.bind(context.state());
    if (reach_program_) {
      use(context, *reach_program_, reach_buffer_);
      context.draw_triangle();
    }
    use(context, lines_program_, line_buffer_);
    context.draw_generated(static_cast<int>(6 * lines_.size()));
  }

 private:
  struct MarkerProgram {
    gl::Program program;
    draw::BoundTextures textures;

    MarkerProgram(gl::PassSetup& setup, const LightMarkers& options, const char* vertex, const char* fragment)
        : program(setup.device(), {options.name, pass_shader(vertex), pass_shader(fragment)}), textures(program) {
      program.expect_block(draw::CameraBlock::layout());
      program.set(program.uniform<float>("width"), options.width);
      program.set(program.uniform<float>("brightness"), options.brightness);
      setup.match_outputs(program);
    }
  };

  bool has_depth() const { return !options_.depth.empty(); }

  void use(const gl::PassContext& context, MarkerProgram& with, const gl::Buffer& elements) const {
    gl::State& state = context.state();
    with.program.use(state);
    state.apply({.blend = {.on = true}});
    state.bind_storage_block(gl::binding::marker_storage, elements.name());
    if (has_depth()) with.textures.put(with.program, "depth", context.read(0).name(), nearest_.name());
    with.textures.bind(state);
  }

  void find_shadows(const gl::PassSetup& setup) {
    for (const PlannedRead& read : setup.pass().reads) {
      if (read.slot.starts_with("shadow_map_")) shadows_.push_back(draw::ShadowView::of_target(setup, read.target));
    }
  }

  /// Do maps look elsewhere than when this was asked last?
  bool shadows_changed() {
    std::uint64_t versions = 0;  // each only grows
    for (const auto& shadow : shadows_) versions += shadow->version();
    return std::exchange(shadow_versions_, versions) != versions;
  }

  void add_shadows_of(const Light& light) {
    for (const auto& shadow : shadows_) {
      for (const draw::ShadowView::Shadowed& one : shadow->lights()) {
        if (one.light != light.name) continue;
        for (std::int32_t k = 0; k < one.block.part_count; ++k)
          add_part(shadow->parts()[one.first_part + static_cast<std::size_t>(k)], static_cast<std::size_t>(k), lines_);
      }
    }
  }

  void find_lines() {
    lines_.clear();
    reaches_.clear();
    for (const std::size_t number : lights_) {
      const Light* light = &options_.scene->lights()[number];
      const Transform world = light->node.valid() ? scene_->worlds()[light->node.index] : Transform::identity();
      const float reach = reach_of(*light, options_.reach_lux);
      add_marker(*light, world, view_.camera(), reach, !has_depth(), lines_);
      add_shadows_of(*light);
      if (has_depth() && !light->is_directional()) reaches_.push_back(ReachBlock::of(*light, world, reach));
    }
  }

  void send(const gl::PassContext& context) {
    find_lines();
    if (!lines_.empty()) context.write(line_buffer_, 0, std::as_bytes(std::span(lines_)));
    if (!reaches_.empty()) context.write(reach_buffer_, 0, std::as_bytes(std::span(reaches_)));
  }

  LightMarkers options_;
  std::shared_ptr<draw::SceneBuffers> scene_;
  std::vector<std::size_t> lights_;  ///< numbers in the scene
  std::uint64_t lights_seen_ = 0;    ///< SceneVersions::lights
  std::vector<std::shared_ptr<const draw::ShadowView>> shadows_;
  std::uint64_t shadow_versions_ = 0;
  MarkerProgram lines_program_;
  std::optional<MarkerProgram> reach_program_;
  gl::Sampler nearest_;
  draw::ViewCamera view_;
  gl::Buffer line_buffer_, reach_buffer_;
  std::vector<LineBlock> lines_;
  std::vector<ReachBlock> reaches_;
};

const Keys<LightMarkers>& marker_keys() {
  static const Keys<LightMarkers> keys =
      Keys<LightMarkers>()
          .key("view", &LightMarkers::view, {.required = true}, "The view that the picture was drawn through")
          .key("lights", &LightMarkers::lights, {}, lights_sentence)
          .key("shadows", &LightMarkers::shadows, {},
               "Targets that `shadow_map` passes have written, at most 4: what each part of a light's map sees is "
               "drawn, too")
          .key("show", &LightMarkers::show, {}, "Off, nothing is drawn")
          .key("width", &LightMarkers::width, {.unit = "pixels", .minimum = 1, .maximum = 32}, "Of the lines")
          .key("brightness", &LightMarkers::brightness, {.minimum = 0, .above_minimum = true},
               "Of the lines: 1 is white on a finished picture; into a target of light, nits")
          .key("reach_lux", &LightMarkers::reach_lux, {.unit = "lux", .minimum = 0, .above_minimum = true},
               "A light without a range is drawn as far as it gives this much");
  return keys;
}

const Kind<LightMarkers>& light_markers_said() {
  static const Kind<LightMarkers> kind{
      .name = "light_markers",
      .sentence =
          "Draws where lights are and how far they reach, over a finished picture: stars, cones, arrows, and lines on "
          "surfaces where a light ends. What something hides shows through faintly.",
      .example =
          "[[pass]]\nname   = \"markers\"\nkind   = \"light_markers\"\nview   = \"towpath\"\n"
          "reads  = { depth = \"scene.depth\" }\nwrites = { color = \"output\" }\n",
      .reads = {{{"depth", Need::optional,
                  "Depth of the objects, of any size; without it, circles in space show how far lights reach"},
                 &LightMarkers::depth}},
      .writes = {{{"color", Need::required, "What the lines are drawn over"}, &LightMarkers::color}},
      .keys = marker_keys(),
      .finish = [](const LightMarkers& options, Pass& pass) {
        for (SamplerDeclaration& depth : pass.shader->samplers) depth.depth = true;
        add_shadows(pass, options.shadows, options.scene, options.lights);
        pass.work = gl::work<LightMarkersWork>(options);
      }};
  return kind;
}

}  // namespace

Pass light_markers(const LightMarkers& options, Place place) {
  return light_markers_said().make(options, std::move(place));
}

Pass light_markers(const Defaults& defaults, LightMarkers options, Place place) {
  return light_markers_said().make(defaults, std::move(options), std::move(place));
}

PassKind light_markers_kind() {
  return light_markers_said().kind();
}

float reach_of(const Light& light, float lux) {
  if (light.is_directional()) return std::numeric_limits<float>::infinity();
  return std::min(light.range(), std::sqrt(light.strength() * light.color.largest() / lux));
}

}  // namespace periscena::passes
