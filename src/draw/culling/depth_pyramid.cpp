#include "draw/culling/depth_pyramid.h"

#include "draw/shaders.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <bit>

namespace periscena::draw {
namespace {

/// Halves exactly all the way up: sides are powers of two. What lies beyond the picture hides everything.
gl::TextureDescription levels_for(int width, int height) {
  const auto side = [](int pixels) {
    return static_cast<int>(std::bit_ceil(static_cast<unsigned>(std::max(1, (pixels + 1) / 2))));
  };
  gl::TextureDescription made{.width = side(width), .height = side(height), .format = Format::r32f};
  made.levels = static_cast<int>(std::bit_width(static_cast<unsigned>(std::max(made.width, made.height))));
  return made;
}

gl::ShaderText text_for(int samples) {
  const std::string source = "#include \"periscena/depth_pyramid.comp\"\n";
  const std::string text = samples > 1 ? fmt::format("#define SAMPLES {}\n{}", samples, source) : source;
  return gl::ShaderText::from_text(fmt::format("depth pyramid of {} samples", samples), text, shaders());
}

}  // namespace

DepthPyramid::DepthPyramid(gl::Device& device, int width, int height, int samples, DepthOrder order)
    : depth_({.width = width, .height = height, .format = Format::depth32f, .samples = samples}, "depth of occluders"),
      levels_(levels_for(width, height), "depth pyramid"),
      framebuffer_({}, gl::Attached(depth_), "occluders"),
      nearest_(Filter::nearest_levels, Wrap::clamp, "nearest"),
      program_(device, {.name = "depth pyramid", .compute = text_for(samples)}),
      from_width_(program_.uniform<int>("from_width")),
      from_height_(program_.uniform<int>("from_height")),
      level_below_(program_.uniform<int>("level_below")),
      reversed_(order == DepthOrder::reversed) {
  program_.set(program_.uniform<bool>("reversed"), reversed_);
}

void DepthPyramid::begin(const gl::PassContext& context) const {
  gl::State& state = context.state();
  state.bind_draw_framebuffer(framebuffer_.name());
  state.set_viewport(depth_.width(), depth_.height());
  state.open_write_masks(false, true, false);
  framebuffer_.clear_depth(reversed_ ? 0.0f : 1.0f);
}

void DepthPyramid::build(const gl::PassContext& context) {
  gl::State& state = context.state();
  state.bind_draw_framebuffer(context.framebuffer());
  state.set_viewport(context.pass().width, context.pass().height);
  program_.use(state);
  const auto unit = [&](const char* name) { return static_cast<std::size_t>(program_.sampler_unit(name)); };
  std::array<std::uint32_t, 2> textures{}, samplers{};
  textures[unit("depth")] = depth_.name();
  textures[unit("pyramid")] = levels_.name();
  samplers.fill(nearest_.name());
  state.bind_textures(0, textures, samplers);
  std::array<int, 2> from{depth_.width(), depth_.height()};
  for (int level = 0; level < levels_.description().levels; ++level) {
    program_.set(from_width_, from[0]);
    program_.set(from_height_, from[1]);
    program_.set(level_below_, level - 1);
    context.write_image(0, levels_, level);
    const int width = std::max(1, levels_.width() >> level), height = std::max(1, levels_.height() >> level);
    context.compute(static_cast<std::uint32_t>((width + 7) / 8), static_cast<std::uint32_t>((height + 7) / 8));
    from = {width, height};
  }
}

}  // namespace periscena::draw
