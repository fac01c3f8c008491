#pragma once

#include "draw/scene/scene_buffers.h"
#include "draw/screen/bound_textures.h"
#include "draw/surfaces/surface_draws.h"

namespace periscena::draw {

/// GLSL of a material. A path from the folder came with a model, or may have: such GLSL, and what it includes, must lie
/// in that folder or below. @throws Error "unreadable-file"; Mistake "path-outside"
/// @param library  what it may include
gl::ShaderText surface_source(const std::filesystem::path& folder, const std::string& surface,
                              gl::ShaderLibrary library);

/// A fragment program of ours, with a material's own GLSL behind it.
/// @param source  of ours: "periscena/forward.frag"
/// @param surface  path of the material's GLSL from `folder`, or empty
/// @param defines  for `#define`, each a name and a value
/// @param textures  how it finds maps of materials, where it does
gl::ShaderText surface_text(const gl::ShaderText& source, const std::filesystem::path& folder,
                            const std::string& surface, const std::vector<std::string>& defines = {},
                            TextureWay textures = TextureWay::arrays);

/// The program of one kind of surface, and what it samples.
struct SurfaceProgram {
  gl::Program program;
  BoundTextures textures;                                         ///< those of maps are put in for each draw
  std::array<std::optional<std::size_t>, map_count> map_units{};  ///< none where the program does not need the map

  SurfaceProgram(gl::Device& device, const gl::ProgramDescription& description);

  void put_maps(const SceneBuffers& scene, const MaterialState& material);
  void put(std::size_t unit, std::uint32_t texture, std::uint32_t sampler) { textures.put(unit, texture, sampler); }
};

/// What programs of surfaces are made of: one of our vertex programs and one of our fragment programs, for each kind of
/// surface.
class SurfaceTexts {
 public:
  /// @param folder  that paths of materials' GLSL start from
  SurfaceTexts(const SceneBuffers& scene, const gl::Device& device, std::filesystem::path folder);

  /// @param defines  of the fragment program, each a name and a value
  gl::ProgramDescription of(const SurfaceKind& kind, const std::string& name, const gl::ShaderText& vertex,
                            const gl::ShaderText& fragment, std::vector<std::string> defines = {}) const;

 private:
  const SceneMaterials& materials_;
  int outputs_;
  std::vector<std::string> texel_lines_;
  std::filesystem::path folder_;
};

/// One of our fragment programs for each kind of surface that a pass draws, where nothing else is set on them.
class SurfacePrograms {
 public:
  /// @param source  of ours: "periscena/overdraw.frag" @param folder  that paths of materials' GLSL start from
  SurfacePrograms(const std::string& name, const gl::ShaderText& source, const std::filesystem::path& folder,
                  const SurfaceDraws& draws, gl::Device& device);

  /// Sends their outputs to the writes of the pass. @throws as PassSetup::match_outputs
  void match_outputs(gl::PassSetup& setup) const;

  /// For the draws that follow. @param state  of their materials
  void use(gl::PassContext& context, const SceneBuffers& scene, std::uint32_t state);

 private:
  SurfaceKinds kinds_;
  std::vector<SurfaceProgram> programs_;
};

}  // namespace periscena::draw
