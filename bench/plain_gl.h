#pragma once

#include <epoxy/gl.h>

#include <cstdlib>
#include <vector>

// What anybody who writes GL by hand has lying about.

inline GLuint make_buffer(const void* data, std::size_t bytes, GLbitfield flags) {
  GLuint buffer = 0;
  glCreateBuffers(1, &buffer);
  glNamedBufferStorage(buffer, static_cast<GLsizeiptr>(bytes), data, flags);
  return buffer;
}

inline GLuint make_texture(GLenum format, int width, int height) {
  GLuint texture = 0;
  glCreateTextures(GL_TEXTURE_2D, 1, &texture);
  glTextureStorage2D(texture, 1, format, width, height);
  return texture;
}

/// A buffer to be read by texelFetch.
inline GLuint texels_of(GLenum format, GLuint buffer) {
  GLuint texture = 0;
  glCreateTextures(GL_TEXTURE_BUFFER, 1, &texture);
  glTextureBuffer(texture, format, buffer);
  return texture;
}

/// @param color  0 for none
inline GLuint make_framebuffer(GLuint color, GLuint depth = 0) {
  GLuint framebuffer = 0;
  glCreateFramebuffers(1, &framebuffer);
  if (color) glNamedFramebufferTexture(framebuffer, GL_COLOR_ATTACHMENT0, color, 0);
  if (depth) glNamedFramebufferTexture(framebuffer, GL_DEPTH_ATTACHMENT, depth, 0);
  if (glCheckNamedFramebufferStatus(framebuffer, GL_DRAW_FRAMEBUFFER) != GL_FRAMEBUFFER_COMPLETE) std::abort();
  return framebuffer;
}

inline GLuint make_sampler(GLint filter) {
  GLuint sampler = 0;
  glCreateSamplers(1, &sampler);
  glSamplerParameteri(sampler, GL_TEXTURE_MIN_FILTER, filter);
  glSamplerParameteri(sampler, GL_TEXTURE_MAG_FILTER, filter);
  glSamplerParameteri(sampler, GL_TEXTURE_WRAP_S, GL_CLAMP_TO_EDGE);
  glSamplerParameteri(sampler, GL_TEXTURE_WRAP_T, GL_CLAMP_TO_EDGE);
  return sampler;
}

/// Four floats a pixel, the lowest row first.
inline std::vector<float> pixels_of(GLuint texture, int width, int height) {
  std::vector<float> pixels(static_cast<std::size_t>(4 * width * height));
  glGetTextureImage(texture, 0, GL_RGBA, GL_FLOAT, static_cast<GLsizei>(4 * pixels.size()), pixels.data());
  return pixels;
}
