#pragma once

#include <periscena/gl/program.h>
#include <periscena/gl/state.h>

#include <optional>
#include <string_view>
#include <vector>

namespace periscena::draw {

/// Textures and samplers by unit, for a program that wants several: they are bound in one call.
struct BoundTextures {
  std::vector<std::uint32_t> textures, samplers;

  /// As many as the program has samplers, all empty.
  explicit BoundTextures(const gl::Program& program);

  /// Where a sampler is, if the program uses one of that name.
  std::optional<std::size_t> unit(const gl::Program& program, std::string_view name) const;

  /// Does nothing when the program does not use a sampler of that name. @return the unit
  std::optional<std::size_t> put(const gl::Program& program, std::string_view name, std::uint32_t texture,
                                 std::uint32_t sampler);

  void put(std::size_t unit, std::uint32_t texture, std::uint32_t sampler) {
    textures[unit] = texture;
    samplers[unit] = sampler;
  }

  void bind(gl::State& state) const { state.bind_textures(0, textures, samplers); }
};

}  // namespace periscena::draw
