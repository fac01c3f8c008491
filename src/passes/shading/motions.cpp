#include "passes/shading/motions.h"

#include "passes/pass_kind.h"
#include "passes/scene_buffers.h"

#include <periscena/gl/bindings.h>

#include <algorithm>

namespace periscena::passes {
namespace {

Vec4 four(const Vec3& three, float last) {
  return {three.x(), three.y(), three.z(), last};
}

/// An element of the storage block Movers, std430.
struct MoverBlock {
  Mat4 placement = Mat4::Identity();
  Vec4 axis = Vec4(0, 1, 0, 0);
  Vec4 pivot = Vec4(0, 0, 0, 1);
  Vec4 range = Vec4::Zero();
  Vec4 hold = Vec4::Zero();
  std::int32_t parent = -1;
  std::uint32_t node = 0;
  std::uint32_t padding[2] = {};

  MoverBlock() = default;
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
    return gl::describe_block<MoverBlock>("Movers", "movers")
        .member("placement", &MoverBlock::placement)
        .member("axis", &MoverBlock::axis)
        .member("pivot", &MoverBlock::pivot)
        .member("range", &MoverBlock::range)
        .member("hold", &MoverBlock::hold)
        .member("parent", &MoverBlock::parent)
        .member("node", &MoverBlock::node);
  }
};

constexpr std::uint32_t mover_group = 64;  // as motions.comp has it

}  // namespace

Motions::Motions(const Scene& scene, bool in_one_block) : moved_here_(scene.moving_nodes()) {
  choose(scene);
  const auto chosen = std::count(moved_here_.begin(), moved_here_.end(), true);
  if (static_cast<std::size_t>(chosen) < fewest || !in_one_block) {
    moved_here_.assign(moved_here_.size(), false);
    return;
  }
  list(scene);
  program_.emplace(gl::ProgramDescription{
      .name = "motions", .compute = gl::ShaderText::embedded("periscena/motions.comp", pass_shaders())});
  program_->expect_block(MoverBlock::layout());
  program_->expect_block(ObjectBlock::layout());
  program_->set(program_->uniform<int>("mover_count"), static_cast<int>(count_));
  seconds_ = program_->uniform<Vec2>("seconds");
}

void Motions::choose(const Scene& scene) {
  const std::vector<Node>& nodes = scene.nodes();
  const std::vector<bool> moves = moved_here_;
  std::vector<bool> on_the_cpu(nodes.size());
  for (std::size_t i = 0; i < nodes.size(); ++i) on_the_cpu[i] = nodes[i].keys != nullptr;
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

void Motions::list(const Scene& scene) {
  const std::vector<Node>& nodes = scene.nodes();
  std::vector<MoverBlock> blocks;
  std::vector<std::int32_t> number(nodes.size(), -1);
  std::vector<Transform> worlds(nodes.size(), Transform::identity());
  scene.world_transforms(0, worlds);
  for (std::uint32_t i = 0; i < nodes.size(); ++i) {
    if (!moved_here_[i]) continue;
    MoverBlock block(nodes[i]);
    block.node = i;
    if (const NodeHandle parent = nodes[i].parent; parent.valid()) {
      block.parent = number[parent.index];
      // What it hangs on stands still: a part of its own placement.
      if (block.parent < 0) block.placement = worlds[parent.index].matrix() * block.placement;
    }
    number[i] = static_cast<std::int32_t>(blocks.size());
    blocks.push_back(block);
  }
  count_ = static_cast<std::uint32_t>(blocks.size());
  movers_ = gl::Buffer::holding(std::as_bytes(std::span(blocks)), "movers");
}

void Motions::run(const gl::PassContext& context, const gl::Buffer& objects, double seconds) {
  if (count_ == 0) return;
  gl::State& state = context.state();
  const auto whole = static_cast<float>(seconds);
  program_->set(seconds_, Vec2(whole, static_cast<float>(seconds - static_cast<double>(whole))));
  state.use_program(program_->name());
  state.bind_storage_block(gl::binding::object_storage, objects.name());
  state.bind_storage_block(gl::binding::mover_storage, movers_.name());
  context.compute((count_ + mover_group - 1) / mover_group);
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

}  // namespace periscena::passes
