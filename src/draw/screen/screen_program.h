#pragma once

#include "draw/screen/bound_textures.h"

#include <periscena/gl/framebuffer.h>
#include <periscena/gl/pass_work.h>
#include <periscena/gl/sampler.h>

#include <string>

namespace periscena::draw {

/// How passes over the whole picture look textures up; none repeats.
struct ScreenSamplers {
  gl::Sampler nearest{Filter::nearest, Wrap::clamp, "nearest"}, linear{Filter::linear, Wrap::clamp, "linear"};

  /// Nearest where pixels lie on pixels, so that none takes from its neighbours, not even nothing times what is not a
  /// number.
  const gl::Sampler& fitting(const gl::Texture& texture, const PlannedPass& pass) const {
    return texture.width() == pass.width && texture.height() == pass.height ? nearest : linear;
  }
};

/// What pictures are kept in on the way, so that none of their bits get lost.
inline Format working_format(Format of) {
  return of == Format::rgba32f || of == Format::rg32f || of == Format::r32f ? Format::rgba32f : Format::rgba16f;
}

/// A texture that a pass keeps for itself, and draws into.
class OwnTarget {
 public:
  bool fits(int width, int height) const {
    return texture_.name() != 0 && texture_.width() == width && texture_.height() == height;
  }

  /// Does nothing when it has that size already.
  void resize(int width, int height, Format format, const std::string& label);

  const gl::Texture& texture() const { return texture_; }

  /// What is drawn from now on goes here.
  void draw_into(gl::State& state) const;

 private:
  gl::Texture texture_;
  gl::Framebuffer framebuffer_;
};

/// A fragment program that runs once for each pixel of what it is drawn into.
class ScreenProgram {
 public:
  /// @param defines  for `#define`, each a name and a value
  ScreenProgram(gl::Device& device, const std::string& name, const gl::ShaderText& fragment,
                std::vector<std::string> defines = {});

  gl::Program& program() { return program_; }
  const gl::Program& program() const { return program_; }
  BoundTextures& textures() { return textures_; }

  /// A uniform that the driver may have left out, when nothing depends on it.
  template <class T>
  void set(std::string_view uniform, const T& value) {
    if (program_.interface().find_uniform(uniform)) program_.set(program_.uniform<T>(uniform), value);
  }

  /// A texture for a sampler that the program may or may not use.
  void put(std::string_view sampler, const gl::Texture& texture, const gl::Sampler& how) {
    textures_.put(program_, sampler, texture.name(), how.name());
  }

  /// Into the framebuffer that is bound.
  void draw(const gl::PassContext& context, const gl::PipelineState& how = {}) const;

  /// Into the targets of the pass.
  void draw_output(const gl::PassContext& context) const;

 private:
  gl::Program program_;
  BoundTextures textures_;
};

/// Counts pixels that are no finite numbers, while programs run that include "periscena/finite.glsl".
class FiniteCheck {
 public:
  /// @param what  "reads pixels as light that are no finite numbers"
  FiniteCheck(const gl::PassSetup& setup, std::string what);

  /// For the programs that follow.
  void bind(gl::State& state) const;

  /// What was found since it was made: a warning that names the pass and one of the pixels, or nothing. Waits for the
  /// device.
  Diagnostics found() const;

 private:
  std::string pass_, what_;
  Place place_;
  gl::Buffer counts_;
};

}  // namespace periscena::draw
