#include "passes/motion/objects_before.h"

#include "base/same_bytes.h"

#include <periscena/gl/bindings.h>

#include <algorithm>

namespace periscena::passes {

ObjectsBefore::ObjectsBefore(gl::Device& device, const draw::SceneBuffers& scene)
    : scene_(scene),
      motions_(device, scene.scene(), scene.most_block_bytes()),
      worlds_(scene.scene().nodes().size(), Transform::identity()),
      blocks_(worlds_.size()),
      moving_(draw::moved_by_cpu(scene.scene(), motions_)),
      objects_(gl::Buffer::writable(std::max<std::size_t>(1, blocks_.size()) * sizeof(draw::ObjectBlock),
                                    "objects before")) {
  std::vector<bool> is_dynamic(blocks_.size());
  for (const std::uint32_t i : scene.scene().parents_first()) {
    const Node& node = scene.scene().nodes()[i];
    is_dynamic[i] = node.dynamic || (node.parent.valid() && is_dynamic[node.parent.index]);
    if (is_dynamic[i]) dynamic_.push_back(i);
  }
  std::sort(dynamic_.begin(), dynamic_.end());  // they are sent in ranges
}

gl::BlockLayout ObjectsBefore::layout() {
  gl::BlockLayout layout = draw::ObjectBlock::layout();
  layout.name = "ObjectsBefore";
  layout.array = "objects_before";
  return layout;
}

void ObjectsBefore::place(std::uint32_t node, double seconds) {
  worlds_[node] = scene_.scene().world_transform(node, seconds, worlds_);
  blocks_[node].place(worlds_[node]);
}

void ObjectsBefore::update(const gl::PassContext& context, double seconds) {
  if (blocks_.empty()) return;
  if (!placed_ || seconds != seconds_) place_timed(context, seconds);
  seconds_ = seconds;
  placed_ = true;
  place_kept(context);
}

void ObjectsBefore::place_timed(const gl::PassContext& context, double seconds) {
  if (!placed_) {
    for (std::uint32_t i = 0; i < blocks_.size(); ++i) place(i, motions_.moved_here()[i] ? 0 : seconds);
    context.write(objects_, 0, std::as_bytes(std::span(blocks_)));
  }
  motions_.run(context, objects_, seconds);
  for (const draw::NodeRange range : moving_) {
    for (std::uint32_t i = range.first; i < range.first + range.count; ++i) place(i, seconds);
    context.write(objects_, range.first * sizeof(draw::ObjectBlock),
                  std::as_bytes(std::span(blocks_).subspan(range.first, range.count)));
  }
}

void ObjectsBefore::place_kept(const gl::PassContext& context) {
  const bool begins = kept_.empty() || context.time().begins;
  kept_.resize(dynamic_.size(), Transform::identity());
  std::uint32_t first = 0, end = 0;
  const auto write = [&] {
    if (end > first) {
      context.write(objects_, first * sizeof(draw::ObjectBlock),
                    std::as_bytes(std::span(blocks_).subspan(first, end - first)));
    }
    first = end = 0;
  };
  constexpr std::uint32_t widest_gap = 64;  // what did not change is sent along, rather than in another range
  for (std::size_t k = 0; k < dynamic_.size(); ++k) {
    const std::uint32_t node = dynamic_[k];
    const Transform now = scene_.worlds()[node], before = begins ? now : kept_[k];
    kept_[k] = now;
    draw::ObjectBlock block = blocks_[node];
    block.place(before);
    worlds_[node] = before;
    if (same_bytes(block, blocks_[node])) continue;
    blocks_[node] = block;
    if (end > 0 && node - end > widest_gap) write();
    if (end == 0) first = node;
    end = node + 1;
  }
  write();
}

void ObjectsBefore::bind(gl::State& state, std::uint32_t block) const {
  scene_.bind_object_block(state, gl::binding::objects_before_storage, objects_, block);
}

}  // namespace periscena::passes
