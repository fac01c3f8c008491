#pragma once

#include <periscena/batch/draw_list.h>
#include <periscena/gl/pass_work.h>

#include <memory>
#include <string>

namespace periscena::draw {

/// A scene with what stands still merged, or some of it.
struct MergedTwin {
  std::shared_ptr<const Scene> scene;
  std::string told;                   ///< how much was merged, and by which rule, for people
  std::shared_ptr<void> merger = {};  ///< which knows what was merged into what
};

/// What a way to batch makes of a scene, made by the first pass of a runner that asks; null when that way merges
/// nothing.
std::shared_ptr<const MergedTwin> merged_twin(gl::PassSetup& setup, const std::shared_ptr<const Scene>& scene,
                                              batch::Batching batching);

}  // namespace periscena::draw
