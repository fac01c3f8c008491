#pragma once

#include <periscena/gl/sampler.h>
#include <periscena/gl/texture.h>
#include <periscena/scene/scene.h>

#include <array>
#include <memory>
#include <vector>

namespace periscena::passes {

inline constexpr std::size_t map_count = std::size(material_maps);

/// The textures of a scene on the device: those of one size and format are layers of one array, so that materials which
/// differ only in their layers can be drawn together.
class MaterialTextures {
 public:
  explicit MaterialTextures(const Scene& scene);

  struct Place {
    std::uint32_t array = 0;
    int layer = 0;
  };

  /// Of a texture, or of the single pixel that changes nothing where a material has no such map.
  Place place(const TextureUse& use, const MapInfo& map) const;
  std::uint32_t sampler(const TextureUse& use) const;

  const gl::Texture& array(std::uint32_t index) const { return arrays_[index]; }
  std::string description(std::uint32_t index) const;  ///< of an array, for people: "512 x 512 rgba8_srgb"
  const gl::Sampler& sampler_at(std::uint32_t index) const { return samplers_[index]; }

 private:
  void make_arrays(const Scene& scene);
  void make_samplers(const Scene& scene);

  std::vector<gl::Texture> arrays_;    ///< 0: white; 1: a normal straight up
  std::vector<gl::Sampler> samplers_;  ///< 0: of the single pixels
  std::vector<Place> places_;          ///< by texture
  std::vector<std::uint32_t> sampler_of_;
};

/// What draws of a material have to set.
struct MaterialState {
  std::array<std::uint32_t, map_count> arrays{}, samplers{};
  std::uint32_t surface = 0;  ///< number of its own GLSL, 0 for none
  std::uint32_t block = 0;    ///< of those that hold all materials of the scene
  bool double_sided = false;
  bool blended = false;

  bool operator==(const MaterialState&) const = default;
};

}  // namespace periscena::passes
