#pragma once

#include <periscena/gl/bindings.h>

#include <array>
#include <cstdint>
#include <span>
#include <string>

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
  DepthState depth = {};
  CullFaces cull = CullFaces::none;
  bool clockwise_front = false;  ///< for mirrored objects
  BlendState blend = {};
  StencilState stencil = {};
  PolygonOffset offset = {};
  WriteMask write = {};
  bool operator==(const PipelineState&) const = default;
};

/// Parts of the context's state, for saying what calls of your own have changed. Join them with |.
enum class Touched : unsigned {
  nothing = 0,
  program = 1,
  vertex_array = 2,
  buffers = 4,   ///< indexed uniform and storage buffers, and the indirect buffer
  textures = 8,  ///< and samplers
  framebuffer = 16,
  viewport = 32,
  pipeline = 64,      ///< all that PipelineState speaks of
  conventions = 128,  ///< clip control, sRGB encoding, and what Periscena leaves off: scissor, polygon mode, …
  everything = 255,
};
constexpr Touched operator|(Touched a, Touched b) {
  return static_cast<Touched>(static_cast<unsigned>(a) | static_cast<unsigned>(b));
}
constexpr bool operator&(Touched a, Touched b) {
  return (static_cast<unsigned>(a) & static_cast<unsigned>(b)) != 0;
}

/// What is bound and set on the context, as far as we know, so that nothing is sent twice. forget() when somebody else
/// made GL calls.
class State {
 public:
  void use_program(std::uint32_t program);
  void bind_vertex_array(std::uint32_t vertex_array);
  void bind_draw_framebuffer(std::uint32_t framebuffer);
  void bind_indirect_buffer(std::uint32_t buffer);
  void bind_count_buffer(std::uint32_t buffer);  ///< of GL_ARB_indirect_parameters, where the device has it
  void bind_uniform_block(std::uint32_t binding, std::uint32_t buffer, std::uint32_t offset, std::uint32_t bytes);
  void bind_storage_block(std::uint32_t binding, std::uint32_t buffer);  ///< all of it
  void bind_storage_block(std::uint32_t binding, std::uint32_t buffer, std::size_t offset, std::size_t bytes);
  void bind_texture(std::uint32_t unit, std::uint32_t texture, std::uint32_t sampler);

  /// Textures and samplers of neighbouring units, at most 16, in one call for each kind.
  void bind_textures(std::uint32_t first_unit, std::span<const std::uint32_t> textures,
                     std::span<const std::uint32_t> samplers);
  void set_viewport(int width, int height);

  /// Squares of the target, by the number that vertex programs choose as gl_ViewportIndex; until the next set_viewport.
  void set_viewports(std::span<const std::array<float, 4>> rectangles);  ///< x, y, width, height; at most 16

  /// Do sRGB targets encode what is written to them? They do, unless a pass that has encoded colours says no while it
  /// draws.
  void encode_srgb(bool encodes);

  /// From now on, pipelines without a stencil test draw where the stencil is this number alone. @param number  0:
  /// everywhere
  void draw_within(int number) { within_ = number; }

  /// What does not count is not sent: the depth comparison while the depth test is off, and the like.
  void apply(const PipelineState& wanted);

  /// Clip depth 0..1, lower-left origin, sRGB encoding into sRGB targets, seamless cubes: once, until it is touched.
  void set_conventions();

  /// Clears obey the write masks, so those that matter are opened first.
  void open_write_masks(bool color, bool depth, bool stencil);

  /// What was touched is not known any more: the next of it is sent.
  void forget(Touched touched = Touched::everything);

  /// Asks the driver for what should be there, which is slow: for debugging. Empty when all is as it was left, else
  /// such as `the program is 7, and Periscena left 5`.
  std::string first_difference() const;

  std::uint64_t sent() const { return sent_; }        ///< state calls that went to the driver since the start
  std::uint64_t skipped() const { return skipped_; }  ///< state calls that were redundant

  static constexpr std::uint32_t tracked_units = 32;
  static constexpr std::uint32_t tracked_blocks = 16;

 private:
  static constexpr std::uint32_t unknown = 0xFFFFFFFF;

  /// One value of the fixed-function state, with whether it is known.
  template <class T>
  struct Known {
    T value{};
    bool known = false;
  };
  struct BlockBinding {
    std::uint32_t buffer = unknown, offset = 0, bytes = 0;
    bool operator==(const BlockBinding&) const = default;
  };
  struct TextureBinding {
    std::uint32_t texture = unknown, sampler = unknown;
    bool operator==(const TextureBinding&) const = default;
  };
  struct Pipeline {
    Known<bool> depth_test, depth_write, blend, stencil_test, offset, cull, clockwise_front;
    Known<Compare> depth_compare;
    Known<CullFaces> culled;
    Known<std::array<BlendFactor, 2>> factors;
    Known<StencilState> stencil;  ///< but its test and write mask
    Known<std::uint32_t> stencil_mask;
    Known<PolygonOffset> offsets;
    Known<WriteMask> write;
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
  template <class T>
  bool changes(Known<T>& known, const T& wanted) {
    if (known.known && known.value == wanted) return false;
    known = {wanted, true};
    ++sent_;
    return true;
  }

  void apply_depth(const DepthState& wanted);
  void apply_stencil(const StencilState& wanted);
  void apply_blend(const BlendState& wanted);

  std::uint32_t program_ = unknown, vertex_array_ = unknown, framebuffer_ = unknown, indirect_ = unknown,
                counts_ = unknown;
  std::array<BlockBinding, tracked_blocks> uniform_blocks_;
  std::array<BlockBinding, tracked_blocks> storage_blocks_;  ///< bytes 0: all
  std::array<TextureBinding, tracked_units> textures_;
  std::array<int, 2> viewport_{-1, -1};
  Pipeline pipeline_;
  bool conventions_known_ = false;
  int within_ = 0;
  std::uint64_t sent_ = 0, skipped_ = 0;
};

}  // namespace periscena::gl
