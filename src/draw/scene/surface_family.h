#pragma once

#include "draw/scene/material_textures.h"

#include <periscena/batch/batching.h>

#include <cstdint>
#include <span>
#include <string>
#include <vector>

namespace periscena::draw {

inline constexpr std::uint32_t all_shadings = 7;  ///< a bit for each Material::Shading

/// What the materials and meshes of some draws have between them: what none of them has, their program leaves out. The
/// names of GLSL that material.glsl asks for.
struct SurfaceFamily {
  std::uint32_t maps = 0;      ///< a bit for each of material_maps
  std::uint32_t shadings = 0;  ///< a bit for each Material::Shading
  bool metals = false, emits = false, masks = false, blends = false, shows = false;
  bool mesh_colors = false, second_uv = false;  ///< of meshes
  bool bare = false;                            ///< may meshes lack normals?

  void add(const Material& material);
  void add(const Mesh& mesh);

  /// All that there may be.
  static SurfaceFamily general();

  /// Lines for `#define`, for both programs.
  /// @param way  how maps are found: by handle, the fragment program reads the material itself
  /// @param outputs  vectors of four that a vertex program may give: where they are too few, the same
  std::vector<std::string> defines(TextureWay way, int outputs) const;

  bool operator==(const SurfaceFamily&) const = default;
};

/// Draws that one program is made for.
struct SurfaceKind {
  std::uint32_t surface = 0;  ///< number of the materials' own GLSL, 0 for none
  SurfaceFamily family = {};

  bool operator==(const SurfaceKind&) const = default;
};

/// The programs of a pass, and which states of materials each of them draws.
struct SurfaceKinds {
  std::vector<SurfaceKind> kinds;
  std::vector<std::uint32_t> of_state;  ///< by state; of those that the pass does not draw, any
  std::string way;                      ///< how many, and why; for people

  /// @param by_state  what each state asks for @param used  by state: does the pass draw it?
  SurfaceKinds(std::span<const SurfaceKind> by_state, const std::vector<bool>& used, batch::Programs programs);
};

}  // namespace periscena::draw
