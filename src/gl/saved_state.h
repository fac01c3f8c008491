#pragma once

#include "gl/api.h"

#include <periscena/gl/state.h>

#include <array>

namespace periscena::gl {

/// Reads the state of an adopted context that a run changes, and puts it back when it goes out of scope.
class SavedState {
 public:
  SavedState();
  SavedState(const SavedState&) = delete;
  SavedState& operator=(const SavedState&) = delete;
  ~SavedState();

 private:
  struct IndexedBuffer {
    GLint buffer;
    GLint64 offset, bytes;
  };
  struct StencilSide {
    GLint func, ref, value_mask, fail, depth_fail, pass, write_mask;
  };

  static constexpr std::array switches{GL_DEPTH_TEST,   GL_CULL_FACE,           GL_BLEND,
                                       GL_STENCIL_TEST, GL_POLYGON_OFFSET_FILL, GL_FRAMEBUFFER_SRGB,
                                       GL_SCISSOR_TEST, GL_RASTERIZER_DISCARD,  GL_COLOR_LOGIC_OP,
                                       GL_DEPTH_CLAMP,  GL_PRIMITIVE_RESTART,   GL_TEXTURE_CUBE_MAP_SEAMLESS};
  struct TextureKind {
    GLenum target, binding;
  };
  static constexpr std::array texture_kinds{
      TextureKind{GL_TEXTURE_2D, GL_TEXTURE_BINDING_2D},
      TextureKind{GL_TEXTURE_2D_ARRAY, GL_TEXTURE_BINDING_2D_ARRAY},
      TextureKind{GL_TEXTURE_CUBE_MAP, GL_TEXTURE_BINDING_CUBE_MAP},
      TextureKind{GL_TEXTURE_2D_MULTISAMPLE, GL_TEXTURE_BINDING_2D_MULTISAMPLE},
      TextureKind{GL_TEXTURE_2D_MULTISAMPLE_ARRAY, GL_TEXTURE_BINDING_2D_MULTISAMPLE_ARRAY},
  };
  static constexpr std::size_t units = 16;
  static constexpr std::size_t blocks = 8;

  void save_bindings();
  void save_drawing();
  void restore_bindings() const;
  void restore_drawing() const;

  std::array<bool, switches.size()> on_{};
  GLint program_ = 0, vertex_array_ = 0, draw_framebuffer_ = 0, capture_ = 0, indirect_ = 0, counts_ = 0;
  GLint uniform_buffer_ = 0, storage_buffer_ = 0;
  std::array<IndexedBuffer, blocks> uniform_blocks_{}, storage_blocks_{};
  GLint active_texture_ = 0;
  std::array<std::array<GLint, texture_kinds.size()>, units> textures_{};
  std::array<GLint, units> samplers_{};
  std::array<std::array<GLfloat, 4>, 16> viewports_{};
  GLint clip_origin_ = 0, clip_depth_ = 0, polygon_mode_[2] = {};
  GLboolean depth_mask_ = GL_TRUE;
  GLint depth_func_ = 0, cull_face_ = 0, front_face_ = 0;
  GLint blend_[6] = {};
  std::array<StencilSide, 2> stencil_{};
  GLfloat offset_[2] = {};
  GLboolean color_mask_[4] = {};
};

}  // namespace periscena::gl
