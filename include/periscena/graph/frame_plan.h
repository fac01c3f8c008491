#pragma once

#include <periscena/graph/pass.h>

#include <functional>
#include <memory>
#include <optional>

namespace periscena {

/// What happens to a target's earlier contents when a pass begins.
enum class LoadAction { clear, keep, discard };

/// A span of passes by index, both ends included.
struct Lifetime {
  std::uint32_t first = 0, last = 0;
  bool overlaps(const Lifetime& other) const { return first <= other.last && other.first <= last; }
};

/// Something that is allocated: a texture or a renderbuffer. Targets that never live at once may lie in the same one.
struct PlannedStorage {
  Format format = Format::rgba8;
  TargetShape shape = TargetShape::flat;
  int width = 1, height = 1, samples = 1, levels = 1, layers = 1;
  bool renderbuffer = false;  ///< nothing samples it
  Origin origin = Origin::ours;
  std::size_t bytes = 0;

  bool operator==(const PlannedStorage&) const = default;
};

struct PlannedTarget {
  std::string name;
  TargetDescription description;  ///< as declared
  int width = 0, height = 0;
  int samples = 1, levels = 1, layers = 1;     ///< as planned
  std::size_t bytes = 0;                       ///< all levels, layers, samples and frames of history
  std::uint32_t storage = 0;                   ///< index into FramePlan::storages(); the first of `frames`
  std::uint32_t frames = 1;                    ///< 1, and one more for each frame of history: as many storages in a row
  Lifetime lifetime;                           ///< of its contents
  bool lasts = false;                          ///< does it hold its contents after the frame?
  std::optional<std::uint32_t> resolved_from;  ///< the multisampled target whose ordinary form this is
  std::optional<std::uint32_t> resolved_into;  ///< this multisampled target's ordinary form, when something reads it
};

struct PlannedRead {
  std::string slot;
  std::uint32_t target = 0;  ///< index into FramePlan::targets()
  int level = all_levels, layer = all_layers;
  int history = 0;
  bool as_array = false;
};

struct PlannedWrite {
  std::string slot;
  std::uint32_t target = 0;
  int level = 0, layer = all_layers;
  LoadAction load = LoadAction::clear;
  Shows shows = Shows::what_it_holds;
};

struct PlannedPass {
  std::shared_ptr<const Pass> declared;  ///< null for a resolve that was put in
  std::string name;
  std::string kind;
  int width = 0, height = 0, samples = 1;
  std::vector<PlannedRead> reads;
  std::vector<PlannedWrite> writes;
  Operation operation;                  ///< never with an automatic rule
  std::vector<std::uint32_t> finishes;  ///< targets whose contents nobody needs after this pass

  bool draws() const { return std::holds_alternative<std::monostate>(operation); }
  Place place() const { return declared ? declared->place : Place(); }
};

/// Sets what is a function of a frame's time.
using SetTime = std::function<void(double seconds)>;

struct RemovedPass {
  std::string name;
  std::string reason;
};

/// A frame that was proof-read: passes in the order in which they run, targets with their sizes and where they lie.
/// Only FrameGraph::plan makes one, and only of a frame without errors.
class FramePlan {
 public:
  FramePlan(const FramePlan&);
  FramePlan(FramePlan&&) noexcept;
  FramePlan& operator=(const FramePlan&);
  FramePlan& operator=(FramePlan&&) noexcept;
  ~FramePlan();

  int width() const { return width_; }
  int height() const { return height_; }
  const std::vector<PlannedPass>& passes() const { return passes_; }
  const std::vector<PlannedTarget>& targets() const { return targets_; }  ///< those that the passes use
  const std::vector<PlannedStorage>& storages() const { return storages_; }
  const std::vector<RemovedPass>& removed() const { return removed_; }

  std::size_t bytes() const;           ///< that are allocated
  std::size_t unshared_bytes() const;  ///< that would be, if each target had a storage of its own
  /// For each class of targets that OpenGL lets share a storage (equal sizes and formats that may view each other): the
  /// most bytes alive at once. No plan of these passes in this order can take less.
  std::size_t least_bytes() const;

  /// Index of the target that the frame's picture ends up in.
  std::optional<std::uint32_t> output() const { return find_target("output"); }
  std::optional<std::uint32_t> find_target(std::string_view name) const;
  std::vector<std::string> target_names() const;
  bool has_history() const;

  /// For runners: calls what FrameGraph::before_each_frame was given, in that order.
  void set_time(double seconds) const {
    for (const SetTime& set : set_time_) set(seconds);
  }

  /// Lets a pass do what its options say now, for runners: it has the same targets. @param pass  index
  void update(std::size_t pass, std::shared_ptr<const Pass> declared) { passes_[pass].declared = std::move(declared); }

 private:
  friend class PlanBuilder;
  FramePlan();

  int width_ = 0, height_ = 0;
  std::vector<PlannedPass> passes_;
  std::vector<PlannedTarget> targets_;
  std::vector<PlannedStorage> storages_;
  std::vector<RemovedPass> removed_;
  std::vector<SetTime> set_time_;
};

/// A plan, or why there is none. Warnings may come with a plan.
class PlanResult {
 public:
  PlanResult(std::optional<FramePlan> plan, Diagnostics diagnostics);
  PlanResult(const PlanResult&);
  PlanResult(PlanResult&&) noexcept;
  PlanResult& operator=(const PlanResult&);
  PlanResult& operator=(PlanResult&&) noexcept;
  ~PlanResult();

  bool ok() const { return plan_.has_value(); }
  const Diagnostics& diagnostics() const& { return diagnostics_; }
  Diagnostics diagnostics() && {
    return std::move(diagnostics_);
  }  ///< by value, so that `for (… : frame.plan(…).diagnostics())` is sound

  /// @throws Mistake with all diagnostics when there is none
  const FramePlan& value() const&;
  FramePlan value() &&;

 private:
  std::optional<FramePlan> plan_;
  Diagnostics diagnostics_;
};

/// May these two lie in one storage when they never live at once?
bool may_share(const PlannedStorage& a, const PlannedStorage& b);

}  // namespace periscena
