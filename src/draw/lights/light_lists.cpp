#include "draw/lights/light_lists.h"

#include "draw/shaders.h"

#include <periscena/base/error.h>
#include <periscena/math/screen_bounds.h>

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace periscena::draw {
namespace {

constexpr int list_width = 4096;                     ///< of the texture that all lists lie in, one behind the other
constexpr int most_rows = 16384;                     ///< that OpenGL 4.5 guarantees
constexpr int tile_bits = 4, most_cluster_bits = 6;  ///< cells are 2 to that many pixels wide
constexpr std::int64_t fair_words = 64 << 18;        ///< 64 MiB: with more, clusters are coarser
constexpr int slice_count = 24;
constexpr std::size_t fewest_for_lists = 8;
constexpr int lights_a_group = 4;  ///< as light_lists.comp has it
constexpr float endless = 1e30f;   ///< as light_cells.glsl has it

int in_words(int bits) {
  return std::max(1, (bits + 31) / 32);
}

std::vector<std::string> list_defines(batch::LightBounds bounds) {
  std::vector<std::string> defines{fmt::format("LIST_WIDTH {}", list_width),
                                   bounds == batch::LightBounds::clusters
                                       ? fmt::format("LIGHT_SLICES {}", slice_count)
                                       : fmt::format("LIGHT_TILE_BITS {}", tile_bits)};
  return defines;
}

gl::ShaderText list_text(const char* name, batch::LightBounds bounds, int samples) {
  std::vector<std::string> lines;
  for (const std::string& define : list_defines(bounds)) lines.push_back("#define " + define);
  lines.push_back(fmt::format("#define SAMPLES {}", samples));
  return gl::ShaderText::embedded(name, shaders()).with_lines(lines);
}

/// Where a light can matter, in camera space.
LightReachBlock screen_reach(const Light& light, const LightBlock& block, const CameraBlock& camera,
                             const Projection& lens, int width, int height) {
  LightReachBlock reach;
  const auto w = static_cast<float>(width), h = static_cast<float>(height);
  if (std::isinf(light.range())) {
    reach.ball.w() = -1;
    reach.rect = {0, 0, w, h};
    reach.distances = {-endless, endless, 0, 0};
    return reach;
  }
  const Mat3 turn = camera.view.corner<3>();
  const Vec3 at = turn * block.position.head<3>() + camera.view.column(3).head<3>();
  Sphere ball{at, light.range()};
  ViewDistances distances = view_distances(ball);
  std::optional<ScreenRect> rect;
  if (const SpotLight* spot = light.spot()) {
    const Cone cone{at, (turn * block.direction.head<3>()).normalized(), spot->range, spot->outer_cone};
    rect = screen_bounds(lens, cone);
    ball = cone.sphere();
    distances = view_distances(cone);
  } else {
    rect = screen_bounds(lens, ball);
  }
  reach.ball = {ball.center.x(), ball.center.y(), ball.center.z(), ball.radius};
  reach.distances = {distances.nearest, distances.farthest, 0, 0};
  // What can't be seen lies beside every cell.
  reach.rect = rect ? Vec4(std::floor(rect->left * w), std::floor(rect->bottom * h), std::ceil(rect->right * w),
                           std::ceil(rect->top * h))
                    : Vec4(-2, -2, -1, -1);
  return reach;
}

}  // namespace

batch::LightBounds chosen_bounds(batch::LightBounds wanted, const Lighting& lighting, batch::LightBounds with_lists) {
  if (wanted != batch::LightBounds::automatic) return wanted;
  return lighting.lights().size() - lighting.endless() < fewest_for_lists ? batch::LightBounds::none : with_lists;
}

gl::BlockLayout LightReachBlock::layout() {
  return gl::describe_block<LightReachBlock>("LightReaches", "reaches")
      .member("ball", &LightReachBlock::ball)
      .member("rect", &LightReachBlock::rect)
      .member("distances", &LightReachBlock::distances);
}

LightReaches::LightReaches(const Lighting& lighting)
    : blocks_(lighting.lights().size()),
      buffer_(gl::Buffer::writable(std::max<std::size_t>(1, blocks_.size()) * sizeof(LightReachBlock),
                                   "reaches of lights")) {}

bool LightReaches::update(const gl::PassContext& context, const ViewCamera& view, bool moved,
                          const Lighting& lighting) {
  const int width = context.pass().width, height = context.pass().height;
  if (!moved && version_ == lighting.version() && width == width_ && height == height_) return false;
  version_ = lighting.version();
  width_ = width;
  height_ = height;
  farthest_ = 0;
  const Projection lens = view.camera().projection(static_cast<float>(width) / static_cast<float>(height));
  for (std::size_t i = 0; i < blocks_.size(); ++i) {
    blocks_[i] = screen_reach(*lighting.lights()[i], lighting.blocks()[i], view.block(), lens, width, height);
    if (i >= lighting.endless() && blocks_[i].rect.x() >= 0) farthest_ = std::max(farthest_, blocks_[i].distances.y());
  }
  if (!blocks_.empty()) context.write(buffer_, 0, std::as_bytes(std::span(blocks_)));
  return true;
}

LightLists::LightLists(gl::Device& device, const Lighting& lighting, batch::LightBounds bounds, DepthOrder order,
                       int samples)
    : bounds_(bounds),
      light_count_(static_cast<int>(lighting.lights().size())),
      words_(in_words(light_count_)),
      groups_(in_words(words_)),
      lists_of_cells_(device,
                      {.name = "light lists", .compute = list_text("periscena/light_lists.comp", bounds, samples)}),
      nearest_(Filter::nearest, Wrap::clamp, "light lists") {
  lists_of_cells_.program.expect_block(LightReachBlock::layout());
  if (sliced()) return;
  gl::Program& program =
      distances_of_tiles_
          .emplace(device,
                   gl::ProgramDescription{.name = "distances of tiles",
                                          .compute = list_text("periscena/tile_distances.comp", bounds, samples)})
          .program;
  program.set(program.uniform<float>("background"), order == DepthOrder::ordinary ? 1.0f : 0.0f);
}

void LightLists::resize(int width, int height) {
  if (width == width_ && height == height_) return;
  width_ = width;
  height_ = height;
  std::int64_t words = 0;
  for (bits_ = tile_bits;; ++bits_) {
    across_ = ((width - 1) >> bits_) + 1;
    up_ = ((height - 1) >> bits_) + 1;
    const std::int64_t cells = std::int64_t{across_} * up_ * (sliced() ? slice_count : 1);
    words = cells * (sliced() ? stride() : stride() + 2);  // how far each tile goes lies behind
    if (!sliced() || words <= fair_words || bits_ == most_cluster_bits) break;
  }
  expect_room(words);
  lists_ =
      gl::Texture(list_width, static_cast<int>((words + list_width - 1) / list_width), Format::r32ui, "light lists");
  fresh_ = false;
}

void LightLists::expect_room(std::int64_t words) const {
  if (words <= std::int64_t{list_width} * most_rows) return;
  throw Mistake("too-many-lights", {},
                fmt::format("lists of {} lights for {} x {} pixels would take {} MiB", light_count_, width_, height_,
                            words * 4 >> 20),
                "bound them by quads, or light the pass by fewer: lights = [\"…\"]");
}

void LightLists::update(const gl::PassContext& context, const ViewCamera& view, const LightReaches& reaches,
                        const gl::Texture* depth, bool changed) {
  if (fresh_ && !changed && sliced()) return;
  fresh_ = true;
  if (sliced()) {
    // Slices grow with distance as pixels do, up to where the last light ends. The first takes what is nearest.
    const float far = std::max(reaches.farthest(), 1e-3f), first = std::max(view.camera().near, far / 500);
    const float doublings = std::log2(std::max(far / first, 1.001f));
    slices_ = {first, static_cast<float>(slice_count - 1) / doublings};
  }
  gl::State& state = context.state();
  view.bind(state);
  reaches.bind(state);
  context.clear_image(lists_);
  context.change_image(0, lists_, 0);
  if (depth) {
    const std::array<std::uint32_t, 1> textures{depth->name()}, samplers{nearest_.name()};
    use(*distances_of_tiles_, state);
    state.bind_textures(static_cast<std::uint32_t>(distances_of_tiles_->program.sampler_unit("depth")), textures,
                        samplers);
    context.compute(static_cast<std::uint32_t>(across_), static_cast<std::uint32_t>(up_));
  }
  use(lists_of_cells_, state);
  context.compute(static_cast<std::uint32_t>((light_count_ + lights_a_group - 1) / lights_a_group));
}

void LightLists::use(Step& step, gl::State& state) const {
  set(step.reader, step.program);
  step.program.set(step.picture, IntVec4(width_, height_, light_count_, across_ * up_ * stride()));
  step.program.use(state);
}

std::vector<std::string> LightLists::defines() const {
  std::vector<std::string> defines = list_defines(bounds_);
  defines.emplace_back("LIGHT_LISTS");
  return defines;
}

LightLists::Reader::Reader(const gl::Program& program, const BoundTextures& textures)
    : grid_(program.uniform<IntVec4>("light_grid")), unit_(textures.unit(program, "light_lists")) {
  if (program.interface().find_uniform("light_slices")) slices_ = program.uniform<Vec2>("light_slices");
  if (program.interface().find_uniform("light_tile_bits")) bits_ = program.uniform<int>("light_tile_bits");
}

void LightLists::set(const Reader& reader, gl::Program& program) const {
  program.set(reader.grid_, IntVec4(across_, across_ * up_, stride(), groups_));
  if (reader.slices_) program.set(*reader.slices_, slices_);
  if (reader.bits_) program.set(*reader.bits_, bits_);
}

void LightLists::put(const Reader& reader, gl::Program& program, BoundTextures& into) const {
  set(reader, program);
  if (reader.unit_) into.put(*reader.unit_, lists_.name(), nearest_.name());
}

gl::Choice LightLists::choice() const {
  const std::size_t kib =
      static_cast<std::size_t>(lists_.width()) * static_cast<std::size_t>(lists_.height()) * 4 / 1024;
  const std::string cells =
      sliced() ? fmt::format("{} x {} x {} clusters of {} pixels", across_, up_, slice_count, 1 << bits_)
               : fmt::format("{} x {} tiles", across_, up_);
  return {"lights", fmt::format("each pixel asks those that can reach its cell: {} lights in {}, {} KiB", light_count_,
                                cells, kib)};
}

}  // namespace periscena::draw
