#include <periscena/graph/frame_plan.h>

#include <periscena/base/error.h>

#include <algorithm>

namespace periscena {

std::size_t FramePlan::bytes() const {
  std::size_t sum = 0;
  for (const PlannedStorage& storage : storages_) sum += storage.bytes;
  return sum;
}

std::size_t FramePlan::unshared_bytes() const {
  std::size_t sum = 0;
  for (const PlannedTarget& target : targets_) sum += target.bytes;
  return sum;
}

FramePlan::FramePlan() = default;
FramePlan::FramePlan(const FramePlan&) = default;
FramePlan::FramePlan(FramePlan&&) noexcept = default;
FramePlan& FramePlan::operator=(const FramePlan&) = default;
FramePlan& FramePlan::operator=(FramePlan&&) noexcept = default;
FramePlan::~FramePlan() = default;

PlanResult::PlanResult(std::optional<FramePlan> plan, Diagnostics diagnostics)
    : plan_(std::move(plan)), diagnostics_(std::move(diagnostics)) {}
PlanResult::PlanResult(const PlanResult&) = default;
PlanResult::PlanResult(PlanResult&&) noexcept = default;
PlanResult& PlanResult::operator=(const PlanResult&) = default;
PlanResult& PlanResult::operator=(PlanResult&&) noexcept = default;
PlanResult::~PlanResult() = default;

std::optional<std::uint32_t> FramePlan::find_target(std::string_view name) const {
  const auto found =
      std::find_if(targets_.begin(), targets_.end(), [&](const auto& target) { return target.name == name; });
  if (found == targets_.end()) return std::nullopt;
  return static_cast<std::uint32_t>(found - targets_.begin());
}

std::vector<std::string> FramePlan::target_names() const {
  std::vector<std::string> names;
  for (const PlannedTarget& target : targets_) names.push_back(target.name);
  return names;
}

bool FramePlan::has_history() const {
  return std::any_of(targets_.begin(), targets_.end(), [](const PlannedTarget& target) { return target.frames > 1; });
}

const FramePlan& PlanResult::value() const& {
  if (!plan_) throw Mistake(diagnostics_);
  return *plan_;
}

FramePlan PlanResult::value() && {
  if (!plan_) throw Mistake(diagnostics_);
  return *std::move(plan_);
}

}  // namespace periscena
