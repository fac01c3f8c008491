#pragma once

#include <periscena/gl/pass_work.h>
#include <periscena/scene/environment.h>

#include <filesystem>
#include <memory>

namespace periscena::draw {

/// An environment on the device, and the table that goes with all of them.
struct EnvironmentTextures {
  gl::Texture sky;
  EnvironmentLight light;  ///< its cube is dropped once it is uploaded

  /// Made by the first pass of a runner that asks. @param environment  null: black
  static std::shared_ptr<EnvironmentTextures> shared(gl::PassSetup& setup, const Environment* environment,
                                                     const std::filesystem::path& cache);
};

/// The table that goes with all environments, made by the first pass of a runner that asks.
std::shared_ptr<gl::Texture> split_sum_texture(gl::PassSetup& setup);

}  // namespace periscena::draw
