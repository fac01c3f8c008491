#include "passes/motion/objects_before.h"

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
                                    "objects before")) {}

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
  if (blocks_.empty() || (placed_ && seconds == seconds_)) return;
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
  seconds_ = seconds;
  placed_ = true;
}

void ObjectsBefore::bind(gl::State& state, std::uint32_t block) const {
  scene_.bind_object_block(state, gl::binding::objects_before_storage, objects_, block);
}

}  // namespace periscena::passes
