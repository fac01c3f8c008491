#include "draw/culling/device_draws.h"

#include "draw/culling/object_draws.h"
#include "draw/shaders.h"

#include <algorithm>

namespace periscena::draw {
namespace {

constexpr std::uint32_t culling_group = 256;  // as the compute programs have it

std::uint32_t groups_of(std::size_t count) {
  return static_cast<std::uint32_t>((count + culling_group - 1) / culling_group);
}

/// Elements of storage blocks, std430; see culling.glsl and write_commands.comp.
struct EntryBlock {
  std::uint32_t node, command, occludes;

  static gl::BlockLayout layout() {
    return gl::describe_block<EntryBlock>("Entries", "entries")
        .member("node", &EntryBlock::node)
        .member("command", &EntryBlock::command)
        .member("occludes", &EntryBlock::occludes);
  }
};

struct PlannedCommandBlock {
  std::uint32_t index_count, first_index;
  std::int32_t base_vertex;
  std::uint32_t first, count;

  static gl::BlockLayout layout() {
    return gl::describe_block<PlannedCommandBlock>("PlannedCommands", "plan")
        .member("index_count", &PlannedCommandBlock::index_count)
        .member("first_index", &PlannedCommandBlock::first_index)
        .member("base_vertex", &PlannedCommandBlock::base_vertex)
        .member("first", &PlannedCommandBlock::first)
        .member("count", &PlannedCommandBlock::count);
  }
};

struct RunBlock {
  std::uint32_t first, count;
};

gl::Program program(gl::Device& device, const char* name) {
  return gl::Program(
      device,
      {.name = name, .compute = gl::ShaderText::embedded(std::string("periscena/") + name + ".comp", shaders())});
}

template <class Block>
gl::Buffer holding(const std::vector<Block>& blocks, const char* label) {
  return gl::Buffer::holding(std::as_bytes(std::span(blocks)), label);
}

constexpr float least_share = 1.0f / 4096;  // of the picture, that an object covers which is drawn to hide others

}  // namespace

DeviceDraws::DeviceDraws(gl::Device& device, std::shared_ptr<SceneBuffers> scene, std::vector<bool> chosen,
                         std::vector<batch::Traits> traits, batch::Batching batching, std::vector<bool> occludes,
                         std::vector<bool> any_side)
    : scene_(std::move(scene)),
      chosen_(std::move(chosen)),
      traits_(std::move(traits)),
      occludes_(std::move(occludes)),
      any_side_(std::move(any_side)),
      list_(batching),
      device_(device),
      cull_(program(device, "cull_objects")),
      sum_(program(device, "sum_totals")),
      list_objects_(program(device, "list_objects")),
      write_commands_(program(device, "write_commands")) {
  scene_->expect_one_block("culling on the device");
  cull_.expect_block(EntryBlock::layout());
  cull_.expect_block(BoundsBlock::layout());
  cull_.expect_block(CameraBlock::layout());
  list_objects_.expect_block(PlannedCommandBlock::layout());
  scene_->keep_bounds_on_device();
}

void DeviceDraws::hide(int width, int height, int samples, DepthOrder order) {
  pyramid_.emplace(device_, width, height, samples, order);
  if (!depth_only_) {
    depth_only_.emplace(device_, gl::ProgramDescription{
                                     "occluders", gl::ShaderText::embedded("periscena/object_depth.vert", shaders())});
  }
  cull_.set(cull_.uniform<bool>("reversed"), order == DepthOrder::reversed);
  cull_.set(cull_.uniform<Vec2>("size"), pyramid_->size());
  cull_.set(cull_.uniform<float>("least_pixels"), least_share * pyramid_->size().product());
  settled_ = 0;
}

void DeviceDraws::sort() {
  list_.sort(scene_->scene(), scene_->mirrored(), traits_, chosen_);
  list_.take_all();
  windings_ = scene_->windings();
  settled_ = 0;
  list_texture_sets(list_.commands(), texture_sets_);
  if (!list_.nodes().empty()) upload();
}

void DeviceDraws::upload() {
  const auto nodes = list_.nodes();
  std::vector<EntryBlock> entries(nodes.size());
  std::vector<PlannedCommandBlock> plan;
  for (const batch::Command& command : list_.commands()) {
    const gl::DrawCommand all = scene_->meshes().command(command);
    for (std::uint32_t i = command.first; i < command.first + command.count; ++i)
      entries[i] = {nodes[i], static_cast<std::uint32_t>(plan.size()), occludes_[nodes[i]] ? 1u : 0u};
    plan.push_back({all.index_count, all.first_index, all.base_vertex, command.first, command.count});
  }
  std::vector<RunBlock> runs;
  for (const batch::Run& run : list_.runs()) runs.push_back({run.first, run.count});
  has_occluders_ = std::any_of(entries.begin(), entries.end(), [](const EntryBlock& one) { return one.occludes != 0; });
  entries_ = holding(entries, "objects to cull");
  plan_ = holding(plan, "commands of all objects");
  runs_ = holding(runs, "runs");
  const auto words = [](std::size_t count, const char* label) {
    return gl::Buffer::writable(count * sizeof(std::uint32_t), label);
  };
  ranks_ = words(entries.size() + 1, "ranks");
  totals_ = words(groups_of(entries.size() + 1), "totals");
  seen_ = words(entries.size(), "seen last");
  nodes_ = words(entries.size(), "nodes in view");
  commands_ = gl::Buffer::writable(plan.size() * sizeof(gl::DrawCommand), "draw commands");
  drawn_ = gl::Buffer::writable(runs.size() * sizeof(Drawn), "what is drawn");
  vertices_ = scene_->meshes().vertex_array(nodes_);
}

void DeviceDraws::update(const gl::PassContext& context, const ViewCamera& view, bool view_changed) {
  if (windings_ != scene_->windings()) sort();
  if (list_.nodes().empty()) return;
  // What of them shows is only known on the device.
  scene_->need_textures(texture_sets_);
  // In the second frame in which nothing changes, what was seen in the first hides others; after that all stays.
  settled_ = scene_->changed() || view_changed ? 0 : settled_ + 1;
  if (settled_ > 2) return;
  view.bind(context.state());
  context.barrier();  // what was drawn from these buffers is past
  const bool hides = pyramid_ && has_occluders_;
  if (hides) {
    choose(context, true);
    draw_occluders(context);
  }
  cull_.set(cull_.uniform<bool>("has_pyramid"), hides);
  choose(context, false);
}

void DeviceDraws::choose(const gl::PassContext& context, bool occluders) {
  gl::State& state = context.state();
  namespace at = gl::binding;
  const auto count = static_cast<int>(list_.nodes().size());
  const std::uint32_t groups = groups_of(static_cast<std::size_t>(count) + 1);

  cull_.set(cull_.uniform<bool>("occluders"), occluders);
  cull_.set(cull_.uniform<int>("entry_count"), count);
  cull_.use(state);
  state.bind_storage_block(at::bounds_storage, scene_->bounds_on_device().name());
  state.bind_storage_block(at::entry_storage, entries_.name());
  state.bind_storage_block(at::rank_storage, ranks_.name());
  state.bind_storage_block(at::total_storage, totals_.name());
  state.bind_storage_block(at::seen_storage, seen_.name());
  if (pyramid_)
    state.bind_texture(static_cast<std::uint32_t>(cull_.sampler_unit("pyramid")), pyramid_->texture(),
                       pyramid_->sampler());
  context.compute(groups);

  sum_.set(sum_.uniform<int>("group_count"), static_cast<int>(groups));
  sum_.use(state);
  context.compute(1);

  list_objects_.set(list_objects_.uniform<int>("entry_count"), count);
  list_objects_.use(state);
  state.bind_storage_block(at::node_list_storage, nodes_.name());
  state.bind_storage_block(at::plan_storage, plan_.name());
  context.compute(groups);

  write_commands_.set(write_commands_.uniform<int>("run_count"), static_cast<int>(list_.runs().size()));
  write_commands_.use(state);
  state.bind_storage_block(at::run_storage, runs_.name());
  state.bind_storage_block(at::command_storage, commands_.name());
  state.bind_storage_block(at::drawn_storage, drawn_.name());
  context.compute(static_cast<std::uint32_t>(list_.runs().size()));
}

void DeviceDraws::draw_occluders(const gl::PassContext& context) {
  gl::State& state = context.state();
  pyramid_->begin(context);
  depth_only_->use(state);
  scene_->bind_objects(state);
  gl::PipelineState pipeline;
  pipeline.depth = {true, true, pyramid_->reversed() ? gl::Compare::greater : gl::Compare::less};
  for (const batch::Run& run : list_.runs()) {
    if (run.primitive != Primitive::triangles) continue;
    pipeline.cull = any_side_[run.state] ? gl::CullFaces::none : gl::CullFaces::back;
    pipeline.clockwise_front = run.mirrored;
    state.apply(pipeline);
    issue(context, run);
  }
  pyramid_->build(context);
}

void DeviceDraws::issue(const gl::PassContext& context, const batch::Run& run) const {
  const auto number = static_cast<std::uint32_t>(&run - list_.runs().data());
  context.draw_indirect({.vertices = *vertices_,
                         .commands = commands_,
                         .first = run.first,
                         .count = run.count,
                         .index_bytes = scene_->meshes().index_bytes(),
                         .make = static_cast<gl::Vertices>(run.primitive),
                         .drawn = &drawn_,
                         .drawn_at = number * static_cast<std::uint32_t>(sizeof(Drawn) / sizeof(std::uint32_t))});
}

void DeviceDraws::draw(const gl::PassContext& context, const batch::Run& run) const {
  issue(context, run);
}

std::vector<DeviceDraws::Drawn> DeviceDraws::drawn_now() const {
  std::vector<Drawn> drawn(list_.runs().size());
  if (!drawn.empty()) drawn_.read(0, std::as_writable_bytes(std::span(drawn)));
  return drawn;
}

std::vector<gl::Batch> DeviceDraws::batches(std::span<const MaterialHandle> materials,
                                            const StateDifference& difference) const {
  const std::vector<Drawn> drawn = drawn_now();
  return describe_batches(list_, scene_->scene(), materials, difference, [&](std::size_t run) {
    gl::Counts counts{.draw_calls = 1, .commands = drawn[run].commands, .instances = drawn[run].instances};
    if (list_.runs()[run].primitive == Primitive::triangles) counts.triangles = drawn[run].triangles;
    return counts;
  });
}

void DeviceDraws::count_on_device(gl::Counts& counts) const {
  const std::vector<Drawn> drawn = drawn_now();
  std::uint64_t instances = 0;
  for (std::size_t i = 0; i < drawn.size(); ++i) {
    counts.commands += drawn[i].commands;
    instances += drawn[i].instances;
    if (list_.runs()[i].primitive == Primitive::triangles) counts.triangles += drawn[i].triangles;
  }
  counts.instances += instances;
  counts.culled += list_.nodes().size() - instances;
}

}  // namespace periscena::draw
