#pragma once

#include <periscena/base/place.h>
#include <periscena/scene/texture.h>

#include <string>

namespace periscena {

using MaterialHandle = Handle<struct MaterialKind>;

/// How a surface answers light. Colours are linear.
struct Material {
  enum class Shading {
    metallic_roughness,  ///< glTF 2.0, appendix B
    blinn_phong,         ///< Lambert's law and a highlight of Blinn's, normalised so that it sends back `specular`
    unlit,               ///< shows its base colour, in nits, whatever the light
  };
  enum class AlphaMode { opaque, mask, blend };

  std::string name = {};
  Shading shading = Shading::metallic_roughness;
  Vec3 base_color = Vec3::constant(0.8f);  ///< share of light sent back, 0..1 each
  float alpha = 1;
  float metallic = 0;                     ///< 0 for a dielectric, 1 for a metal
  float roughness = 1;                    ///< 0 for a mirror, 1 for plaster; squared it is the alpha of GGX
  Vec3 specular = Vec3::constant(0.04f);  ///< of blinn_phong: share of light in the highlight
  float shininess = 32;                   ///< of blinn_phong: the highlight's exponent
  Vec3 emission = Vec3::zero();           ///< light of its own, nits

  AlphaMode alpha_mode = AlphaMode::opaque;
  float alpha_cutoff = 0.5f;  ///< of mask: what has less alpha is not there
  bool double_sided = false;

  // Maps multiply what stands above.
  TextureUse base_color_map = {};          ///< colour, with alpha
  TextureUse metallic_roughness_map = {};  ///< data: green roughness, blue metallic
  TextureUse roughness_scale_map = {};     ///< data: red scales roughness: scratches, fingerprints, water stains
  TextureUse normal_map = {};              ///< data: 2 · rgb − 1 in the tangent's coordinates
  TextureUse occlusion_map = {};           ///< data: red is how open to ambient light a place is
  TextureUse emission_map = {};            ///< colour
  float normal_scale = 1;
  float occlusion_strength = 1;  ///< 0..1

  /// GLSL that changes what stands above, at each point: a path. It defines
  /// `void surface(SurfacePoint point, inout Surface surface)`, see docs/frame_file.md; empty for none. An absolute
  /// path may include files from anywhere; one from the frame's or model's folder, which a model may have brought
  /// along, only files in that folder and below.
  std::string surface = {};

  /// A target that the pass reads under this name, added to the light of its own; empty for none. The picture fills one
  /// unit of the mesh's texture coordinates around 0. Passes without such a read leave it out.
  std::string shows = {};
  bool shows_mirrored = false;  ///< left and right exchanged, as a mirror does

  bool operator==(const Material&) const = default;
};

/// The maps of a material, by their names in frame files.
struct MapInfo {
  const char* name;
  TextureUse Material::*use;
  TextureHolds holds;
};
inline constexpr MapInfo material_maps[] = {
    {"base_color_map", &Material::base_color_map, TextureHolds::color},
    {"metallic_roughness_map", &Material::metallic_roughness_map, TextureHolds::data},
    {"roughness_scale_map", &Material::roughness_scale_map, TextureHolds::data},
    {"normal_map", &Material::normal_map, TextureHolds::data},
    {"occlusion_map", &Material::occlusion_map, TextureHolds::data},
    {"emission_map", &Material::emission_map, TextureHolds::color},
};

/// @throws Mistake "texture-holds" when a map of 8-bit numbers is tagged colour and wanted as data, or the reverse
void expect_holds(const MapInfo& map, const Texture& texture, const std::string& material, const Place& place);

}  // namespace periscena
