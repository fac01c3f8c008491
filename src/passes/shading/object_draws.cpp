#include "passes/shading/object_draws.h"

#include <algorithm>

namespace periscena::passes {
namespace {

std::vector<std::string> names_of(const std::vector<Reference>& references) {
  std::vector<std::string> names;
  for (const Reference& reference : references) names.push_back(reference.name);
  return names;
}

}  // namespace

std::vector<bool> chosen_objects(const Scene& scene, const ObjectChoice& choice) {
  std::vector<bool> chosen = scene.chosen({names_of(choice.tags), names_of(choice.without_tags)});
  if (const Variant* variant = scene.find_variant(choice.variant.name)) {
    const std::vector<bool> in_variant = scene.chosen(variant->objects);
    for (std::size_t i = 0; i < chosen.size(); ++i) chosen[i] = chosen[i] && in_variant[i];
  }
  return chosen;
}

ObjectDraws::ObjectDraws(std::shared_ptr<SceneBuffers> scene, std::vector<bool> chosen,
                         std::vector<batch::Traits> traits)
    : scene_(std::move(scene)), chosen_(std::move(chosen)), traits_(std::move(traits)) {
  const std::size_t nodes = scene_->scene().nodes().size();
  draws_.reserve(nodes);
  listed_.reserve(nodes);
  if (nodes > 0) commands_ = gl::Buffer::writable(nodes * sizeof(gl::DrawCommand), "draw commands");
}

void ObjectDraws::see(const Frustum& frustum, const Vec3& eye) {
  frustum_ = frustum;
  eye_ = eye;
  stale_ = true;
}

void ObjectDraws::update() {
  if (scene_->moved() || stale_) list_nodes();
  stale_ = false;
}

void ObjectDraws::list_nodes() {
  if (windings_ != scene_->windings()) list_.sort(scene_->scene(), scene_->mirrored(), traits_, chosen_);
  windings_ = scene_->windings();
  list_.cull(scene_->bounds(), frustum_, eye_);
  const auto visible = list_.nodes();
  // A node's command never changes, so equal nodes are equal commands.
  if (std::equal(visible.begin(), visible.end(), listed_.begin(), listed_.end())) return;
  listed_.assign(visible.begin(), visible.end());
  draws_.clear();
  for (const std::uint32_t node : listed_) draws_.push_back(scene_->command(node));
  if (!draws_.empty()) commands_.write(0, std::as_bytes(std::span(draws_)));
}

void ObjectDraws::draw(const gl::PassContext& context, const batch::Run& run) const {
  context.draw_indirect(scene_->vertices(), commands_, run.first, run.count, scene_->index_bytes(),
                        static_cast<gl::Vertices>(run.primitive));
}

}  // namespace periscena::passes
