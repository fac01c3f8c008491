#pragma once

#include <periscena/gl/pass_work.h>
#include <periscena/scene/scene.h>

#include <filesystem>
#include <memory>

namespace periscena::draw {

/// An environment on the device, and the table that goes with all of them.
struct EnvironmentTextures {
  std::vector<std::shared_ptr<const Image>> images;  ///< that it was made of
  gl::Texture sky;
  EnvironmentLight light;  ///< its cube is dropped once it is uploaded

  /// Made by the first pass of a runner that asks. @param environment  of the scene; null: black
  static std::shared_ptr<EnvironmentTextures> shared(gl::PassSetup& setup, const std::shared_ptr<const Scene>& scene,
                                                     const Environment* environment,
                                                     const std::filesystem::path& cache);
};

/// The table that goes with all environments.
struct SplitSum {
  gl::Texture table;
};

/// Made by the first pass of a runner that asks.
std::shared_ptr<const SplitSum> split_sum_texture(gl::PassSetup& setup);

}  // namespace periscena::draw
