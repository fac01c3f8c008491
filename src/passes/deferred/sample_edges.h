#pragma once

#include "draw/lights/lighting.h"
#include "draw/scene/view_camera.h"

namespace periscena::passes {

/// The pixels of a multisampled geometry buffer whose samples are of different surfaces, found anew in each frame.
class SampleEdges {
 public:
  /// @param reads  what a pass reads of the buffer, by name, in the order of its reads
  SampleEdges(gl::Device& device, const std::vector<std::string>& reads, DepthOrder order, int samples);

  /// For a picture of this size, pixels.
  void resize(int width, int height);

  void find(const gl::PassContext& context, const draw::ViewCamera& view);

  /// Their textures, for a program that wants them.
  void put(const gl::Program& program, draw::BoundTextures& into) const;

  int tile_count() const { return tiles_.width() * tiles_.height(); }
  std::pair<int, int> whole_tiles() const;  ///< width and height of all tiles, pixels
  Vec4 picture() const { return {static_cast<float>(width_), static_cast<float>(height_), 0, 0}; }

 private:
  gl::Program program_;
  draw::BoundTextures textures_;
  std::vector<std::pair<std::size_t, std::size_t>> units_;  ///< of reads that the program asks, and which these are
  gl::Uniform<Vec4> picture_;
  int samples_, width_ = 0, height_ = 0;
  gl::Texture edges_, tiles_, list_;  ///< a layer for each sample
  gl::Sampler nearest_;
};

}  // namespace periscena::passes
