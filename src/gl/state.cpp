#include "gl/api.h"

#include <periscena/gl/state.h>

namespace periscena::gl {
namespace {

GLenum compare_code(Compare compare) {
  return GL_NEVER + static_cast<GLenum>(compare);
}

GLenum factor_code(BlendFactor factor) {
  switch (factor) {
    case BlendFactor::zero: return GL_ZERO;
    case BlendFactor::one: return GL_ONE;
    case BlendFactor::source_alpha: return GL_SRC_ALPHA;
    case BlendFactor::one_minus_source_alpha: return GL_ONE_MINUS_SRC_ALPHA;
    case BlendFactor::source_color: return GL_SRC_COLOR;
    case BlendFactor::destination_color: break;
  }
  return GL_DST_COLOR;
}

GLenum action_code(StencilAction action) {
  switch (action) {
    case StencilAction::keep: return GL_KEEP;
    case StencilAction::zero: return GL_ZERO;
    case StencilAction::replace: return GL_REPLACE;
    case StencilAction::increment: return GL_INCR;
    case StencilAction::decrement: return GL_DECR;
    case StencilAction::invert: break;
  }
  return GL_INVERT;
}

void enable(GLenum what, bool on) {
  if (on) {
    glEnable(what);
  } else {
    glDisable(what);
  }
}

}  // namespace

void State::use_program(std::uint32_t program) {
  if (changes(program_, program)) glUseProgram(program);
}

void State::bind_vertex_array(std::uint32_t vertex_array) {
  if (changes(vertex_array_, vertex_array)) glBindVertexArray(vertex_array);
}

void State::bind_draw_framebuffer(std::uint32_t framebuffer) {
  if (changes(framebuffer_, framebuffer)) glBindFramebuffer(GL_DRAW_FRAMEBUFFER, framebuffer);
}

void State::bind_indirect_buffer(std::uint32_t buffer) {
  if (changes(indirect_, buffer)) glBindBuffer(GL_DRAW_INDIRECT_BUFFER, buffer);
}

void State::bind_uniform_block(std::uint32_t binding, std::uint32_t buffer, std::uint32_t offset, std::uint32_t bytes) {
  if (binding < tracked_blocks && !changes(uniform_blocks_[binding], BlockBinding{buffer, offset, bytes})) return;
  glBindBufferRange(GL_UNIFORM_BUFFER, binding, buffer, offset, bytes);
}

void State::bind_storage_block(std::uint32_t binding, std::uint32_t buffer) {
  if (binding < tracked_blocks && !changes(storage_blocks_[binding], buffer)) return;
  glBindBufferBase(GL_SHADER_STORAGE_BUFFER, binding, buffer);
}

void State::bind_texture(std::uint32_t unit, std::uint32_t texture, std::uint32_t sampler) {
  TextureBinding untracked;
  TextureBinding& known = unit < tracked_units ? textures_[unit] : untracked;
  if (changes(known.texture, texture)) glBindTextureUnit(unit, texture);
  if (changes(known.sampler, sampler)) glBindSampler(unit, sampler);
}

void State::set_viewport(int width, int height) {
  if (changes(viewport_, {width, height})) glViewport(0, 0, width, height);
}

void State::set_conventions() {
  glClipControl(GL_LOWER_LEFT, GL_ZERO_TO_ONE);
  glEnable(GL_FRAMEBUFFER_SRGB);
  // What PipelineState does not speak of must be off, or an adopted context's leftovers would show.
  glDisable(GL_SCISSOR_TEST);
  glDisable(GL_RASTERIZER_DISCARD);
  glDisable(GL_COLOR_LOGIC_OP);
  glDisable(GL_DEPTH_CLAMP);
  glDisable(GL_PRIMITIVE_RESTART);
  glPolygonMode(GL_FRONT_AND_BACK, GL_FILL);
  sent_ += 8;
}

void State::open_write_masks() {
  PipelineState open = pipeline_;
  open.write = {};
  open.depth.write = true;
  open.stencil.write_mask = 0xFF;
  apply(open);
}

void State::apply_depth(const DepthState& wanted) {
  DepthState& known = pipeline_.depth;
  if (!pipeline_known_ || known.test != wanted.test) enable(GL_DEPTH_TEST, wanted.test);
  if (!pipeline_known_ || known.write != wanted.write) glDepthMask(wanted.write);
  if (!pipeline_known_ || known.compare != wanted.compare) glDepthFunc(compare_code(wanted.compare));
  known = wanted;
}

void State::apply_stencil(const StencilState& wanted) {
  StencilState& known = pipeline_.stencil;
  if (pipeline_known_ && known == wanted) return;
  enable(GL_STENCIL_TEST, wanted.test);
  glStencilFunc(compare_code(wanted.compare), static_cast<GLint>(wanted.reference), wanted.read_mask);
  glStencilOp(action_code(wanted.fail), action_code(wanted.depth_fail), action_code(wanted.pass));
  glStencilMask(wanted.write_mask);
  known = wanted;
}

void State::apply(const PipelineState& wanted) {
  if (pipeline_known_ && pipeline_ == wanted) {
    ++skipped_;
    return;
  }
  ++sent_;
  apply_depth(wanted.depth);
  if (!pipeline_known_ || pipeline_.cull != wanted.cull) {
    enable(GL_CULL_FACE, wanted.cull != CullFaces::none);
    if (wanted.cull != CullFaces::none) glCullFace(wanted.cull == CullFaces::back ? GL_BACK : GL_FRONT);
  }
  if (!pipeline_known_ || pipeline_.clockwise_front != wanted.clockwise_front) {
    glFrontFace(wanted.clockwise_front ? GL_CW : GL_CCW);
  }
  if (!pipeline_known_ || pipeline_.blend != wanted.blend) {
    enable(GL_BLEND, wanted.blend.on);
    glBlendEquation(GL_FUNC_ADD);
    glBlendFunc(factor_code(wanted.blend.source), factor_code(wanted.blend.destination));
  }
  apply_stencil(wanted.stencil);
  if (!pipeline_known_ || pipeline_.offset != wanted.offset) {
    enable(GL_POLYGON_OFFSET_FILL, wanted.offset != PolygonOffset{});
    glPolygonOffset(wanted.offset.slope, wanted.offset.constant);
  }
  if (!pipeline_known_ || pipeline_.write != wanted.write) {
    glColorMask(wanted.write.red, wanted.write.green, wanted.write.blue, wanted.write.alpha);
  }
  pipeline_ = wanted;
  pipeline_known_ = true;
}

void State::forget() {
  program_ = vertex_array_ = framebuffer_ = indirect_ = unknown;
  uniform_blocks_.fill({});
  storage_blocks_.fill(unknown);
  textures_.fill({});
  viewport_ = {-1, -1};
  pipeline_known_ = false;
}

}  // namespace periscena::gl
