#include "passes/deferred/sample_edges.h"

#include "passes/pass_checks.h"

#include <fmt/format.h>

#include <algorithm>

namespace periscena::passes {
namespace {

constexpr int edge_tile = 16;  ///< pixels, as find_edges.comp and edge_tiles.vert have it

/// Nine bits for a number, and one for each sample.
Format edge_format(int samples) {
  return samples <= 7 ? Format::r16ui : Format::r32ui;
}

gl::ShaderText edges_text(const std::vector<std::string>& reads, int samples) {
  std::vector<std::string> lines{
      fmt::format("#define SAMPLES {}", samples),
      fmt::format("#define EDGE_FORMAT {}", edge_format(samples) == Format::r16ui ? "r16ui" : "r32ui")};
  if (std::find(reads.begin(), reads.end(), "emission") != reads.end()) lines.emplace_back("#define READS_EMISSION");
  return pass_shader("periscena/find_edges.comp").with_lines(lines);
}

}  // namespace

SampleEdges::SampleEdges(gl::Device& device, const std::vector<std::string>& reads, DepthOrder order, int samples)
    : program_(device, {.name = "edges", .compute = edges_text(reads, samples)}),
      textures_(program_),
      picture_(program_.uniform<Vec4>("picture")),
      samples_(samples),
      nearest_(Filter::nearest, Wrap::clamp, "edges") {
  program_.expect_block(draw::CameraBlock::layout());
  program_.set(program_.uniform<float>("background"), order == DepthOrder::ordinary ? 1.0f : 0.0f);
  for (std::size_t i = 0; i < reads.size(); ++i) {
    if (const auto unit = textures_.unit(program_, reads[i])) units_.emplace_back(*unit, i);
  }
}

void SampleEdges::resize(int width, int height) {
  if (width_ == width && height_ == height) return;
  width_ = width;
  height_ = height;
  const auto [across, up] = whole_tiles();
  const auto layered = [&](int wide, int high, Format format, const char* label) {
    return gl::Texture(
        {.width = wide, .height = high, .format = format, .shape = TargetShape::array, .layers = samples_}, label);
  };
  edges_ = layered(width, height, edge_format(samples_), "edges");
  tiles_ = layered(across / edge_tile, up / edge_tile, Format::r16ui, "tiles with edges");
  list_ = layered(across, up, Format::r16ui, "list of edges");
}

std::pair<int, int> SampleEdges::whole_tiles() const {
  const auto whole = [](int pixels) { return (pixels + edge_tile - 1) / edge_tile * edge_tile; };
  return {whole(width_), whole(height_)};
}

void SampleEdges::find(const gl::PassContext& context, const draw::ViewCamera& view) {
  gl::State& state = context.state();
  for (const auto& [unit, read] : units_) textures_.put(unit, context.read(read).name(), nearest_.name());
  program_.set(picture_, picture());
  program_.use(state);
  view.bind(state);
  textures_.bind(state);
  context.write_image(0, edges_, 0);
  context.write_image(1, tiles_, 0);
  context.write_image(2, list_, 0);
  context.compute(static_cast<std::uint32_t>(tiles_.width()), static_cast<std::uint32_t>(tiles_.height()));
}

void SampleEdges::put(const gl::Program& program, draw::BoundTextures& into) const {
  into.put(program, "edges", edges_.name(), nearest_.name());
  into.put(program, "edge_tiles", tiles_.name(), nearest_.name());
  into.put(program, "edge_list", list_.name(), nearest_.name());
}

}  // namespace periscena::passes
