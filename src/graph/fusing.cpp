#include <periscena/graph/frame_graph.h>

#include <fmt/format.h>

#include <algorithm>
#include <unordered_map>
#include <unordered_set>

namespace periscena {
namespace {

using Passes = std::vector<std::shared_ptr<const Pass>>;

bool is_plain(const Write& write) {
  return is_color_slot(write.slot) && write.level == 0 && write.layer == all_layers;
}

bool is_plain(const Read& read) {
  return read.history == 0 && read.level == all_levels && read.layer == all_layers &&
         read.samples != SampleReading::each;
}

bool writes_one_plain(const Pass& pass) {
  return pass.writes.size() == 1 && is_plain(pass.writes[0]);
}

/// Programs of more steps take drivers minutes to compile, and gain little.
constexpr std::size_t most_fused = 16;

/// Which passes of a frame that was planned can become one.
class Neighbours {
 public:
  Neighbours(const FramePlan& plan, const std::vector<std::string>& targets, const Passes& passes,
             const std::vector<TargetUse>& kept)
      : plan_(plan), targets_(targets), uses_(targets.size()), last_use_(targets.size(), none) {
    for (std::uint32_t i = 0; i < targets.size(); ++i) numbers_.emplace(targets[i], i);
    for (const auto& pass : passes) {
      for (const Read& read : pass->reads) ++uses_[number_of(read.target)];
      for (const Write& write : pass->writes) ++uses_[number_of(write.target)];
    }
    for (const TargetUse& one : kept) ++uses_[number_of(one)];
    for (const PlannedPass& planned : plan.passes()) running_.emplace(planned.name, &planned);
  }

  /// Does the second filter what the first wrote, declared right before it, and nobody else sees what lies between?
  bool can_filter(const Pass& first, const Pass& second) const {
    if (!second.fuse || second.every != first.every || !running_.contains(second.name)) return false;
    if (!writes_one_plain(first) || !writes_one_plain(second)) return false;
    if (second.reads.empty() || !is_plain(second.reads[0])) return false;
    const std::uint32_t between = number_of(first.writes[0].target);
    return number_of(second.reads[0].target) == between && goes_between(between, second);
  }

  /// Of the passes before this one, that which fills what it draws surfaces over, with nobody who looks at that in
  /// between. @return its index
  std::optional<std::size_t> filler(const Passes& before, const Pass& pass) const {
    if (!pass.take_behind || pass.within != 0 || pass.opening != 0 || !begins_with_far_depth(pass)) return std::nullopt;
    const auto color = std::find_if(pass.writes.begin(), pass.writes.end(),
                                    [](const Write& write) { return is_color_slot(write.slot); });
    if (color == pass.writes.end() || !is_plain(*color)) return std::nullopt;
    const std::size_t last = last_use_[number_of(color->target)];
    if (last >= before.size() || !before[last]) return std::nullopt;
    const Pass& one = *before[last];
    const bool fills = one.behind && one.reads.empty() && writes_one_plain(one) && one.writes[0].slot == color->slot &&
                       one.every == pass.every && one.within == 0 && running_.contains(one.name);
    return fills ? std::optional(last) : std::nullopt;
  }

  /// Who uses the pass' targets last. @param index  its own
  void note_uses(const Pass& pass, std::size_t index) {
    for (const Read& read : pass.reads) last_use_[number_of(read.target)] = index;
    for (const Write& write : pass.writes) last_use_[number_of(write.target)] = index;
  }

 private:
  static constexpr std::size_t none = ~std::size_t{0};

  std::uint32_t number_of(const TargetUse& use) const {
    return use.handle.valid() ? use.handle.index : numbers_.at(use.reference.name);  // the plan has found them all
  }

  bool goes_between(std::uint32_t target, const Pass& second) const {
    const auto planned = plan_.find_target(targets_[target]);
    const auto after = plan_.find_target(targets_[number_of(second.writes[0].target)]);
    if (target == 0 || uses_[target] != 2 || !planned || !after) return false;
    const PlannedTarget &from = plan_.targets()[*planned], &to = plan_.targets()[*after];
    // What draws not everywhere leaves some of what the target was cleared to.
    if (from.description.clear_color != TargetDescription().clear_color) return false;
    return from.description.origin == Origin::ours && from.samples == 1 && from.levels == 1 && from.width == to.width &&
           from.height == to.height && to.samples == 1;
  }

  /// Is the depth that the pass writes cleared to the far end, where other things can be drawn behind all of it?
  bool begins_with_far_depth(const Pass& pass) const {
    const auto planned = running_.find(pass.name);
    if (planned == running_.end() || !pass.camera) return false;
    const float far_end = pass.camera->depth == DepthOrder::reversed ? 0.0f : 1.0f;
    const auto& writes = planned->second->writes;
    return std::any_of(writes.begin(), writes.end(), [&](const PlannedWrite& write) {
      return write.slot == "depth" && write.load == LoadAction::clear &&
             plan_.targets()[write.target].description.clear_depth == far_end;
    });
  }

  const FramePlan& plan_;
  const std::vector<std::string>& targets_;
  std::unordered_map<std::string_view, std::uint32_t> numbers_;
  std::vector<std::size_t> uses_;      ///< reads and writes, by target
  std::vector<std::size_t> last_use_;  ///< by target: the number of a pass
  std::unordered_map<std::string_view, const PlannedPass*> running_;
};

/// The second filters what the first makes.
std::optional<Pass> filtered(std::span<const std::shared_ptr<const Pass>> parts) {
  const Pass& own = *parts[1];
  std::optional<Pass> both = own.fuse ? own.fuse(*parts[0], own) : std::nullopt;
  if (!both) return std::nullopt;
  both->place = own.place;
  both->every = own.every;
  return both;
}

/// The second draws surfaces over what the first fills.
std::optional<Pass> drawn_over(std::span<const std::shared_ptr<const Pass>> parts) {
  const Pass& own = *parts[1];
  Pass over = own;
  if (!own.take_behind || !over.take_behind(over, *parts[0])) return std::nullopt;
  over.name = parts[0]->name + " + " + own.name;
  return over;
}

using Join = std::optional<Pass> (*)(std::span<const std::shared_ptr<const Pass>>);

/// One pass of two, which is made again when the options of one change.
std::optional<Pass> joined(Passes parts, Join join) {
  std::optional<Pass> whole = join(parts);
  if (!whole) return std::nullopt;
  whole->live = nullptr;
  whole->joined = {std::move(parts), [join](std::span<const std::shared_ptr<const Pass>> now) {
                     return joined(Passes(now.begin(), now.end()), join);
                   }};
  return whole;
}

}  // namespace

std::uint32_t FrameGraph::target_of(const TargetUse& use) const {
  if (use.handle.valid()) return use.handle.index;
  const auto found = std::find_if(targets_.begin(), targets_.end(),
                                  [&](const Target& target) { return target.name == use.reference.name; });
  return found == targets_.end() ? TargetHandle::none : static_cast<std::uint32_t>(found - targets_.begin());
}

/// Two passes become one when the second filters what the first wrote, or draws surfaces over it.
std::optional<FrameGraph> FrameGraph::fused(const FramePlan& plan, std::vector<RemovedPass>& gone) const {
  if (std::none_of(passes_.begin(), passes_.end(), [](const auto& pass) { return pass->fuse || pass->take_behind; }))
    return std::nullopt;
  const std::vector<std::string> names = target_names();
  Neighbours neighbours(plan, names, passes_, kept_);
  std::vector<std::size_t> became;  // of those that are gone, which of the fewer passes
  std::size_t steps = 1;            // that the last of the fewer passes is made of
  FrameGraph less = *this;
  Passes& fewer = less.passes_;
  fewer.clear();
  const auto becomes_part = [&](const std::string& name, Pass whole) {
    gone.push_back({name, {}});
    became.push_back(fewer.size() - 1);
    fewer.back() = std::make_shared<const Pass>(std::move(whole));
  };
  for (const auto& pass : passes_) {
    std::optional<Pass> both;
    if (!fewer.empty() && steps < most_fused && neighbours.can_filter(*fewer.back(), *pass))
      both = joined({fewer.back(), pass}, filtered);
    if (both) {
      ++steps;
      becomes_part(pass->name, std::move(*both));
      neighbours.note_uses(*pass, fewer.size() - 1);
      continue;
    }
    const std::optional<std::size_t> filler = neighbours.filler(fewer, *pass);
    neighbours.note_uses(*pass, fewer.size());
    fewer.push_back(pass);
    steps = 1;
    if (!filler) continue;
    const std::shared_ptr<const Pass> before = fewer[*filler];
    std::optional<Pass> over = joined({before, pass}, drawn_over);
    if (!over) continue;
    becomes_part(before->name, std::move(*over));
    fewer[*filler] = nullptr;
  }
  if (gone.empty()) return std::nullopt;
  for (std::size_t i = 0; i < gone.size(); ++i)
    gone[i].reason = fmt::format("it is a part of \"{}\"", fewer[became[i]]->name);
  std::erase(fewer, nullptr);
  return less;
}

}  // namespace periscena
