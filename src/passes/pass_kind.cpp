#include <periscena/passes/pass_kind.h>

#include "draw/shaders.h"

#include <periscena/passes/accumulate.h>
#include <periscena/passes/ambient_occlusion.h>
#include <periscena/passes/bloom.h>
#include <periscena/passes/blur.h>
#include <periscena/passes/deferred.h>
#include <periscena/passes/depth_of_field.h>
#include <periscena/passes/distance_field.h>
#include <periscena/passes/filters.h>
#include <periscena/passes/forward.h>
#include <periscena/passes/fullscreen.h>
#include <periscena/passes/geometry.h>
#include <periscena/passes/heat.h>
#include <periscena/passes/light_buffer.h>
#include <periscena/passes/light_markers.h>
#include <periscena/passes/meter.h>
#include <periscena/passes/motion_blur.h>
#include <periscena/passes/opening.h>
#include <periscena/passes/overdraw.h>
#include <periscena/passes/particles.h>
#include <periscena/passes/shadow_map.h>
#include <periscena/passes/shrink.h>
#include <periscena/passes/sky.h>
#include <periscena/passes/smooth_edges.h>
#include <periscena/passes/sprites.h>
#include <periscena/passes/text.h>
#include <periscena/passes/tone_map.h>
#include <periscena/passes/trails.h>
#include <periscena/passes/transfer.h>
#include <periscena/passes/transition.h>
#include <periscena/passes/velocity.h>
#include <periscena/passes/world_text.h>

#include <algorithm>

namespace periscena::gl {
ShaderLibrary passes_texts();  // written by cmake/embed.cmake
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
  static const std::vector<gl::EmbeddedText> texts = [] {
    std::vector<gl::EmbeddedText> all;
    for (const gl::ShaderLibrary library : {draw::shaders(), gl::passes_texts()})
      all.insert(all.end(), library.begin(), library.end());
    return all;
  }();
  return texts;
}

}  // namespace periscena::passes
