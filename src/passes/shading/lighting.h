#pragma once

#include "passes/pass_checks.h"
#include "passes/scene_buffers.h"
#include "passes/shadow_map/shadow_view.h"

#include <array>
#include <filesystem>
#include <optional>
#include <set>

namespace periscena::passes {

/// The Lighting block of lighting.glsl, std140.
struct LightingBlock {
  Vec3 sky = Vec3::Zero();
  std::int32_t light_count = 0;
  Vec3 ground = Vec3::Zero();
  std::int32_t fog_kind = 0;
  Vec3 fog_color = Vec3::Zero();
  float fog_start = 0;
  float fog_end = 0;
  float fog_density = 0;
  float fog_fall = 0;
  float fog_base = 0;
  float sky_intensity = 0;
  float padding0 = 0;
  Vec2 sky_turn = Vec2(1, 0);
  float sky_roughest = 0;
  float padding1[3] = {};
  std::array<PackedVec4, 9> harmonics = no_harmonics();

  void set_fog(const Fog& fog);
  void set_environment(const Environment& environment, const EnvironmentLight& light);
  static gl::BlockLayout layout();

 private:
  static std::array<PackedVec4, 9> no_harmonics();
};

/// One light as shaders see it: an element of the storage block Lights, std430.
struct LightBlock {
  Vec4 color = Vec4::Zero();
  Vec4 position = Vec4::Zero();
  Vec4 direction = Vec4::Zero();
  Vec4 cone = Vec4::Zero();

  /// @param world  of the node that it follows
  /// @param shadow  number of its shadow, from 1; 0 for none
  static LightBlock of(const Light& light, const Transform& world, std::size_t shadow = 0);
  static gl::BlockLayout layout();
};

/// An environment on the device, and the table that goes with all of them.
struct EnvironmentTextures {
  gl::Texture sky;
  EnvironmentLight light;  ///< its cube is dropped once it is uploaded

  /// Made by the first pass of a runner that asks. @param environment  null: black
  static std::shared_ptr<EnvironmentTextures> shared(gl::PassSetup& setup, const Environment* environment,
                                                     const std::filesystem::path& cache);
};

/// What lights a pass.
struct LightingChoice {
  LightNames lights;
  Reference environment = {};
  Reference fog = {};
  std::filesystem::path cache = {};
};

/// Those of a scene's lights that have one of the names or tags.
std::vector<const Light*> chosen_lights(const Scene& scene, const LightNames& names);

/// Reports names that are not in the scene. @param who  for messages: `pass "lock"`
void expect_lighting(const Scene* scene, const LightingChoice& choice, const std::string& who, Diagnostics& problems);

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

  /// What programs that look shadows up are to define, each a name and a value: how many maps there are, and by which
  /// filters.
  std::vector<std::string> shadow_defines() const;

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

  /// Is the map itself asked, too?
  bool wants_depths() const { return filters_ >> static_cast<int>(ShadowFilter::contact) & 1; }
  void find_shadows(const gl::PassSetup& setup);
  void fill_shadows(const gl::PassContext& context);
  void choose(const LightingChoice& choice, LightingBlock& block);
  void fill();  ///< blocks_

  std::shared_ptr<SceneBuffers> scene_;
  std::vector<const Light*> lights_;
  std::size_t endless_ = 0;
  std::uint64_t version_ = 1;
  bool follows_ = false;  ///< does a light follow a node?
  std::vector<LightBlock> blocks_;
  gl::Buffer light_buffer_;
  std::shared_ptr<const gl::Buffer> lighting_;
  std::shared_ptr<EnvironmentTextures> environment_;
  std::shared_ptr<gl::Texture> split_sum_;
  gl::Sampler sky_sampler_, table_sampler_, shadow_sampler_, depth_sampler_;
  std::uint32_t filters_ = 0;  ///< of shadows: a bit for each kind, see shadow_lookup.glsl
  std::set<int> bell_radii_;   ///< of gaussian ones
  std::vector<Shadow> shadows_;
  std::vector<std::size_t> shadow_numbers_;  ///< by light: of its shadow, from 1; 0 for none
  std::vector<ShadowBlock> shadow_blocks_;
  std::vector<ShadowPartBlock> shadow_parts_;
  gl::Buffer shadow_buffer_, shadow_part_buffer_;
};

}  // namespace periscena::passes
