#pragma once

#include <periscena/base/diagnostic.h>
#include <periscena/base/handle.h>
#include <periscena/base/value.h>
#include <periscena/image/format.h>

#include <array>
#include <functional>
#include <memory>
#include <optional>
#include <string>
#include <vector>

namespace periscena {

namespace gl {
class PassSetup;
class PassWork;
}  // namespace gl

using TargetHandle = Handle<struct TargetKind>;

/// Pixels, or a share of the frame that is rounded up and at least 1.
struct TargetSize {
  int width = 0, height = 0;  ///< pixels; 0 means a share of the frame
  float scale = 1;            ///< share of the frame's width and height, 0 < scale <= 16

  static TargetSize pixels(int width, int height) { return {width, height, 1}; }
  static TargetSize of_frame(float scale) { return {0, 0, scale}; }
  bool follows_frame() const { return width == 0 && height == 0; }
  bool operator==(const TargetSize&) const = default;
};

/// What a target is: something that passes draw into and later passes may read.
struct TargetDescription {
  Format format = Format::rgba16f;
  TargetSize size = {};
  std::array<float, 4> clear_color{0, 0, 0, 0};  ///< linear; at the first write of a frame
  float clear_depth = 0;                         ///< 0..1; the far end is 0 in reversed depth, 1 in ordinary depth
};

/// A target, by the handle that target() gave or by its name.
struct TargetUse {
  TargetHandle handle;
  Reference reference;  ///< its place is shown when something is wrong with this use

  TargetUse() = default;
  TargetUse(TargetHandle target, Place place = Place::here()) : handle(target), reference("", std::move(place)) {}
  TargetUse(Reference name) : reference(std::move(name)) {}
  TargetUse(const char* name, std::source_location location = std::source_location::current())
      : reference(name, location) {}

  bool empty() const { return !handle.valid() && reference.empty(); }
};

/// A target that a pass samples.
struct Read {
  std::string slot = {};  ///< what the pass calls it: the sampler's name in its GLSL
  TargetUse target = {};
  Place place = {};  ///< of the slot's name, when it has one of its own
};

/// A target that a pass draws into.
struct Write {
  std::string slot = {};  ///< "depth" for the depth attachment, else the fragment program's output
  TargetUse target = {};
  bool overwrites = false;  ///< does the pass set every pixel, whatever was there? then nothing is cleared or kept
  Place place = {};         ///< of the slot's name, when it has one of its own
};

/// Makes what a pass does, once for each runner. Called with the runner's device current.
using WorkFactory = std::function<std::unique_ptr<gl::PassWork>(gl::PassSetup&)>;

/// One step of a frame, as declared.
struct Pass {
  std::string name;
  std::string kind = {};  ///< for people: "forward", "fullscreen"
  std::vector<Read> reads = {};
  std::vector<Write> writes = {};
  WorkFactory work = {};
  Place place = {};           ///< set by FrameGraph::add when it is not known
  Diagnostics problems = {};  ///< what its maker found wrong; plan() tells them with the rest
};

/// What a device can hold. Default-made: what every OpenGL 4.5 implementation guarantees (specification, table 23.53
/// ff.).
struct DeviceLimits {
  int largest_size = 16384;
  int color_attachments = 8;
  bool asked = false;  ///< from a real device? then exceeding one is an error, else a warning
};

/// What happens to a target's earlier contents when a pass begins.
enum class LoadAction { clear, keep, discard };

struct PlannedTarget {
  std::string name;
  TargetDescription description;
  int width = 0, height = 0;
  std::size_t bytes = 0;
};

struct PlannedRead {
  std::string slot;
  std::uint32_t target = 0;  ///< index into FramePlan::targets()
};

struct PlannedWrite {
  std::string slot;
  std::uint32_t target = 0;
  LoadAction load = LoadAction::clear;
};

struct PlannedPass {
  std::string name;
  std::string kind;
  int width = 0, height = 0;
  std::vector<PlannedRead> reads;
  std::vector<PlannedWrite> writes;
  WorkFactory work;
  Place place;
};

struct RemovedPass {
  std::string name;
  std::string reason;
};

/// A frame that was proof-read: passes in the order in which they run, targets with their sizes. Only FrameGraph::plan
/// makes one, and only of a frame without errors.
class FramePlan {
 public:
  int width() const { return width_; }
  int height() const { return height_; }
  const std::vector<PlannedPass>& passes() const { return passes_; }
  const std::vector<PlannedTarget>& targets() const { return targets_; }  ///< those that the passes use
  const std::vector<RemovedPass>& removed() const { return removed_; }
  std::size_t bytes() const;  ///< of all targets

  /// Index of the target that the frame's picture ends up in.
  std::optional<std::uint32_t> output() const { return find_target("output"); }
  std::optional<std::uint32_t> find_target(std::string_view name) const;
  std::vector<std::string> target_names() const;

 private:
  friend class Planner;
  FramePlan() = default;

  int width_ = 0, height_ = 0;
  std::vector<PlannedPass> passes_;
  std::vector<PlannedTarget> targets_;
  std::vector<RemovedPass> removed_;
};

/// A plan, or why there is none. Warnings may come with a plan.
class PlanResult {
 public:
  PlanResult(std::optional<FramePlan> plan, Diagnostics diagnostics)
      : plan_(std::move(plan)), diagnostics_(std::move(diagnostics)) {}

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

/// What a frame is made of, said before anything runs.
///
///     FrameGraph frame;
///     auto color = frame.target("scene.color", {.format = Format::rgba16f});
///     frame.add(passes::forward({…, .color = color}));
///     frame.add(passes::fullscreen({…, .reads = {{"scene", color}}, .writes = {{"color", frame.output()}}}));
///     auto plan = frame.plan(1280, 720);
///
/// Order: a pass that reads a target runs after the last pass that was declared before it and writes the target; when
/// all its writers were declared later, after the last of them. So a target that is written once may be declared in any
/// order, and a chain that writes, reads and writes again runs as it was declared. Writers of one target keep their
/// order.
class FrameGraph {
 public:
  FrameGraph();

  /// Names are texts without spaces at the ends, best in the form "group.what". Mistakes are kept for plan() to tell.
  TargetHandle target(std::string name, const TargetDescription& description, Place place = Place::here());

  /// The picture: "output", rgba8_srgb, the frame's size. What ends up here is what the frame is for.
  TargetHandle output() const { return {0}; }

  /// What the output is cleared to where no pass draws; black unless set.
  /// @param linear  red, green, blue, alpha, in linear light
  void set_background(const std::array<float, 4>& linear) { targets_[0].description.clear_color = linear; }

  void add(Pass pass, Place place = Place::here());

  /// Keeps a target, and the passes it needs, although no pass leads from it to the output: to be read back.
  void keep(TargetUse target);

  /// Checks everything, then orders the passes, drops those that nothing needs, and gives sizes to all targets. All
  /// mistakes are told at once.
  /// @param width, height  of the frame, pixels, at least 1
  PlanResult plan(int width, int height, const DeviceLimits& limits = {}) const;

  std::vector<std::string> target_names() const;

 private:
  friend class Planner;

  struct Target {
    std::string name;
    TargetDescription description;
    Place place;
  };

  std::vector<Target> targets_;
  std::vector<Pass> passes_;
  std::vector<TargetUse> kept_;
};

}  // namespace periscena
