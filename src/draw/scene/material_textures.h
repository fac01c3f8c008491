#pragma once

#include <periscena/gl/texture_handles.h>
#include <periscena/scene/scene.h>

#include <array>
#include <memory>
#include <span>
#include <vector>

namespace periscena::draw {

inline constexpr std::size_t map_count = std::size(material_maps);

/// How programs find the maps of materials.
enum class TextureWay {
  arrays,   ///< one set of arrays serves all materials: bound once
  handles,  ///< by handles in the materials' block
  binding   ///< each set of arrays that materials take is bound for the draws that take it
};

/// What a draw of a material looks up: which arrays, through which samplers.
struct TextureSet {
  std::array<std::uint32_t, map_count> arrays{}, samplers{};

  bool operator==(const TextureSet&) const = default;
};

/// The pictures of a scene's textures on the device, and how they are looked up. Made again only when textures change
/// that do not have the shape of those that were there.
struct TextureArrays {
  explicit TextureArrays(const Scene& scene);

  struct Place {
    std::uint32_t array = 0;
    int layer = 0;
  };

  /// May the pixels of its textures take the places of those that are here?
  bool fits(const Scene& scene) const;

  /// Sends what differs in pictures that the program has changed.
  void follow(const Scene& scene);

  /// The same, also where others have come in the places of those that were here.
  void take(const Scene& scene);

  /// Pixels of an image, from the upper left.
  struct PixelBox {
    int left = 0, top = 0, width = 0, height = 0;

    bool empty() const { return width <= 0; }
  };

  std::vector<Texture> textures;          ///< that they were made of
  std::vector<gl::Texture> arrays;        ///< 0: white; 1: a normal straight up
  std::vector<gl::Sampler> samplers;      ///< 0: of the single pixels
  std::vector<Place> places;              ///< by texture
  std::vector<std::uint32_t> sampler_of;  ///< by texture

 private:
  void send(std::size_t number, const PixelBox& changed);
  void make_arrays();
  void make_samplers();

  std::uint64_t seen_ = 0;  ///< SceneVersions::textures
};

/// The textures of a scene as its materials use them: those of one size and format are layers of one array, so that
/// materials which differ only in their layers can be drawn together. Where that is not enough, and the device can,
/// they are found by handle, so that all materials can.
class MaterialTextures {
 public:
  /// @param may_use_handles  Capabilities::texture_handles
  MaterialTextures(const Scene& scene, std::shared_ptr<TextureArrays> arrays, bool may_use_handles);

  using Place = TextureArrays::Place;

  TextureWay way() const { return way_; }

  /// How many textures, in what, found how, and why so; for people.
  std::string way_sentence() const;

  /// By number, see set_of.
  const std::vector<TextureSet>& sets() const { return sets_; }
  std::uint32_t set_of(std::uint32_t material) const { return set_of_[material]; }

  /// For shaders; 0 unless they find maps by handle.
  std::uint64_t handle(std::uint32_t set, std::size_t map) const;

  /// A frame's draws look these sets up: their handles are resident from now on. @param frame  FrameTime::number
  void need(std::span<const std::uint32_t> sets, std::uint64_t frame);

  /// Sends pictures that the program has changed.
  void follow(const Scene& source) { arrays_->follow(source); }

  /// Once a frame.
  void end_frame(std::uint64_t frame) { handles_.end_frame(frame); }

  /// Of a texture, or of the single pixel that changes nothing where a material has no such map.
  Place place(const TextureUse& use, const MapInfo& map) const;

  const gl::Texture& array(std::uint32_t index) const { return arrays_->arrays[index]; }
  std::string description(std::uint32_t index) const;  ///< of an array, for people: "512 x 512 rgba8_srgb"
  const gl::Sampler& sampler_at(std::uint32_t index) const { return arrays_->samplers[index]; }

 private:
  void find_sets(const Scene& scene);
  void make_handles();

  TextureWay way_ = TextureWay::arrays;
  std::shared_ptr<TextureArrays> arrays_;
  std::vector<TextureSet> sets_;
  std::vector<std::uint32_t> set_of_;                                ///< by material
  std::vector<std::array<std::uint32_t, map_count>> handle_places_;  ///< by set; empty without handles
  gl::TextureHandles handles_;
};

/// What draws of a material have to set.
struct MaterialState {
  TextureSet textures;        ///< that are bound; none when they are found by handle
  std::uint32_t surface = 0;  ///< number of its own GLSL, 0 for none
  std::uint32_t block = 0;    ///< of those that hold all materials of the scene
  bool double_sided = false;
  bool blended = false;

  bool operator==(const MaterialState&) const = default;
};

}  // namespace periscena::draw
