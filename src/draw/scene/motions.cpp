#include "draw/scene/motions.h"

#include "draw/shaders.h"

#include "draw/scene/blocks.h"

#include <periscena/gl/bindings.h>

#include <algorithm>
#include <cmath>

namespace periscena::draw {
namespace {

Vec4 four(const Vec3& three, float last) {
  return {three.x(), three.y(), three.z(), last};
}

/// An element of the storage block Movers, std430.
struct MoverBlock {
  Mat4 placement = Mat4::identity();
  Vec4 axis = Vec4(0, 1, 0, 0);
  Vec4 pivot = Vec4(0, 0, 0, 1);
  Vec4 range = Vec4::zero();
  Vec4 hold = Vec4::zero();
  std::uint32_t above = 0;
  std::uint32_t padding[3] = {};

  MoverBlock() = default;
  explicit MoverBlock(const Transform& world) : placement(world.matrix()) {}
  explicit MoverBlock(const Node& of) : placement(of.placement.matrix()) {
    if (!of.motion) return;
    const Motion& motion = *of.motion;
    const float kind = motion.kind == Motion::Kind::swing ? 1 : motion.kind == Motion::Kind::spin ? 2 : 3;
    axis = four(motion.axis.normalized(), kind);
    pivot = four(motion.pivot, motion.period);
    range = {motion.from, motion.to, motion.phase, 0};
    hold = {motion.hold_from, motion.hold_to, 0, 0};
  }

  static gl::BlockLayout layout() {
    gl::BlockLayout layout = gl::describe_block<MoverBlock>("Movers", "movers")
                                 .member("axis", &MoverBlock::axis)
                                 .member("pivot", &MoverBlock::pivot)
                                 .member("range", &MoverBlock::range)
                                 .member("hold", &MoverBlock::hold)
                                 .member("above", &MoverBlock::above);
    const char* const columns[] = {"placement_x", "placement_y", "placement_z", "placement_origin"};
    for (std::size_t i = 0; i < 4; ++i) layout.members.push_back({columns[i], gl::ValueType::vec4, i * sizeof(Vec4)});
    return layout;
  }
};

// As motions.vert captures them.
static_assert(sizeof(ObjectBlock) == 64 && offsetof(ObjectBlock, y) == 16 && offsetof(ObjectBlock, origin) == 48);

/// Fewer objects than this between two that move are written along with them, which is cheaper than a range more.
constexpr std::uint32_t widest_gap = 64;

}  // namespace

Motions::Motions(gl::Device& device, const Scene& scene, std::size_t most_block_bytes)
    : moved_here_(scene.moving_nodes()) {
  // Above each mover stands an earlier one.
  if (!scene.is_in_order()) {
    moved_here_.assign(moved_here_.size(), false);
    return;
  }
  choose(scene);
  const auto chosen = std::count(moved_here_.begin(), moved_here_.end(), true);
  if (static_cast<std::size_t>(chosen) < fewest || !list(scene, most_block_bytes)) {
    moved_here_.assign(moved_here_.size(), false);
    ranges_.clear();
    return;
  }
  program_.emplace(device,
                   gl::ProgramDescription{.name = "motions",
                                          .vertex = gl::ShaderText::embedded("periscena/motions.vert", shaders())});
  program_->expect_block(MoverBlock::layout());
  seconds_ = program_->uniform<Vec2>("seconds");
}

void Motions::choose(const Scene& scene) {
  const std::vector<Node>& nodes = scene.nodes();
  const std::vector<bool> moves = moved_here_;
  std::vector<bool> on_the_cpu(nodes.size());
  for (std::size_t i = 0; i < nodes.size(); ++i) on_the_cpu[i] = nodes[i].keys || nodes[i].dynamic;
  for (const Light& light : scene.lights()) {
    if (light.node.valid()) on_the_cpu[light.node.index] = true;
  }
  for (const View& view : scene.views()) {
    if (view.node.valid()) on_the_cpu[view.node.index] = true;
  }
  // Whatever moves together moves in one place: first up, then down the tree, whose parents come before their children.
  for (std::size_t i = nodes.size(); i-- > 0;) {
    if (on_the_cpu[i] && nodes[i].parent.valid()) on_the_cpu[nodes[i].parent.index] = true;
  }
  for (std::size_t i = 0; i < nodes.size(); ++i) {
    const NodeHandle parent = nodes[i].parent;
    const bool along = parent.valid() && on_the_cpu[parent.index] && moves[parent.index];
    on_the_cpu[i] = on_the_cpu[i] || along;
    if (on_the_cpu[i]) moved_here_[i] = false;
  }
}

bool Motions::list(const Scene& scene, std::size_t most_block_bytes) {
  const std::vector<Node>& nodes = scene.nodes();
  std::vector<MoverBlock> blocks;
  std::vector<std::uint32_t> mover(nodes.size(), 0);  // as MoverBlock::above
  std::vector<Transform> worlds(nodes.size(), Transform::identity());
  scene.world_transforms(0, worlds);
  for (std::uint32_t i = 0; i < nodes.size(); ++i) {
    if (!moved_here_[i]) continue;
    const std::uint32_t end = ranges_.empty() ? 0 : ranges_.back().node + ranges_.back().count;
    if (ranges_.empty() || i - end >= widest_gap) {
      ranges_.push_back({i, static_cast<std::uint32_t>(blocks.size()), 0});
    } else {
      for (std::uint32_t between = end; between < i; ++between) blocks.push_back(MoverBlock(worlds[between]));
    }
    MoverBlock block(nodes[i]);
    if (const NodeHandle parent = nodes[i].parent; parent.valid()) {
      block.above = mover[parent.index];
      // What it hangs on stands still: a part of its own placement.
      if (block.above == 0) block.placement = worlds[parent.index].matrix() * block.placement;
    }
    blocks.push_back(block);
    mover[i] = static_cast<std::uint32_t>(blocks.size());
    ranges_.back().count = static_cast<std::uint32_t>(blocks.size()) - ranges_.back().first;
  }
  const auto bytes = std::as_bytes(std::span(blocks));
  if (bytes.size() > most_block_bytes) return false;
  movers_ = gl::Buffer::holding(bytes, "movers");
  vertices_.emplace("movers");
  vertices_->set_vertices(0, movers_, sizeof(MoverBlock));
  for (std::uint32_t i = 0; i < 8; ++i) vertices_->add_floats(i, 0, 4, i * sizeof(Vec4));
  vertices_->add_integer(8, 0, offsetof(MoverBlock, above));
  return true;
}

void Motions::run(const gl::PassContext& context, const gl::Buffer& objects, double seconds) {
  if (ranges_.empty()) return;
  for (Range& range : ranges_) {
    if (range.capture) break;
    range.capture.emplace(objects, range.node * sizeof(ObjectBlock), range.count * sizeof(ObjectBlock), "motions");
  }
  gl::State& state = context.state();
  const auto whole = static_cast<float>(seconds);
  program_->set(seconds_, Vec2(whole, static_cast<float>(seconds - static_cast<double>(whole))));
  program_->use(state);
  state.bind_storage_block(gl::binding::mover_storage, movers_.name());
  for (const Range& range : ranges_)
    context.capture(*range.capture, *vertices_, static_cast<int>(range.first), static_cast<int>(range.count));
}

namespace {

/// The ball around what a motion makes of a ball.
Sphere swept(const Motion& motion, const Sphere& ball) {
  const Vec3 axis = motion.axis.normalized();
  const float middle = (motion.from + motion.to) / 2, half = std::abs(motion.to - motion.from) / 2;
  if (motion.kind == Motion::Kind::slide) return {ball.center + middle * axis, ball.radius + half};
  const Vec3 foot = motion.pivot + axis * axis.dot(ball.center - motion.pivot);
  const float arm = (ball.center - foot).norm();
  if (motion.kind == Motion::Kind::spin || half >= std::numbers::pi_v<float> / 2) return {foot, ball.radius + arm};
  // An arc of less than half a turn lies in the ball over its chord.
  const Vec3 mid = Transform::rotate(axis, middle, {motion.pivot}).apply_to_point(ball.center);
  return {foot + (mid - foot) * std::cos(half), ball.radius + arm * std::sin(half)};
}

}  // namespace

Sphere swept_bounds(const Scene& scene, std::uint32_t node, const Sphere& mesh) {
  Sphere ball = mesh;
  for (NodeHandle at{node}; at.valid(); at = scene.nodes()[at.index].parent) {
    const Node& one = scene.nodes()[at.index];
    if (one.motion) ball = swept(*one.motion, ball);
    ball = ball.transformed(one.placement);
  }
  return ball;
}

}  // namespace periscena::draw
