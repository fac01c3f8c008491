#include "draw/culling/object_draws.h"

#include <periscena/base/names.h>

#include <fmt/format.h>

#include <algorithm>

namespace periscena::draw {
namespace {

const char* plural(Primitive primitive) {
  return primitive == Primitive::triangles ? "triangles" : primitive == Primitive::lines ? "lines" : "points";
}

}  // namespace

void list_texture_sets(std::span<const batch::Command> commands, std::vector<std::uint32_t>& sets) {
  sets.clear();
  for (const batch::Command& command : commands) {
    if (sets.empty() || sets.back() != command.textures) sets.push_back(command.textures);
  }
  std::sort(sets.begin(), sets.end());
  sets.erase(std::unique(sets.begin(), sets.end()), sets.end());
}

ObjectDraws::ObjectDraws(std::shared_ptr<SceneBuffers> scene, std::vector<bool> chosen,
                         std::vector<batch::Traits> traits, batch::Batching batching, std::size_t views)
    : scene_(std::move(scene)), chosen_(std::move(chosen)), traits_(std::move(traits)), list_(batching, views) {
  const std::size_t nodes = std::max<std::size_t>(1, scene_->scene().nodes().size());
  draws_.reserve(nodes * views);
  texture_sets_.reserve(nodes);
  if (scene_->worlds().size() > scene_->objects_a_block()) in_block_.reserve(nodes * views);
  listed_runs_.reserve(nodes * views);
  views_.reserve(views);
  listed_.reserve(nodes * views);
  counts_.reserve(nodes * views);
  nodes_ = gl::Buffer::writable(nodes * views * sizeof(std::uint32_t), "nodes in view");
  commands_ = gl::Buffer::writable(nodes * views * sizeof(gl::DrawCommand), "draw commands");
  vertices_ = scene_->meshes().vertex_array(nodes_);
}

void ObjectDraws::see(std::span<const Frustum> views, const Vec3& eye) {
  views_.assign(views.begin(), views.end());
  eye_ = eye;
  stale_ = true;
}

void ObjectDraws::update(const gl::PassContext& context) {
  if (scene_->moved() || stale_) {
    const std::uint32_t a_block = scene_->objects_a_block();
    if (windings_ != scene_->windings()) list_.sort(scene_->scene(), scene_->mirrored(), traits_, chosen_, a_block);
    const bool sorted = windings_ != scene_->windings();
    windings_ = scene_->windings();
    list_.cull(scene_->bounds(), views_, eye_);
    const auto nodes = list_.nodes();
    const auto runs = list_.runs();
    // Of the same nodes in the same order, commands are the same, unless they were sorted anew.
    if (sorted || !std::equal(nodes.begin(), nodes.end(), listed_.begin(), listed_.end()) ||
        !std::equal(runs.begin(), runs.end(), listed_runs_.begin(), listed_runs_.end())) {
      listed_.assign(nodes.begin(), nodes.end());
      listed_runs_.assign(runs.begin(), runs.end());
      draws_.clear();
      counts_.clear();
      for (const batch::Command& command : list_.commands()) draws_.push_back(scene_->meshes().command(command));
      for (const batch::Run& run : runs) counts_.push_back(counts_of(run));
      list_texture_sets(list_.commands(), texture_sets_);
      if (!listed_.empty()) {
        write_nodes(context);
        context.write(commands_, 0, std::as_bytes(std::span(draws_)));
      }
    }
  }
  stale_ = false;
  scene_->need_textures(texture_sets_);
  context.counts().culled += list_.culled();
}

void ObjectDraws::write_nodes(const gl::PassContext& context) {
  const std::uint32_t a_block = scene_->objects_a_block();
  if (scene_->worlds().size() <= a_block) return context.write(nodes_, 0, std::as_bytes(std::span(listed_)));
  in_block_.clear();
  for (const std::uint32_t node : listed_) in_block_.push_back(node % a_block);
  context.write(nodes_, 0, std::as_bytes(std::span(in_block_)));
}

gl::Counts ObjectDraws::counts_of(const batch::Run& run) const {
  gl::Counts counts{.draw_calls = 1, .commands = run.count};
  for (const gl::DrawCommand& draw : std::span(draws_).subspan(run.first, run.count)) {
    counts.instances += draw.instances;
    if (run.primitive == Primitive::triangles) counts.triangles += draw.index_count / 3 * std::uint64_t{draw.instances};
  }
  return counts;
}

void ObjectDraws::draw(const gl::PassContext& context, const batch::Run& run) const {
  const gl::Counts& counts = counts_[static_cast<std::size_t>(&run - list_.runs().data())];
  context.draw_indirect({*vertices_, commands_, run.first, run.count, scene_->meshes().index_bytes(),
                         static_cast<gl::Vertices>(run.primitive), counts.instances, counts.triangles});
}

std::vector<gl::Batch> ObjectDraws::batches(std::span<const MaterialHandle> materials,
                                            const StateDifference& difference) const {
  return describe_batches(list_, scene_->scene(), materials, difference,
                          [this](std::size_t run) { return counts_[run]; });
}

namespace {

std::string materials_of(const batch::DrawList& list, const batch::Run& run, const Scene& scene,
                         std::span<const MaterialHandle> materials) {
  std::vector<std::string> names;
  for (const batch::Command& command : list.commands().subspan(run.first, run.count)) {
    for (const std::uint32_t node : list.nodes().subspan(command.first, command.count)) {
      const std::string name = materials[node].valid() ? scene.materials()[materials[node].index].name : "";
      if (std::find(names.begin(), names.end(), name) == names.end()) names.push_back(name);
    }
  }
  return quoted_list(names, 3);
}

}  // namespace

std::vector<gl::Batch> describe_batches(const batch::DrawList& list, const Scene& scene,
                                        std::span<const MaterialHandle> materials, const StateDifference& difference,
                                        const std::function<gl::Counts(std::size_t)>& counts) {
  std::vector<gl::Batch> batches;
  const auto runs = list.runs();
  for (std::size_t i = 0; i < runs.size(); ++i) {
    gl::Batch& batch = batches.emplace_back(gl::Batch{materials_of(list, runs[i], scene, materials), counts(i), {}});
    if (i == 0) continue;
    const batch::Run &before = runs[i - 1], &run = runs[i];
    batch.why_apart =
        run.state != before.state                 ? difference(before.state, run.state)
        : run.object_block != before.object_block ? "a storage block of this device holds no more objects"
        : run.primitive != before.primitive
            ? fmt::format("{} instead of {}", plural(run.primitive), plural(before.primitive))
        : run.mirrored != before.mirrored ? "mirrored: front faces wind the other way"
        : run.view != before.view
            ? "another of the light's views"
            : fmt::format("batching = \"{}\"", choices_of(list.batching())[static_cast<std::size_t>(list.batching())]);
    if (run.blended) batch.why_apart += "; blended, so in the order of depth";
  }
  return batches;
}

}  // namespace periscena::draw
