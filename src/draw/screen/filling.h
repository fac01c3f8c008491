#pragma once

#include "draw/shaders.h"

#include <periscena/gl/shader_text.h>
#include <periscena/gl/state.h>
#include <periscena/math/projection.h>

#include <optional>

namespace periscena::draw {

/// Where a triangle over the whole picture is drawn: over all that is there, or behind the surfaces of another pass.
struct Filling {
  std::optional<DepthOrder> behind = {};  ///< the order of that pass' depth

  gl::ShaderText vertices() const {
    const gl::ShaderText text = gl::ShaderText::embedded("periscena/fullscreen.vert", shaders());
    return behind == DepthOrder::ordinary ? text.with_lines({"#define FILL_DEPTH 1.0"}) : text;
  }

  /// Behind: what lies at the far end, where nothing nearer is.
  gl::PipelineState state() const {
    if (!behind) return {};
    return {.depth = {.test = true,
                      .compare =
                          behind == DepthOrder::ordinary ? gl::Compare::less_or_equal : gl::Compare::greater_or_equal}};
  }
};

}  // namespace periscena::draw
