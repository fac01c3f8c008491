#include "gl/api.h"

#include <periscena/gl/state.h>

#include <fmt/format.h>

#include <optional>

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

void State::bind_count_buffer(std::uint32_t buffer) {
  if (changes(counts_, buffer)) glBindBuffer(GL_PARAMETER_BUFFER_ARB, buffer);
}

void State::bind_uniform_block(std::uint32_t binding, std::uint32_t buffer, std::uint32_t offset, std::uint32_t bytes) {
  if (binding < tracked_blocks && !changes(uniform_blocks_[binding], BlockBinding{buffer, offset, bytes})) return;
  glBindBufferRange(GL_UNIFORM_BUFFER, binding, buffer, offset, bytes);
}

void State::bind_storage_block(std::uint32_t binding, std::uint32_t buffer) {
  if (binding < tracked_blocks && !changes(storage_blocks_[binding], {buffer, 0, 0})) return;
  glBindBufferBase(GL_SHADER_STORAGE_BUFFER, binding, buffer);
}

void State::bind_storage_block(std::uint32_t binding, std::uint32_t buffer, std::size_t offset, std::size_t bytes) {
  const BlockBinding wanted{buffer, static_cast<std::uint32_t>(offset), static_cast<std::uint32_t>(bytes)};
  if (binding < tracked_blocks && !changes(storage_blocks_[binding], wanted)) return;
  glBindBufferRange(GL_SHADER_STORAGE_BUFFER, binding, buffer, static_cast<GLintptr>(offset),
                    static_cast<GLsizeiptr>(bytes));
}

void State::bind_texture(std::uint32_t unit, std::uint32_t texture, std::uint32_t sampler) {
  TextureBinding untracked;
  TextureBinding& known = unit < tracked_units ? textures_[unit] : untracked;
  if (changes(known.texture, texture)) glBindTextureUnit(unit, texture);
  if (changes(known.sampler, sampler)) glBindSampler(unit, sampler);
}

void State::bind_textures(std::uint32_t first_unit, std::span<const std::uint32_t> textures,
                          std::span<const std::uint32_t> samplers) {
  if (textures.empty()) return;
  if (textures.size() == 1 || first_unit + textures.size() > tracked_units) {
    for (std::uint32_t i = 0; i < textures.size(); ++i) bind_texture(first_unit + i, textures[i], samplers[i]);
    return;
  }
  bool other_textures = false, other_samplers = false;
  for (std::size_t i = 0; i < textures.size(); ++i) {
    TextureBinding& known = textures_[first_unit + i];
    other_textures = other_textures || known.texture != textures[i];
    other_samplers = other_samplers || known.sampler != samplers[i];
    known = {textures[i], samplers[i]};
  }
  const auto count = static_cast<GLsizei>(textures.size());
  if (other_textures) glBindTextures(first_unit, count, textures.data());
  if (other_samplers) glBindSamplers(first_unit, count, samplers.data());
  sent_ += other_textures + other_samplers;
  skipped_ += !other_textures + !other_samplers;
}

void State::set_viewport(int width, int height) {
  if (changes(viewport_, {width, height})) glViewport(0, 0, width, height);
}

void State::set_viewports(std::span<const std::array<float, 4>> rectangles) {
  viewport_ = {-1, -1};
  ++sent_;
  glViewportArrayv(0, static_cast<GLsizei>(rectangles.size()), rectangles[0].data());
}

void State::set_conventions() {
  if (conventions_known_) return;
  conventions_known_ = true;
  glClipControl(GL_LOWER_LEFT, GL_ZERO_TO_ONE);
  glEnable(GL_FRAMEBUFFER_SRGB);
  glEnable(GL_TEXTURE_CUBE_MAP_SEAMLESS);
  // What PipelineState does not speak of must be off, or an adopted context's leftovers would show.
  glDisable(GL_SCISSOR_TEST);
  glDisable(GL_RASTERIZER_DISCARD);
  glDisable(GL_COLOR_LOGIC_OP);
  glDisable(GL_DEPTH_CLAMP);
  glDisable(GL_PRIMITIVE_RESTART);
  glPolygonMode(GL_FRONT_AND_BACK, GL_FILL);
  sent_ += 9;
}

void State::encode_srgb(bool encodes) {
  enable(GL_FRAMEBUFFER_SRGB, encodes);
  ++sent_;
}

void State::open_write_masks(bool color, bool depth, bool stencil) {
  if (color && changes(pipeline_.write, WriteMask{})) glColorMask(GL_TRUE, GL_TRUE, GL_TRUE, GL_TRUE);
  if (depth && changes(pipeline_.depth_write, true)) glDepthMask(GL_TRUE);
  if (stencil && changes(pipeline_.stencil_mask, 0xFFu)) glStencilMask(0xFF);
}

void State::apply_depth(const DepthState& wanted) {
  if (changes(pipeline_.depth_test, wanted.test)) enable(GL_DEPTH_TEST, wanted.test);
  if (!wanted.test) return;  // then nothing is written, either
  if (changes(pipeline_.depth_write, wanted.write)) glDepthMask(wanted.write);
  if (changes(pipeline_.depth_compare, wanted.compare)) glDepthFunc(compare_code(wanted.compare));
}

void State::apply_stencil(const StencilState& wanted) {
  if (changes(pipeline_.stencil_test, wanted.test)) enable(GL_STENCIL_TEST, wanted.test);
  if (!wanted.test) return;
  if (changes(pipeline_.stencil, wanted)) {
    glStencilFunc(compare_code(wanted.compare), static_cast<GLint>(wanted.reference), wanted.read_mask);
    glStencilOp(action_code(wanted.fail), action_code(wanted.depth_fail), action_code(wanted.pass));
  }
  if (changes(pipeline_.stencil_mask, wanted.write_mask)) glStencilMask(wanted.write_mask);
}

void State::apply_blend(const BlendState& wanted) {
  if (changes(pipeline_.blend, wanted.on)) enable(GL_BLEND, wanted.on);
  if (!wanted.on || !changes(pipeline_.factors, std::array{wanted.source, wanted.destination})) return;
  glBlendEquation(GL_FUNC_ADD);
  glBlendFunc(factor_code(wanted.source), factor_code(wanted.destination));
}

void State::apply(const PipelineState& wanted) {
  const auto before = sent_;
  apply_depth(wanted.depth);
  const bool culls = wanted.cull != CullFaces::none;
  if (changes(pipeline_.cull, culls)) enable(GL_CULL_FACE, culls);
  if (culls && changes(pipeline_.culled, wanted.cull)) glCullFace(wanted.cull == CullFaces::back ? GL_BACK : GL_FRONT);
  // With culling off as well: gl_FrontFacing goes by it.
  if (changes(pipeline_.clockwise_front, wanted.clockwise_front)) glFrontFace(wanted.clockwise_front ? GL_CW : GL_CCW);
  apply_blend(wanted.blend);
  const bool bounded = within_ != 0 && !wanted.stencil.test;
  apply_stencil(bounded ? StencilState{.test = true,
                                       .compare = Compare::equal,
                                       .reference = static_cast<std::uint32_t>(within_),
                                       .write_mask = 0}
                        : wanted.stencil);
  const bool offset = wanted.offset != PolygonOffset{};
  if (changes(pipeline_.offset, offset)) enable(GL_POLYGON_OFFSET_FILL, offset);
  if (offset && changes(pipeline_.offsets, wanted.offset)) glPolygonOffset(wanted.offset.slope, wanted.offset.constant);
  if (changes(pipeline_.write, wanted.write))
    glColorMask(wanted.write.red, wanted.write.green, wanted.write.blue, wanted.write.alpha);
  skipped_ += sent_ == before;
}

void State::forget(Touched touched) {
  if (touched & Touched::program) program_ = unknown;
  if (touched & Touched::vertex_array) vertex_array_ = unknown;
  if (touched & Touched::framebuffer) framebuffer_ = unknown;
  if (touched & Touched::buffers) {
    indirect_ = unknown;
    counts_ = unknown;
    uniform_blocks_.fill({});
    storage_blocks_.fill({});
  }
  if (touched & Touched::textures) textures_.fill({});
  if (touched & Touched::viewport) viewport_ = {-1, -1};
  if (touched & Touched::pipeline) pipeline_ = {};
  if (touched & Touched::conventions) conventions_known_ = false;
}

std::string State::first_difference() const {
  const auto differs = [](GLenum what, std::uint32_t left) {
    GLint now = 0;
    glGetIntegerv(what, &now);
    return left != unknown && static_cast<std::uint32_t>(now) != left ? std::optional(now) : std::nullopt;
  };
  const auto number = [&](GLenum what, std::uint32_t left, const char* name) -> std::string {
    const auto now = differs(what, left);
    return now ? fmt::format("the {} is {}, and Periscena left {}", name, *now, left) : "";
  };
  const auto on_off = [](GLenum what, const Known<bool>& left, const char* name) -> std::string {
    if (!left.known || static_cast<bool>(glIsEnabled(what)) == left.value) return "";
    return fmt::format("{} is {}, and Periscena left it {}", name, left.value ? "off" : "on",
                       left.value ? "on" : "off");
  };
  const Known<bool> on{true, conventions_known_}, off{false, conventions_known_};
  GLint viewport[4];
  glGetIntegerv(GL_VIEWPORT, viewport);
  const bool viewport_differs = viewport_[0] >= 0 && (viewport[2] != viewport_[0] || viewport[3] != viewport_[1]);
  for (std::string found :
       {number(GL_CURRENT_PROGRAM, program_, "program"), number(GL_VERTEX_ARRAY_BINDING, vertex_array_, "vertex array"),
        number(GL_DRAW_FRAMEBUFFER_BINDING, framebuffer_, "draw framebuffer"),
        number(GL_DRAW_INDIRECT_BUFFER_BINDING, indirect_, "indirect buffer"),
        on_off(GL_DEPTH_TEST, pipeline_.depth_test, "the depth test"), on_off(GL_BLEND, pipeline_.blend, "blending"),
        on_off(GL_CULL_FACE, pipeline_.cull, "face culling"),
        on_off(GL_STENCIL_TEST, pipeline_.stencil_test, "the stencil test"),
        on_off(GL_SCISSOR_TEST, off, "the scissor test"), on_off(GL_FRAMEBUFFER_SRGB, on, "sRGB encoding"),
        viewport_differs ? fmt::format("the viewport is {} x {}, and Periscena left {} x {}", viewport[2], viewport[3],
                                       viewport_[0], viewport_[1])
                         : std::string()}) {
    if (!found.empty()) return found;
  }
  return "";
}

}  // namespace periscena::gl
