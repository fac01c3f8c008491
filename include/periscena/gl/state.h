#pragma once

#include <periscena/gl/bindings.h>

#include <array>
#include <cstdint>

namespace periscena::gl {

enum class Compare { never, less, equal, less_or_equal, greater, not_equal, greater_or_equal, always };
enum class CullFaces { none, back, front };
enum class BlendFactor { zero, one, source_alpha, one_minus_source_alpha, source_color, destination_color };
enum class StencilAction { keep, zero, replace, increment, decrement, invert };

struct DepthState {
  bool test = false;
  bool write = false;
  Compare compare = Compare::greater;  ///< "greater" is nearer in reversed depth
  bool operator==(const DepthState&) const = default;
};

struct BlendState {
  bool on = false;
  BlendFactor source = BlendFactor::one;  ///< the default pair is premultiplied alpha
  BlendFactor destination = BlendFactor::one_minus_source_alpha;
  bool operator==(const BlendState&) const = default;
};

struct StencilState {
  bool test = false;
  Compare compare = Compare::always;
  std::uint32_t reference = 0, read_mask = 0xFF, write_mask = 0xFF;
  StencilAction fail = StencilAction::keep, depth_fail = StencilAction::keep, pass = StencilAction::keep;
  bool operator==(const StencilState&) const = default;
};

struct PolygonOffset {
  float slope = 0, constant = 0;  ///< both 0: off. In reversed depth, away from the camera is negative
  bool operator==(const PolygonOffset&) const = default;
};

struct WriteMask {
  bool red = true, green = true, blue = true, alpha = true;
  bool operator==(const WriteMask&) const = default;
};

/// How triangles become pixels: all of the fixed-function state that a draw depends on, as one value.
struct PipelineState {
  DepthState depth;
  CullFaces cull = CullFaces::none;
  bool clockwise_front = false;  ///< for mirrored objects
  BlendState blend;
  StencilState stencil;
  PolygonOffset offset;
  WriteMask write;
  bool operator==(const PipelineState&) const = default;
};

/// What is bound and set on the context, as far as we know, so that nothing is sent twice. forget() when somebody else
/// made GL calls.
class State {
 public:
  void use_program(std::uint32_t program);
  void bind_vertex_array(std::uint32_t vertex_array);
  void bind_draw_framebuffer(std::uint32_t framebuffer);
  void bind_indirect_buffer(std::uint32_t buffer);
  void bind_uniform_block(std::uint32_t binding, std::uint32_t buffer, std::uint32_t offset, std::uint32_t bytes);
  void bind_storage_block(std::uint32_t binding, std::uint32_t buffer);
  void bind_texture(std::uint32_t unit, std::uint32_t texture, std::uint32_t sampler);
  void set_viewport(int width, int height);
  void apply(const PipelineState& wanted);

  /// Clip depth 0..1, lower-left origin, sRGB encoding into sRGB targets: set once for a frame.
  void set_conventions();

  /// Clears obey the write masks, so they are opened first.
  void open_write_masks();

  /// Nothing is known any more: the next of everything is sent.
  void forget();

  std::uint64_t sent() const { return sent_; }        ///< state calls that went to the driver since the start
  std::uint64_t skipped() const { return skipped_; }  ///< state calls that were redundant

  static constexpr std::uint32_t tracked_units = 32;
  static constexpr std::uint32_t tracked_blocks = 16;

 private:
  static constexpr std::uint32_t unknown = 0xFFFFFFFF;

  struct BlockBinding {
    std::uint32_t buffer = unknown, offset = 0, bytes = 0;
    bool operator==(const BlockBinding&) const = default;
  };
  struct TextureBinding {
    std::uint32_t texture = unknown, sampler = unknown;
    bool operator==(const TextureBinding&) const = default;
  };

  template <class T>
  bool changes(T& known, const T& wanted) {
    if (known == wanted) {
      ++skipped_;
      return false;
    }
    known = wanted;
    ++sent_;
    return true;
  }

  void apply_depth(const DepthState& wanted);
  void apply_stencil(const StencilState& wanted);

  std::uint32_t program_ = unknown, vertex_array_ = unknown, framebuffer_ = unknown, indirect_ = unknown;
  std::array<BlockBinding, tracked_blocks> uniform_blocks_;
  std::array<std::uint32_t, tracked_blocks> storage_blocks_;
  std::array<TextureBinding, tracked_units> textures_;
  std::array<int, 2> viewport_{-1, -1};
  PipelineState pipeline_;
  bool pipeline_known_ = false;
  std::uint64_t sent_ = 0, skipped_ = 0;
};

}  // namespace periscena::gl
