#include "passes/pass_kind.h"

#include "passes/accumulate/accumulate.h"
#include "passes/ambient_occlusion/ambient_occlusion.h"
#include "passes/bloom/bloom.h"
#include "passes/blur/blur.h"
#include "passes/deferred/deferred.h"
#include "passes/deferred/light_buffer.h"
#include "passes/depth_of_field/depth_of_field.h"
#include "passes/distance_field/distance_field.h"
#include "passes/exposure/meter.h"
#include "passes/filters/filters.h"
#include "passes/forward/forward.h"
#include "passes/fullscreen/fullscreen.h"
#include "passes/geometry/geometry.h"
#include "passes/heat/heat.h"
#include "passes/heat/overdraw.h"
#include "passes/light_markers/light_markers.h"
#include "passes/motion/motion_blur.h"
#include "passes/motion/velocity.h"
#include "passes/opening/opening.h"
#include "passes/particles/particles.h"
#include "passes/shadow_map/shadow_map.h"
#include "passes/shrink/shrink.h"
#include "passes/sky/sky.h"
#include "passes/smooth_edges/smooth_edges.h"
#include "passes/sprites/sprites.h"
#include "passes/text/text.h"
#include "passes/text/world_text.h"
#include "passes/tone_map/tone_map.h"
#include "passes/trails/trails.h"
#include "passes/transfer/transfer.h"
#include "passes/transition/transition.h"

#include <periscena/base/names.h>

#include <fmt/format.h>

#include <algorithm>

namespace periscena::gl {
ShaderLibrary pass_texts();  // written by cmake/embed.cmake
}

namespace periscena::passes {

std::span<const PassKind> pass_kinds() {
  static const std::vector<PassKind> kinds{forward_kind(),        geometry_kind(),      ambient_occlusion_kind(),
                                           deferred_kind(),       light_buffer_kind(),  overdraw_kind(),
                                           heat_kind(),           shadow_map_kind(),    sky_kind(),
                                           fullscreen_kind(),     meter_kind(),         bloom_kind(),
                                           blur_kind(),           tone_map_kind(),      grade_kind(),
                                           color_table_kind(),    vignette_kind(),      grain_kind(),
                                           fringe_kind(),         sharpen_kind(),       pixelate_kind(),
                                           depth_of_field_kind(), trails_kind(),        velocity_kind(),
                                           motion_blur_kind(),    smooth_edges_kind(),  accumulate_kind(),
                                           shrink_kind(),         transition_kind(),    opening_kind(),
                                           distance_field_kind(), light_markers_kind(), sprites_kind(),
                                           text_kind(),           world_text_kind(),    particles_kind(),
                                           copy_kind(),           resolve_kind(),       mip_chain_kind()};
  return kinds;
}

const PassKind* find_pass_kind(std::string_view name) {
  const auto kinds = pass_kinds();
  const auto found = std::find_if(kinds.begin(), kinds.end(), [&](const PassKind& kind) { return kind.name == name; });
  return found == kinds.end() ? nullptr : &*found;
}

gl::ShaderLibrary pass_shaders() {
  return gl::pass_texts();
}

Pass pass_of_kind(const char* kind, const std::string& name, Place place) {
  Pass pass;
  pass.name = name;
  pass.kind = kind;
  pass.place = std::move(place);
  return pass;
}

const TargetUse* find_write(const PassSource& source, std::string_view slot) {
  for (const Write& write : source.writes) {
    if (write.slot == slot) return &write.target;
  }
  return nullptr;
}

const std::vector<std::string>& choices_of(Culling) {
  static const std::vector<std::string> names{"host", "device"};
  return names;
}

const std::vector<std::string>& choices_of(LightBounds) {
  static const std::vector<std::string> names{"automatic", "none", "quads", "tiles", "clusters"};
  return names;
}

const std::vector<std::string>& choices_of(Surfaces) {
  static const std::vector<std::string> names{"all", "opaque", "blended"};
  return names;
}

const TargetUse* find_read(const PassSource& source, std::string_view slot) {
  const auto read =
      std::find_if(source.reads.begin(), source.reads.end(), [&](const Read& one) { return one.slot == slot; });
  return read == source.reads.end() ? nullptr : &read->target;
}

void expect_bounds(LightBounds bounds, std::initializer_list<LightBounds> unfit, const char* instead, Pass& pass) {
  if (std::find(unfit.begin(), unfit.end(), bounds) == unfit.end()) return;
  pass.problems.error("unfit-bounds", pass.place,
                      fmt::format("pass \"{}\" can't bound its lights in this way", pass.name),
                      fmt::format("use {}", instead));
}

void expect_named(const Reference& name, bool found, const char* kind, const std::string& who,
                  const std::function<std::vector<std::string>()>& names, const char* declaration,
                  Diagnostics& problems) {
  if (name.empty() || found) return;
  problems.error(fmt::format("unknown-{}", kind), name.place,
                 fmt::format("{} names {} \"{}\", which is not there", who, kind, name.name), [&] {
                   const auto known = HintLimit::reached() ? std::vector<std::string>() : names();
                   return known.empty() ? fmt::format(fmt::runtime(declaration), name.name)
                                        : name_hint(name.name, known);
                 });
}

void expect_objects(const Scene* scene, const ObjectChoice& choice, const std::string& who, Diagnostics& problems) {
  if (!scene) return;
  for (const std::vector<Reference>* tags : {&choice.tags, &choice.without_tags}) {
    for (const Reference& tag : *tags) {
      expect_named(
          tag, scene->has_tag(tag.name), "tag", who, [&] { return scene->tags(); }, "give an object tags = [\"{}\"]",
          problems);
    }
  }
  expect_named(
      choice.variant, scene->find_variant(choice.variant.name), "variant", who,
      [&] { return names_of(scene->variants()); }, "declare it: [variant.\"{}\"]", problems);
}

void expect_view(const Scene* scene, const Reference& view, const std::string& who, Diagnostics& problems) {
  if (!scene) {
    problems.error("no-scene", view.place, fmt::format("{} wants a view, but there is no scene", who),
                   "give the frame a scene");
    return;
  }
  if (view.empty()) {
    problems.error("missing-key", view.place, fmt::format("{} has no view", who), "name the view to look through");
    return;
  }
  if (scene->find_view(view.name)) return;
  problems.error(
      "unknown-view", view.place, fmt::format("{} looks through \"{}\", which is no view", who, view.name), [&] {
        const std::vector<std::string> names = names_of(scene->views());
        return names.empty() ? "declare it: [view." + view.name + "] with eye and target" : name_hint(view.name, names);
      });
}

}  // namespace periscena::passes
