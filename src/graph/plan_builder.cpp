#include "graph/plan_builder.h"

#include <fmt/format.h>

#include <algorithm>

namespace periscena {
namespace {

std::string size_text(std::size_t bytes) {
  const double mebibytes = static_cast<double>(bytes) / (1 << 20);
  return mebibytes < 1024 ? fmt::format("{:.1f} MiB", mebibytes) : fmt::format("{:.1f} GiB", mebibytes / 1024);
}

const char* attachment_slot(Format format) {
  const FormatInfo& known = info(format);
  return known.depth ? "depth" : known.stencil ? "stencil" : "color";
}

/// Does the driver bring these samples together, or a program of ours?
bool resolved_by_blit(const PlannedTarget& target) {
  return target.description.resolve_rule() == ResolveRule::average ||
         (info(target.description.format).stencil && !info(target.description.format).depth);
}

}  // namespace

FramePlan PlanBuilder::build() {
  plan_.width_ = planner_.width_;
  plan_.height_ = planner_.height_;
  plan_.set_time_ = planner_.graph_.set_time_;
  plan_.removed_ = std::move(planner_.gone_);
  planned_target_.assign(planner_.targets_.size(), none);
  written_.assign(planner_.first_writer_.size(), false);
  plan_.passes_.reserve(planner_.order_.size());
  plan_.targets_.reserve(planner_.targets_.size());
  for (const std::uint32_t p : planner_.order_) {
    if (planner_.needed_[p]) {
      add_pass(p);
    } else {
      plan_.removed_.push_back({planner_.pass(p).name, "nothing that reaches the output reads what it writes"});
    }
  }
  keep_results();
  find_lifetimes();
  find_finishes();
  give_storage();
  check_memory();
  return std::move(plan_);
}

std::uint32_t PlanBuilder::planned(std::uint32_t declared) {
  std::uint32_t& index = planned_target_[declared];
  if (index != none) return index;
  const ResolvedTarget& known = planner_.targets_[declared];
  PlannedTarget target;
  target.name = planner_.name(declared);
  target.description = planner_.description(declared);
  target.description.shape = known.shape;
  target.width = known.width;
  target.height = known.height;
  target.samples = known.samples;
  target.levels = known.levels;
  target.layers = known.layers;
  target.lasts = target.description.origin != Origin::ours;
  index = static_cast<std::uint32_t>(plan_.targets_.size());
  plan_.targets_.push_back(std::move(target));
  resolve_is_current_.push_back(false);
  sampled_.push_back(false);
  return index;
}

/// The target itself, or the one that its samples are resolved into.
std::uint32_t PlanBuilder::ordinary(std::uint32_t target) {
  if (plan_.targets_[target].samples == 1) return target;
  if (plan_.targets_[target].resolved_into) return *plan_.targets_[target].resolved_into;
  PlannedTarget twin = plan_.targets_[target];
  const auto index = static_cast<std::uint32_t>(plan_.targets_.size());
  twin.name += " (resolved)";
  twin.samples = 1;
  twin.frames = 1;
  twin.lasts = false;
  twin.description.origin = Origin::ours;
  twin.resolved_from = target;
  plan_.targets_[target].resolved_into = index;
  plan_.targets_.push_back(std::move(twin));
  resolve_is_current_.push_back(false);
  sampled_.push_back(false);
  return index;
}

void PlanBuilder::resolve(std::uint32_t target) {
  const std::uint32_t twin = ordinary(target);
  if (resolve_is_current_[target]) return;
  resolve_is_current_[target] = true;
  const PlannedTarget& from = plan_.targets_[target];
  PlannedPass pass;
  pass.name = fmt::format("{}: {} samples to one", from.name, from.samples);
  pass.kind = "resolve";
  pass.width = from.width;
  pass.height = from.height;
  pass.operation = ResolveOperation{from.description.resolve_rule()};
  pass.reads.push_back({"samples", target});
  pass.writes.push_back({attachment_slot(from.description.format), twin, 0, all_layers, LoadAction::discard});
  if (!resolved_by_blit(from)) sampled_[target] = true;
  plan_.passes_.push_back(std::move(pass));
}

void PlanBuilder::add_pass(std::uint32_t declared) {
  PlannedPass pass;
  pass.declared = planner_.graph_.passes_[declared];
  pass.name = pass.declared->name;
  pass.kind = pass.declared->kind;
  pass.operation = pass.declared->operation;
  add_reads(declared, pass);
  add_writes(declared, pass);
  plan_.passes_.push_back(std::move(pass));
}

void PlanBuilder::add_reads(std::uint32_t declared, PlannedPass& into) {
  const auto targets = planner_.reads_of(declared);
  into.reads.reserve(targets.size());
  for (std::size_t i = 0; i < targets.size(); ++i) {
    const Read& read = into.declared->reads[i];
    std::uint32_t target = planned(targets[i]);
    if (read.samples == SampleReading::resolved && plan_.targets_[target].samples > 1) {
      // What the last frame left was resolved at its end; see keep_results.
      if (read.history == 0) resolve(target);
      target = ordinary(target);
    }
    PlannedTarget& known = plan_.targets_[target];
    if (read.history > 0) {
      known.frames = std::max(known.frames, static_cast<std::uint32_t>(read.history) + 1);
      known.lasts = true;
    }
    sampled_[target] = sampled_[target] || needs_texture(into, target);
    into.reads.push_back(
        {read.slot, target, read.level, read.layer, read.history, read.texture == TextureReading::as_array});
  }
}

/// The driver copies from renderbuffers, too. Settles the rule of a resolve on the way.
bool PlanBuilder::needs_texture(PlannedPass& pass, std::uint32_t read) const {
  if (auto* resolve = std::get_if<ResolveOperation>(&pass.operation)) {
    const TargetDescription& target = plan_.targets_[read].description;
    if (resolve->rule == ResolveRule::automatic) resolve->rule = target.resolve_rule();
    return resolve->rule != ResolveRule::average;
  }
  return !std::holds_alternative<CopyOperation>(pass.operation);
}

LoadAction PlanBuilder::load_of(std::uint32_t declared, const Write& write) {
  bool first = true;
  planner_.for_parts(declared, write.level, write.layer, [&](std::uint32_t part) {
    first = first && !written_[part];
    written_[part] = true;
  });
  if (write.covering == Covering::replaces) return LoadAction::discard;
  if (write.covering == Covering::rests) return LoadAction::keep;
  const bool made_outside = planner_.description(declared).origin != Origin::ours;
  return first && !made_outside ? LoadAction::clear : LoadAction::keep;
}

void PlanBuilder::add_writes(std::uint32_t declared, PlannedPass& into) {
  const auto targets = planner_.writes_of(declared);
  into.writes.reserve(targets.size());
  for (std::size_t i = 0; i < targets.size(); ++i) {
    const Write& write = into.declared->writes[i];
    const std::uint32_t target = planned(targets[i]);
    const PlannedTarget& known = plan_.targets_[target];
    const int level = std::max(0, write.level);
    into.writes.push_back({write.slot, target, write.level, write.layer, load_of(targets[i], write), write.shows});
    into.width = std::max(1, known.width >> level);
    into.height = std::max(1, known.height >> level);
    into.samples = known.samples;
    resolve_is_current_[target] = false;
  }
}

/// What is looked at after the frame, or in the next, lasts; multisampled, as its ordinary form.
void PlanBuilder::keep_results() {
  std::vector<std::uint32_t> lasting;
  if (planned_target_[0] != none) lasting.push_back(planned_target_[0]);
  for (const std::uint32_t target : planner_.kept_) lasting.push_back(planned_target_[target]);
  for (const std::uint32_t target : lasting) {
    plan_.targets_[ordinary(target)].lasts = true;
    sampled_[ordinary(target)] = true;
  }
  // What a pass may leave as it drew it before, or does not draw in each frame, lasts with all its samples.
  for (const PlannedPass& pass : plan_.passes_) {
    for (std::size_t i = 0; i < pass.writes.size() && pass.declared; ++i) {
      if (pass.declared->writes[i].covering == Covering::rests || pass.declared->every > 1)
        plan_.targets_[pass.writes[i].target].lasts = true;
    }
  }
  for (std::uint32_t target = 0; target < plan_.targets_.size(); ++target) {
    const auto twin = plan_.targets_[target].resolved_into;
    if (twin && plan_.targets_[*twin].lasts) resolve(target);
  }
}

void PlanBuilder::find_lifetimes() {
  std::vector<bool> seen(plan_.targets_.size(), false);
  const auto use = [&](std::uint32_t target, std::uint32_t pass) {
    Lifetime& life = plan_.targets_[target].lifetime;
    if (!seen[target]) life.first = pass;
    seen[target] = true;
    life.last = pass;
  };
  for (std::uint32_t p = 0; p < plan_.passes_.size(); ++p) {
    for (const PlannedRead& read : plan_.passes_[p].reads) use(read.target, p);
    for (const PlannedWrite& write : plan_.passes_[p].writes) use(write.target, p);
  }
  const auto end = static_cast<std::uint32_t>(plan_.passes_.size()) - 1;
  for (PlannedTarget& target : plan_.targets_) {
    if (target.lasts) target.lifetime.last = end;
    if (target.frames > 1 || target.description.origin != Origin::ours) target.lifetime.first = 0;
  }
}

void PlanBuilder::find_finishes() {
  for (std::uint32_t target = 0; target < plan_.targets_.size(); ++target) {
    const PlannedTarget& known = plan_.targets_[target];
    if (!known.lasts) plan_.passes_[known.lifetime.last].finishes.push_back(target);
  }
}

/// What nothing samples may lie in a renderbuffer.
bool PlanBuilder::is_sampled(std::uint32_t target) const {
  const PlannedTarget& known = plan_.targets_[target];
  // The driver's own resolve averages floats and takes some sample of the others: what has another rule must be sampled
  // when somebody looks at it.
  const FormatInfo& format = info(known.description.format);
  const ResolveRule rule = known.description.resolve_rule();
  const bool own_rule = rule == ResolveRule::least || rule == ResolveRule::greatest ||
                        (format.color() && !format.integer() && rule != ResolveRule::average);
  return sampled_[target] || known.lasts || (known.samples > 1 && own_rule) || known.levels > 1 ||
         known.description.shape != TargetShape::flat;
}

void PlanBuilder::give_storage() {
  std::vector<PlannedStorage> wanted;
  wanted.reserve(plan_.targets_.size());
  bool any_renderbuffer = false;
  for (std::uint32_t i = 0; i < plan_.targets_.size(); ++i) {
    PlannedTarget& target = plan_.targets_[i];
    PlannedStorage storage{target.description.format,
                           target.description.shape,
                           target.width,
                           target.height,
                           target.samples,
                           target.levels,
                           target.layers,
                           !is_sampled(i),
                           target.description.origin,
                           0};
    storage.bytes = storage_bytes(storage);
    any_renderbuffer = any_renderbuffer || storage.renderbuffer;
    target.bytes = storage.bytes * target.frames;
    wanted.push_back(storage);
  }
  if (any_renderbuffer) prefer_shared_textures(plan_.targets_, wanted);
  plan_.storages_ = share_storages(plan_.targets_, wanted);
}

void PlanBuilder::check_memory() {
  const std::size_t sum = plan_.bytes();
  if (sum <= planner_.limits_.target_bytes) return;
  std::vector<const PlannedTarget*> largest;
  for (const PlannedTarget& target : plan_.targets_) largest.push_back(&target);
  std::sort(largest.begin(), largest.end(), [](auto* a, auto* b) { return a->bytes > b->bytes; });
  largest.resize(std::min<std::size_t>(3, largest.size()));
  std::string list;
  for (const PlannedTarget* target : largest)
    list += fmt::format("{}\"{}\" takes {}", list.empty() ? "" : ", ", target->name, size_text(target->bytes));
  const std::string message = fmt::format("the targets of the frame take {}, over the {} of {}; {}", size_text(sum),
                                          size_text(planner_.limits_.target_bytes),
                                          planner_.limits_.asked ? "this device" : "most devices", list);
  if (planner_.limits_.asked) {
    planner_.diagnostics_.error("over-memory", {}, message, "make them smaller, or of a format with fewer bytes");
  } else {
    planner_.diagnostics_.warning("over-memory", {}, message, "make them smaller, or of a format with fewer bytes");
  }
}

}  // namespace periscena
