#include "gl/operation.h"

#include "gl/clear.h"
#include "gl/embedded.h"

#include <periscena/gl/program.h>

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <map>

namespace periscena::gl {
namespace {

GLbitfield mask_of(Format format) {
  const FormatInfo& known = info(format);
  return (known.depth ? GLbitfield{GL_DEPTH_BUFFER_BIT} : 0u) |
         (known.stencil ? GLbitfield{GL_STENCIL_BUFFER_BIT} : 0u) |
         (known.color() ? GLbitfield{GL_COLOR_BUFFER_BIT} : 0u);
}

Framebuffer framebuffer_of(const Attached& image, const std::string& label) {
  if (info(image.format).color()) return {std::span(&image, 1), std::nullopt, label};
  return {{}, image, label};
}

}  // namespace

/// Programs that choose between samples, one for each kind of numbers.
class SampleChoice {
 public:
  struct Choice {
    Program program;
    Uniform<int> rule, samples, layer;
    std::uint32_t unit;
  };

  explicit SampleChoice(Device& device) : device_(device) {}

  Choice& for_texture(const Texture& texture) {
    const bool depth = info(texture.format()).depth;
    const bool layers = texture.description().shape == TargetShape::array;
    const ValueKind kind = depth ? ValueKind::floating : value_kind(texture.format());
    const Key key{depth, layers, static_cast<int>(kind)};
    const auto known = choices_.find(key);
    return known != choices_.end() ? known->second : choices_.emplace(key, make(depth, layers, kind)).first->second;
  }

 private:
  using Key = std::array<int, 3>;

  Choice make(bool depth, bool layers, ValueKind kind) const {
    constexpr const char* prefixes[] = {"", "i", "u"};
    const char* prefix = prefixes[static_cast<std::size_t>(kind)];
    const std::string head = fmt::format("#define SAMPLER {}sampler2DMS{}\n{}{}", prefix, layers ? "Array" : "",
                                         layers ? "#define LAYERS\n" : "",
                                         depth ? "#define DEPTH\n" : fmt::format("#define VALUE {}vec4\n", prefix));
    Program program(device_, {"choose sample", ShaderText::embedded("periscena/one_triangle.vert", gl_texts()),
                              ShaderText::from_text("choose_sample",
                                                    head + "#include \"periscena/choose_sample.frag\"\n", gl_texts())});
    const auto unit = static_cast<std::uint32_t>(program.sampler_unit("source"));
    const Uniform<int> layer = layers ? program.uniform<int>("layer") : Uniform<int>{};
    const auto rule = program.uniform<int>("rule"), samples = program.uniform<int>("samples");
    return {std::move(program), rule, samples, layer, unit};
  }

  Device& device_;
  std::map<Key, Choice> choices_;
};

OperationStep::OperationStep(SharedThings& shared, const Operation& operation, const OperationEnd& from,
                             const OperationEnd& to, const std::string& label)
    : texture_(from.texture), format_(from.format) {
  makes_levels_ = std::holds_alternative<LevelsOperation>(operation);
  if (makes_levels_) return;
  for (std::size_t i = 0; i < std::min(from.layers.size(), to.layers.size()); ++i)
    layers_.push_back({framebuffer_of(from.layers[i], label), framebuffer_of(to.layers[i], label)});
  mask_ = mask_of(from.format);
  PixelRect from_rect, to_rect;
  if (const auto* copy = std::get_if<CopyOperation>(&operation)) {
    from_rect = copy->from;
    to_rect = copy->to;
    if (copy->linear) filter_ = GL_LINEAR;
  }
  from_ = area_of(from_rect, from.layers.front());
  to_ = area_of(to_rect, to.layers.front());
  const auto* resolve = std::get_if<ResolveOperation>(&operation);
  if (!resolve || from.layers.front().samples == 1) return;
  rule_ = resolve->rule;
  const bool only_stencil = info(from.format).stencil && !info(from.format).depth;
  if (rule_ == ResolveRule::average || only_stencil) return;
  choice_ = shared.get<SampleChoice>(nullptr, [&] { return std::make_shared<SampleChoice>(shared.device()); });
  choice_->for_texture(*texture_);
}

OperationStep::Area OperationStep::area_of(const PixelRect& rect, const Attached& whole) {
  if (rect.whole()) return {0, 0, whole.width, whole.height};
  const GLint top = whole.height - rect.y;
  return {rect.x, top - rect.height, rect.x + rect.width, top};
}

void OperationStep::blit(const Layer& layer, GLbitfield mask) const {
  glBlitNamedFramebuffer(layer.from.name(), layer.to.name(), from_.left, from_.bottom, from_.right, from_.top, to_.left,
                         to_.bottom, to_.right, to_.top, mask, filter_);
}

void OperationStep::choose_samples(const Layer& layer, int index, State& state,
                                   std::uint32_t empty_vertex_array) const {
  SampleChoice::Choice& choice = choice_->for_texture(*texture_);
  choice.program.set(choice.rule, rule_ == ResolveRule::least ? 1 : rule_ == ResolveRule::greatest ? 2 : 0);
  choice.program.set(choice.samples, texture_->description().samples);
  if (choice.layer.index >= 0) choice.program.set(choice.layer, index);
  state.bind_draw_framebuffer(layer.to.name());
  state.set_viewport(to_.right, to_.top);
  PipelineState pipeline;
  if (info(format_).depth) pipeline.depth = {true, true, Compare::always};
  state.apply(pipeline);
  choice.program.use(state);
  state.bind_texture(choice.unit, texture_->name(), 0);
  state.bind_vertex_array(empty_vertex_array);
  glDrawArrays(GL_TRIANGLES, 0, 3);
  // A program can't write stencil everywhere; the driver takes one of the samples.
  if (info(format_).stencil) blit(layer, GL_STENCIL_BUFFER_BIT);
}

void OperationStep::clear_result(State& state, const TargetDescription& target) const {
  const FormatInfo& format = info(target.format);
  state.open_write_masks(format.color(), format.depth, format.stencil);
  for (const Layer& layer : layers_) clear_attachment(layer.to.name(), target, 0);
}

void OperationStep::invalidate_source() const {
  std::array<GLenum, 2> attachments{};
  GLsizei count = 0;
  if (mask_ & GL_COLOR_BUFFER_BIT) attachments[static_cast<std::size_t>(count++)] = GL_COLOR_ATTACHMENT0;
  if (mask_ & GL_DEPTH_BUFFER_BIT) attachments[static_cast<std::size_t>(count++)] = GL_DEPTH_ATTACHMENT;
  if (mask_ & GL_STENCIL_BUFFER_BIT) attachments[static_cast<std::size_t>(count++)] = GL_STENCIL_ATTACHMENT;
  for (const Layer& layer : layers_) glInvalidateNamedFramebufferData(layer.from.name(), count, attachments.data());
}

void OperationStep::run(State& state, std::uint32_t empty_vertex_array) const {
  if (makes_levels_) return texture_->make_levels();
  for (std::size_t i = 0; i < layers_.size(); ++i) {
    if (choice_) {
      choose_samples(layers_[i], static_cast<int>(i), state, empty_vertex_array);
    } else {
      blit(layers_[i], mask_);
    }
  }
}

}  // namespace periscena::gl
