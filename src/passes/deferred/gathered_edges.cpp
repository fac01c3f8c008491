#include "passes/deferred/gathered_edges.h"

#include "passes/pass_checks.h"

#include <fmt/format.h>

#include <algorithm>

namespace periscena::passes {
namespace {

const PlannedWrite* write_of(const gl::PassSetup& setup, const std::string& slot) {
  const auto& writes = setup.pass().writes;
  const auto found =
      std::find_if(writes.begin(), writes.end(), [&](const PlannedWrite& write) { return write.slot == slot; });
  return found == writes.end() ? nullptr : &*found;
}

}  // namespace

gl::ShaderText GatheredEdges::scatter_text(const gl::PassSetup& setup) {
  std::vector<std::string> lines;
  if (write_of(setup, "light_count")) lines.emplace_back("#define COUNTS_LIGHTS");
  return pass_shader("periscena/scatter_edges.frag").with_lines(lines);
}

GatheredEdges::GatheredEdges(const gl::PassSetup& setup, DepthOrder order)
    : program_(setup.device(),
               {"edges to their samples", pass_shader("periscena/edge_tiles.vert"), scatter_text(setup)}),
      textures_(program_),
      sample_here_(program_.uniform<int>("sample_here")),
      depth_unit_(textures_.unit(program_, "depth").value()),
      nearest_(Filter::nearest, Wrap::clamp, "gathered edges") {
  program_.set(program_.uniform<float>("background"), order == DepthOrder::ordinary ? 1.0f : 0.0f);
  for (const gl::OutputInfo& output : program_.interface().outputs) {
    const PlannedTarget& target = setup.plan().targets()[write_of(setup, output.name)->target];
    parts_.push_back(
        {output.name, target.description.format, textures_.unit(program_, "gathered_" + output.name).value()});
  }
}

void GatheredEdges::resize(const gl::PassSetup& setup, const SampleEdges& edges) {
  program_.set(program_.uniform<Vec4>("picture"), edges.picture());
  edges.put(program_, textures_);
  tiles_ = edges.tile_count();
  const auto [width, height] = edges.whole_tiles();
  if (width == width_ && height == height_) return;
  width_ = width;
  height_ = height;
  std::vector<gl::Attached> attached;
  std::vector<int> order;
  for (Part& part : parts_) {
    part.texture =
        gl::Texture(width, height, part.format, fmt::format("gathered {} of {}", part.slot, setup.pass().name));
    textures_.put(part.unit, part.texture.name(), nearest_.name());
    order.push_back(static_cast<int>(attached.size()));
    attached.emplace_back(part.texture);
  }
  framebuffer_ = gl::Framebuffer(attached, std::nullopt, "gathered edges");
  framebuffer_.route_outputs(order);
}

void GatheredEdges::gather(const gl::PassContext& context) const {
  context.state().bind_draw_framebuffer(framebuffer_.name());
  context.state().set_viewport(width_, height_);
}

void GatheredEdges::scatter(const gl::PassContext& context, const gl::Texture& depth, int sample) {
  gl::State& state = context.state();
  state.bind_draw_framebuffer(context.framebuffer());
  state.set_viewport(context.pass().width, context.pass().height);
  textures_.put(depth_unit_, depth.name(), nearest_.name());
  program_.set(sample_here_, sample);
  program_.use(state);
  textures_.bind(state);
  state.apply({});
  context.draw_generated(6, gl::Vertices::triangles, tiles_);
}

}  // namespace periscena::passes
