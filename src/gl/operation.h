#pragma once

#include "gl/api.h"

#include <periscena/gl/framebuffer.h>
#include <periscena/gl/pass_work.h>

namespace periscena::gl {

/// One end of a copy.
struct OperationEnd {
  const Texture* texture = nullptr;  ///< null for a renderbuffer
  std::vector<Attached> layers;      ///< each layer that takes part, at its level
  Format format = Format::rgba8;
};

/// A copy, a resolve or mip levels, with everything made that it needs.
class OperationStep {
 public:
  OperationStep() = default;
  OperationStep(SharedThings& shared, const Operation& operation, const OperationEnd& from, const OperationEnd& to,
                const std::string& label);

  void run(State& state, std::uint32_t empty_vertex_array) const;

  /// Sets the whole of what is copied into to its target's clear value.
  void clear_result(State& state, const TargetDescription& target) const;

  /// Says that nobody reads the source again.
  void invalidate_source() const;

 private:
  struct Layer {
    Framebuffer from, to;
  };
  struct Area {
    GLint left, bottom, right, top;
  };

  static Area area_of(const PixelRect& rect, const Attached& whole);
  void blit(const Layer& layer, GLbitfield mask) const;
  void choose_samples(const Layer& layer, int index, State& state, std::uint32_t empty_vertex_array) const;

  std::vector<Layer> layers_;
  Area from_{}, to_{};
  GLbitfield mask_ = 0;
  GLenum filter_ = GL_NEAREST;
  std::shared_ptr<class SampleChoice> choice_;  ///< for rules that the driver does not know
  ResolveRule rule_ = ResolveRule::average;
  const Texture* texture_ = nullptr;
  bool makes_levels_ = false;
  Format format_ = Format::rgba8;
};

}  // namespace periscena::gl
