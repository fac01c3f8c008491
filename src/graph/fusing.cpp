#include <periscena/graph/frame_graph.h>

#include <fmt/format.h>

#include <algorithm>
#include <unordered_map>
#include <unordered_set>

namespace periscena {
namespace {

bool is_plain(const Write& write) {
  return is_color_slot(write.slot) && write.level == 0 && write.layer == all_layers;
}

bool is_plain(const Read& read) {
  return read.history == 0 && read.level == all_levels && read.layer == all_layers &&
         read.samples != SampleReading::each;
}

}  // namespace

namespace {

/// Programs of more steps take drivers minutes to compile, and gain little.
constexpr std::size_t most_fused = 16;

}  // namespace

std::uint32_t FrameGraph::target_of(const TargetUse& use) const {
  if (use.handle.valid()) return use.handle.index;
  const auto found = std::find_if(targets_.begin(), targets_.end(),
                                  [&](const Target& target) { return target.name == use.reference.name; });
  return found == targets_.end() ? TargetHandle::none : static_cast<std::uint32_t>(found - targets_.begin());
}

/// Two passes become one when the second is declared right after the first, and nobody else sees what lies between
/// them.
std::optional<FrameGraph> FrameGraph::fused(const FramePlan& plan, std::vector<RemovedPass>& gone) const {
  if (std::none_of(passes_.begin(), passes_.end(), [](const auto& pass) { return static_cast<bool>(pass->fuse); }))
    return std::nullopt;
  std::unordered_map<std::string_view, std::uint32_t> numbers;
  for (std::uint32_t i = 0; i < targets_.size(); ++i) numbers.emplace(targets_[i].name, i);
  const auto number_of = [&](const TargetUse& use) {
    return use.handle.valid() ? use.handle.index : numbers.at(use.reference.name);  // the plan has found them all
  };
  std::vector<std::size_t> uses(targets_.size());  // reads and writes
  for (const auto& pass : passes_) {
    for (const Read& read : pass->reads) ++uses[number_of(read.target)];
    for (const Write& write : pass->writes) ++uses[number_of(write.target)];
  }
  for (const TargetUse& kept : kept_) ++uses[number_of(kept)];
  std::unordered_set<std::string_view> running;
  for (const PlannedPass& planned : plan.passes()) running.insert(planned.name);
  const auto runs = [&](const Pass& pass) { return running.contains(pass.name); };
  const auto goes_between = [&](std::uint32_t target, const Pass& second) {
    const auto planned = plan.find_target(targets_[target].name);
    const auto after = plan.find_target(targets_[number_of(second.writes[0].target)].name);
    if (target == 0 || uses[target] != 2 || !planned || !after) return false;
    const PlannedTarget &from = plan.targets()[*planned], &to = plan.targets()[*after];
    // What draws not everywhere leaves some of what the target was cleared to.
    if (from.description.clear_color != TargetDescription().clear_color) return false;
    return from.description.origin == Origin::ours && from.samples == 1 && from.levels == 1 && from.width == to.width &&
           from.height == to.height && to.samples == 1;
  };
  std::vector<std::size_t> became;  // of those that are gone, which of the fewer passes
  std::size_t steps = 1;            // that the last of the fewer passes is made of
  FrameGraph less = *this;
  less.passes_.clear();
  for (const auto& pass : passes_) {
    const std::shared_ptr<const Pass> before = less.passes_.empty() ? nullptr : less.passes_.back();
    std::optional<Pass> both;
    if (before && steps < most_fused && pass->fuse && pass->every == before->every && runs(*pass) &&
        before->writes.size() == 1 && is_plain(before->writes[0]) && pass->writes.size() == 1 &&
        is_plain(pass->writes[0]) && !pass->reads.empty() && is_plain(pass->reads[0])) {
      const std::uint32_t between = number_of(before->writes[0].target);
      if (number_of(pass->reads[0].target) == between && goes_between(between, *pass))
        both = pass->fuse(*before, *pass);
    }
    if (!both) {
      less.passes_.push_back(pass);
      steps = 1;
      continue;
    }
    ++steps;
    gone.push_back({pass->name, {}});
    became.push_back(less.passes_.size() - 1);
    both->place = pass->place;
    both->every = pass->every;
    less.passes_.back() = std::make_shared<const Pass>(std::move(*both));
  }
  if (gone.empty()) return std::nullopt;
  for (std::size_t i = 0; i < gone.size(); ++i)
    gone[i].reason = fmt::format("it is a part of \"{}\"", less.passes_[became[i]]->name);
  return less;
}

}  // namespace periscena
