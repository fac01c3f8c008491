#pragma once

#include "draw/scene/blocks.h"
#include "draw/scene/material_textures.h"
#include "draw/scene/storage_blocks.h"
#include "draw/scene/surface_family.h"
#include "gl/buffer_texture.h"

#include <periscena/batch/draw_list.h>
#include <periscena/gl/buffer.h>
#include <periscena/gl/pass_work.h>
#include <periscena/scene/scene.h>

#include <memory>
#include <string>
#include <vector>

namespace periscena::draw {

/// The nodes of a scene as one variant dresses them.
struct Dress {
  static constexpr std::uint32_t no_receiver = 0x80000000;  ///< in a material number: shadows do not fall on the node

  gl::Buffer material_numbers;        ///< by node
  gl::BufferTexture number_texels;    ///< the same, where vertex programs read them so
  std::vector<batch::Traits> traits;  ///< by node; states are indices into SceneMaterials::states()
};

/// The materials of a scene on the device: one storage buffer, and their textures.
class SceneMaterials {
 public:
  /// @param scene  lives as long as this does
  SceneMaterials(const Scene& scene, std::shared_ptr<TextureArrays> arrays, bool may_use_handles, BlockRoom room);

  const MaterialTextures& textures() const { return textures_; }

  /// A pass draws materials with these sets of textures in this frame. @param sets  see batch::Command::textures
  /// @param frame  FrameTime::number
  void need_textures(std::span<const std::uint32_t> sets, std::uint64_t frame) { textures_.need(sets, frame); }
  void end_frame(std::uint64_t frame) { textures_.end_frame(frame); }

  /// Sends materials whose values the program has changed. @param source  the scene that it has
  void follow(const gl::PassContext& context, const Scene& source);

  /// Different states of materials; see Dress.
  const std::vector<MaterialState>& states() const { return states_; }

  /// What keeps draws of two different states apart, for people.
  std::string difference(std::uint32_t before, std::uint32_t after) const;

  /// Files of GLSL that materials bring along; MaterialState::surface counts them from 1.
  const std::vector<std::string>& surfaces() const { return surfaces_; }

  /// By state: what a program must have that draws it. Materials of one state are drawn by one call, so it is what any
  /// of them has.
  std::span<const SurfaceKind> kinds() const { return kinds_; }

  /// A bit for each kind of shading that pixels of the scene may have.
  std::uint32_t shadings() const;

  /// Names of the targets that materials show, in the order in which the materials' blocks count them, from 1.
  const std::vector<std::string>& shown() const { return shown_; }

  /// What a variant makes of the scene, made by the first pass that asks.
  /// @param variant  null for the scene as it is
  /// @param receivers  by node: do shadows fall on it? empty: on all
  std::shared_ptr<const Dress> dress(const Variant* variant, const std::vector<bool>& receivers = {});

  /// Has vertex programs read materials, and which of them nodes have, as texels. @param most  that a buffer may have
  /// @return false: they are too many
  bool make_texels(std::size_t most);
  const gl::BufferTexture& texels() const { return material_texels_; }

  /// Binds the materials that draws of a state have. Materials that one block does not hold lie in several.
  void bind(gl::State& state, const MaterialState& material) const;

 private:
  struct KnownDress {
    const Variant* variant;
    std::vector<bool> receivers;
    std::shared_ptr<const Dress> dress;
  };

  void fill();
  void find_kinds();
  std::uint32_t state_number(std::uint32_t material, std::uint32_t block);
  std::uint32_t materials_a_block() const;
  int picture_number(const Material& material);

  const Scene& scene_;
  BlockRoom room_;
  MaterialTextures textures_;
  std::vector<std::string> shown_, surfaces_;
  std::vector<MaterialState> states_;
  std::vector<std::uint32_t> state_of_material_;
  std::vector<MaterialBlock> blocks_;  ///< by material
  std::uint64_t seen_ = 0;             ///< SceneVersions::materials
  std::vector<SurfaceKind> kinds_;
  std::vector<KnownDress> dresses_;
  gl::Buffer materials_;
  gl::BufferTexture material_texels_;
};

}  // namespace periscena::draw
