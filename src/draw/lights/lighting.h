#pragma once

#include "draw/lights/environment_textures.h"
#include "draw/lights/light_blocks.h"
#include "draw/lights/lighting_choice.h"
#include "draw/scene/scene_buffers.h"
#include "draw/screen/bound_textures.h"
#include "draw/shadows/shadow_view.h"

#include <array>
#include <filesystem>
#include <optional>
#include <set>

namespace periscena::draw {

/// The lights, the environment, the fog and the shadows of one pass, on the device.
class Lighting {
 public:
  Lighting(gl::PassSetup& setup, std::shared_ptr<SceneBuffers> scene, const LightingChoice& choice);

  /// Sends what follows nodes that have moved.
  void update(const gl::PassContext& context);

  /// Checks a program's blocks, and puts the sky's textures where it wants them.
  void put_textures(const gl::Program& program, BoundTextures& into) const;

  /// Does it put a texture where a program samples one by that name?
  bool feeds(std::string_view sampler) const;

  /// Binds the blocks.
  void bind(gl::State& state) const;

  /// Those without end first.
  const std::vector<const Light*>& lights() const { return lights_; }
  /// How many have no end: the sun, and lamps of infinite range.
  std::size_t endless() const { return endless_; }

  /// The lights as they were last sent, where `version` counts how often.
  std::span<const LightBlock> blocks() const { return std::span(blocks_).first(lights_.size()); }
  std::uint64_t version() const { return version_; }

  /// What programs that are lit are to define, each a name and a value: what there is, so that compilers leave out what
  /// there is not.
  std::vector<std::string> defines() const;
  std::vector<std::string> define_lines() const;  ///< the same as lines of GLSL

  /// Where a program looks shadow maps up, by map.
  struct ShadowUnits {
    std::array<std::optional<std::size_t>, most_shadows> maps{}, depths{};

    ShadowUnits() = default;
    ShadowUnits(const gl::Program& program, const BoundTextures& textures);
  };
  void put_shadows(const gl::PassContext& context, const ShadowUnits& units, BoundTextures& into) const;

 private:
  struct Shadow {
    std::size_t read;
    std::shared_ptr<const ShadowView> view;
    std::uint64_t version;  ///< of the view, as it was sent
  };

  std::vector<std::string> shadow_defines() const;
  std::vector<std::string> light_defines() const;

  /// Is there one shadow alone, of a far light, in one map that holds all casters?
  bool has_one_map() const;

  /// Is the map itself asked, too?
  bool wants_depths() const { return filters_ >> static_cast<int>(ShadowFilter::contact) & 1; }
  void find_shadows(const gl::PassSetup& setup);
  void fill_shadows(const gl::PassContext& context);
  void choose();
  LightingBlock block() const;
  void fill();  ///< blocks_
  void follow(const gl::PassContext& context);

  std::shared_ptr<SceneBuffers> scene_;
  LightingChoice choice_;
  std::vector<Light> own_lights_;  ///< as of `seen_`
  std::vector<const Light*> lights_;
  std::vector<std::size_t> numbers_;  ///< in the scene, by light
  std::uint64_t seen_ = 0;            ///< SceneVersions::lights
  std::size_t endless_ = 0;
  std::uint64_t version_ = 1;
  bool follows_ = false;  ///< does a light follow a node?
  bool is_few_ = true;    ///< do lights and shadows lie in blocks of uniforms?
  bool has_ambient_ = false, has_environment_ = false;
  int fog_kind_ = 0;
  std::vector<LightBlock> blocks_;
  gl::Buffer light_buffer_;
  std::shared_ptr<const gl::Buffer> lighting_;
  gl::Buffer changed_lighting_;  ///< instead, once the program has changed something
  std::shared_ptr<EnvironmentTextures> environment_;
  std::shared_ptr<const SplitSum> split_sum_;
  gl::Sampler sky_sampler_, table_sampler_, shadow_sampler_, depth_sampler_;
  std::uint32_t filters_ = 0;  ///< of shadows: a bit for each kind, see shadow_lookup.glsl
  std::set<int> bell_radii_;   ///< of gaussian ones
  std::vector<Shadow> shadows_;
  std::vector<std::size_t> shadow_numbers_;  ///< by light: of its shadow, from 1; 0 for none
  std::vector<ShadowBlock> shadow_blocks_;
  std::vector<ShadowPartBlock> shadow_parts_;
  std::size_t most_shadow_blocks_ = 0, most_shadow_parts_ = 0;
  gl::Buffer shadow_buffer_, shadow_part_buffer_;
};

}  // namespace periscena::draw
