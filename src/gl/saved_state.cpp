#include "gl/saved_state.h"

namespace periscena::gl {
namespace {

GLint integer(GLenum what) {
  GLint value = 0;
  glGetIntegerv(what, &value);
  return value;
}

constexpr GLenum blend_names[6] = {GL_BLEND_SRC_RGB,   GL_BLEND_DST_RGB,      GL_BLEND_SRC_ALPHA,
                                   GL_BLEND_DST_ALPHA, GL_BLEND_EQUATION_RGB, GL_BLEND_EQUATION_ALPHA};
constexpr GLenum stencil_names[2][7] = {
    {GL_STENCIL_FUNC, GL_STENCIL_REF, GL_STENCIL_VALUE_MASK, GL_STENCIL_FAIL, GL_STENCIL_PASS_DEPTH_FAIL,
     GL_STENCIL_PASS_DEPTH_PASS, GL_STENCIL_WRITEMASK},
    {GL_STENCIL_BACK_FUNC, GL_STENCIL_BACK_REF, GL_STENCIL_BACK_VALUE_MASK, GL_STENCIL_BACK_FAIL,
     GL_STENCIL_BACK_PASS_DEPTH_FAIL, GL_STENCIL_BACK_PASS_DEPTH_PASS, GL_STENCIL_BACK_WRITEMASK}};

bool has_count_buffers() {
  return epoxy_has_gl_extension("GL_ARB_indirect_parameters");
}

}  // namespace

SavedState::SavedState() {
  save_bindings();
  save_drawing();
}

SavedState::~SavedState() {
  restore_drawing();
  restore_bindings();
}

void SavedState::save_bindings() {
  program_ = integer(GL_CURRENT_PROGRAM);
  vertex_array_ = integer(GL_VERTEX_ARRAY_BINDING);
  draw_framebuffer_ = integer(GL_DRAW_FRAMEBUFFER_BINDING);
  capture_ = integer(GL_TRANSFORM_FEEDBACK_BINDING);
  indirect_ = integer(GL_DRAW_INDIRECT_BUFFER_BINDING);
  if (has_count_buffers()) counts_ = integer(GL_PARAMETER_BUFFER_BINDING_ARB);
  uniform_buffer_ = integer(GL_UNIFORM_BUFFER_BINDING);
  storage_buffer_ = integer(GL_SHADER_STORAGE_BUFFER_BINDING);
  const auto save = [](auto& into, GLenum binding, GLenum start, GLenum size) {
    for (GLuint i = 0; i < into.size(); ++i) {
      glGetIntegeri_v(binding, i, &into[i].buffer);
      glGetInteger64i_v(start, i, &into[i].offset);
      glGetInteger64i_v(size, i, &into[i].bytes);
    }
  };
  save(uniform_blocks_, GL_UNIFORM_BUFFER_BINDING, GL_UNIFORM_BUFFER_START, GL_UNIFORM_BUFFER_SIZE);
  save(storage_blocks_, GL_SHADER_STORAGE_BUFFER_BINDING, GL_SHADER_STORAGE_BUFFER_START,
       GL_SHADER_STORAGE_BUFFER_SIZE);
  active_texture_ = integer(GL_ACTIVE_TEXTURE);
  for (std::size_t i = 0; i < units; ++i) {
    glActiveTexture(GL_TEXTURE0 + static_cast<GLenum>(i));
    for (std::size_t k = 0; k < texture_kinds.size(); ++k) textures_[i][k] = integer(texture_kinds[k].binding);
    samplers_[i] = integer(GL_SAMPLER_BINDING);
  }
  glActiveTexture(static_cast<GLenum>(active_texture_));
}

void SavedState::save_drawing() {
  for (std::size_t i = 0; i < switches.size(); ++i) on_[i] = glIsEnabled(switches[i]);
  for (std::size_t i = 0; i < viewports_.size(); ++i)
    glGetFloati_v(GL_VIEWPORT, static_cast<GLuint>(i), viewports_[i].data());
  clip_origin_ = integer(GL_CLIP_ORIGIN);
  clip_depth_ = integer(GL_CLIP_DEPTH_MODE);
  glGetIntegerv(GL_POLYGON_MODE, polygon_mode_);
  glGetBooleanv(GL_DEPTH_WRITEMASK, &depth_mask_);
  depth_func_ = integer(GL_DEPTH_FUNC);
  cull_face_ = integer(GL_CULL_FACE_MODE);
  front_face_ = integer(GL_FRONT_FACE);
  for (int i = 0; i < 6; ++i) blend_[i] = integer(blend_names[i]);
  for (std::size_t side = 0; side < 2; ++side) {
    const auto& names = stencil_names[side];
    stencil_[side] = {integer(names[0]), integer(names[1]), integer(names[2]), integer(names[3]),
                      integer(names[4]), integer(names[5]), integer(names[6])};
  }
  glGetFloatv(GL_POLYGON_OFFSET_FACTOR, &offset_[0]);
  glGetFloatv(GL_POLYGON_OFFSET_UNITS, &offset_[1]);
  glGetBooleanv(GL_COLOR_WRITEMASK, color_mask_);
}

void SavedState::restore_bindings() const {
  glUseProgram(static_cast<GLuint>(program_));
  glBindVertexArray(static_cast<GLuint>(vertex_array_));
  glBindFramebuffer(GL_DRAW_FRAMEBUFFER, static_cast<GLuint>(draw_framebuffer_));
  glBindTransformFeedback(GL_TRANSFORM_FEEDBACK, static_cast<GLuint>(capture_));
  glBindBuffer(GL_DRAW_INDIRECT_BUFFER, static_cast<GLuint>(indirect_));
  if (has_count_buffers()) glBindBuffer(GL_PARAMETER_BUFFER_ARB, static_cast<GLuint>(counts_));
  const auto restore = [](const auto& from, GLenum target) {
    for (GLuint i = 0; i < from.size(); ++i) {
      const auto buffer = static_cast<GLuint>(from[i].buffer);
      if (from[i].bytes > 0) {
        glBindBufferRange(target, i, buffer, static_cast<GLintptr>(from[i].offset),
                          static_cast<GLsizeiptr>(from[i].bytes));
      } else {
        glBindBufferBase(target, i, buffer);
      }
    }
  };
  restore(uniform_blocks_, GL_UNIFORM_BUFFER);
  restore(storage_blocks_, GL_SHADER_STORAGE_BUFFER);
  glBindBuffer(GL_UNIFORM_BUFFER, static_cast<GLuint>(uniform_buffer_));
  glBindBuffer(GL_SHADER_STORAGE_BUFFER, static_cast<GLuint>(storage_buffer_));
  for (std::size_t i = 0; i < units; ++i) {
    glActiveTexture(GL_TEXTURE0 + static_cast<GLenum>(i));
    for (std::size_t k = 0; k < texture_kinds.size(); ++k)
      glBindTexture(texture_kinds[k].target, static_cast<GLuint>(textures_[i][k]));
    glBindSampler(static_cast<GLuint>(i), static_cast<GLuint>(samplers_[i]));
  }
  glActiveTexture(static_cast<GLenum>(active_texture_));
}

void SavedState::restore_drawing() const {
  for (std::size_t i = 0; i < switches.size(); ++i) {
    if (on_[i]) {
      glEnable(switches[i]);
    } else {
      glDisable(switches[i]);
    }
  }
  glViewportArrayv(0, static_cast<GLsizei>(viewports_.size()), viewports_[0].data());
  glClipControl(static_cast<GLenum>(clip_origin_), static_cast<GLenum>(clip_depth_));
  glPolygonMode(GL_FRONT_AND_BACK, static_cast<GLenum>(polygon_mode_[0]));
  glDepthMask(depth_mask_);
  glDepthFunc(static_cast<GLenum>(depth_func_));
  glCullFace(static_cast<GLenum>(cull_face_));
  glFrontFace(static_cast<GLenum>(front_face_));
  glBlendFuncSeparate(static_cast<GLenum>(blend_[0]), static_cast<GLenum>(blend_[1]), static_cast<GLenum>(blend_[2]),
                      static_cast<GLenum>(blend_[3]));
  glBlendEquationSeparate(static_cast<GLenum>(blend_[4]), static_cast<GLenum>(blend_[5]));
  const GLenum faces[2] = {GL_FRONT, GL_BACK};
  for (std::size_t side = 0; side < 2; ++side) {
    const StencilSide& s = stencil_[side];
    glStencilFuncSeparate(faces[side], static_cast<GLenum>(s.func), s.ref, static_cast<GLuint>(s.value_mask));
    glStencilOpSeparate(faces[side], static_cast<GLenum>(s.fail), static_cast<GLenum>(s.depth_fail),
                        static_cast<GLenum>(s.pass));
    glStencilMaskSeparate(faces[side], static_cast<GLuint>(s.write_mask));
  }
  glPolygonOffset(offset_[0], offset_[1]);
  glColorMask(color_mask_[0], color_mask_[1], color_mask_[2], color_mask_[3]);
}

}  // namespace periscena::gl
