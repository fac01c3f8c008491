#pragma once

#include <periscena/gl/sampler.h>
#include <periscena/gl/texture.h>

#include <cstdint>
#include <vector>

namespace periscena::gl {

/// Textures that shaders find by a number of 64 bits, a handle, without their being bound: GL_ARB_bindless_texture, see
/// Capabilities::texture_handles. Keeps them resident while frames need them. The textures and samplers must outlive
/// it.
class TextureHandles {
 public:
  /// @param frames_kept  how many frames a handle stays resident that none of them needed
  explicit TextureHandles(std::uint64_t frames_kept = 120) : frames_kept_(frames_kept) {}
  TextureHandles(const TextureHandles&) = delete;
  TextureHandles& operator=(const TextureHandles&) = delete;
  ~TextureHandles();

  /// A texture as a sampler sees it; neither may change any more, but for the texture's values.
  /// @return its place here; equal pairs have the same
  /// @throws Mistake "no-texture-handle" when the driver gives none
  std::uint32_t add(const Texture& texture, const Sampler& sampler);

  /// For shaders: a uvec2, low word first.
  std::uint64_t handle(std::uint32_t place) const { return entries_[place].handle; }

  /// A frame's draws may look it up: resident from now on.
  /// @param frame  counts up
  void need(std::uint32_t place, std::uint64_t frame);

  /// Once a frame: lets go of those that the last frames did not need.
  void end_frame(std::uint64_t frame);

  std::size_t size() const { return entries_.size(); }
  std::size_t resident() const { return resident_.size(); }

 private:
  struct Entry {
    std::uint32_t texture, sampler;
    std::uint64_t handle;
    std::uint64_t needed = 0;  ///< frame
    bool resident = false;
  };

  std::uint64_t frames_kept_;
  std::vector<Entry> entries_;
  std::vector<std::uint32_t> resident_;  ///< places
};

}  // namespace periscena::gl
