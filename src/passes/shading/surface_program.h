#pragma once

#include "passes/shading/lighting.h"
#include "passes/shading/material_textures.h"

namespace periscena::passes {

/// A fragment program of ours, with a material's own GLSL behind it.
/// @param source  of ours: "periscena/forward.frag"
/// @param surface  path of the material's GLSL from `folder`, or empty
/// @param defines  for `#define`, each a name and a value
/// @param textures  how it finds maps of materials, where it does
gl::ShaderText surface_text(const char* source, const std::filesystem::path& folder, const std::string& surface,
                            const std::vector<std::string>& defines = {}, TextureWay textures = TextureWay::arrays);

/// The program of one kind of surface, and what it samples.
struct SurfaceProgram {
  gl::Program program;
  BoundTextures textures;                                         ///< those of maps are put in for each draw
  std::array<std::optional<std::size_t>, map_count> map_units{};  ///< none where the program does not need the map

  explicit SurfaceProgram(const gl::ProgramDescription& description);

  void put_maps(const SceneBuffers& scene, const MaterialState& material);
  void put(std::size_t unit, std::uint32_t texture, std::uint32_t sampler) { textures.put(unit, texture, sampler); }
};

}  // namespace periscena::passes
