#pragma once

#include "passes/deferred/sample_edges.h"

#include <periscena/gl/framebuffer.h>

namespace periscena::passes {

/// Samples of edges that are lit side by side, and then taken to where they are: edges are thin, and devices shade
/// blocks of pixels, most of which would be lit in vain.
class GatheredEdges {
 public:
  /// For what a pass writes. @param order  of the buffer's depth
  GatheredEdges(const gl::PassSetup& setup, DepthOrder order);

  void resize(const gl::PassSetup& setup, const SampleEdges& edges);

  /// What is drawn until scatter() goes side by side: see edge_blocks.vert.
  void gather(const gl::PassContext& context) const;

  /// Takes what was lit at one sample of edges to all samples that show the same. @param depth  of the buffer
  void scatter(const gl::PassContext& context, const gl::Texture& depth, int sample);

 private:
  struct Part {
    std::string slot;
    Format format;
    std::size_t unit;
    gl::Texture texture = {};
  };

  static gl::ShaderText scatter_text(const gl::PassSetup& setup);

  gl::Program program_;
  draw::BoundTextures textures_;
  gl::Uniform<int> sample_here_;
  std::size_t depth_unit_;
  std::vector<Part> parts_;  ///< by output location
  gl::Framebuffer framebuffer_;
  gl::Sampler nearest_;
  int width_ = 0, height_ = 0, tiles_ = 0;
};

}  // namespace periscena::passes
