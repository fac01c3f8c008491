#pragma once

#include <periscena/graph/device_limits.h>
#include <periscena/graph/frame_plan.h>
#include <periscena/graph/pass.h>
#include <periscena/graph/target.h>

namespace periscena {

/// What a frame is made of, said before anything runs.
///
///     FrameGraph frame;
///     auto color = frame.target("scene.color", {.format = Format::rgba16f, .samples = 4});
///     frame.add(passes::forward({…, .color = color}));
///     frame.add(passes::fullscreen({…, .reads = {{"scene", color}}, .writes = {{"color", frame.output()}}}));
///     auto plan = frame.plan(1280, 720);
///
/// Order: a pass that reads a target runs after the last pass that was declared before it and writes the target; when
/// all its writers were declared later, after the last of them. So a target that is written once may be declared in any
/// order, and a chain that writes, reads and writes again runs as it was declared. Writers of one target keep their
/// order. Each mip level and each layer counts for itself.
class FrameGraph {
 public:
  FrameGraph();
  FrameGraph(const FrameGraph&);
  FrameGraph(FrameGraph&&) noexcept;
  FrameGraph& operator=(const FrameGraph&);
  FrameGraph& operator=(FrameGraph&&) noexcept;
  ~FrameGraph();

  /// Names are texts without spaces at the ends, best in the form "group.what". Mistakes are kept for plan() to tell.
  TargetHandle target(std::string name, const TargetDescription& description, Place place = Place::here());

  /// The picture: "output", rgba8_srgb, the frame's size. What ends up here is what the frame is for.
  TargetHandle output() const { return {0}; }

  /// What the output is cleared to where no pass draws; black unless set.
  /// @param linear  red, green, blue, alpha, in linear light
  void set_background(const std::array<float, 4>& linear);

  /// Where the picture goes, when it is no texture of ours: see gl::Outside.
  void set_output_origin(Origin origin);

  /// Are passes made one where the picture stays the same? Those over the whole picture that follow each other, and of
  /// which each asks the pixel alone that it writes: what lies between them is never written. And a sky with the pass
  /// that draws surfaces over it: what they hide is never computed. They are unless this says no, to look at each.
  void set_fusing(bool fuses) { fuses_ = fuses; }

  /// What a pass does inside of a window, it does by the stencil of the depth that the window's pass writes: that is a
  /// write of its own, too.
  void add(Pass pass, Place place = Place::here());

  /// Keeps a target, and the passes it needs, although no pass leads from it to the output: to be read back after the
  /// frame.
  void keep(TargetUse target);

  /// Called by runners at the start of each frame, with its time: the place to set what is a function of time, such as
  /// values of the scene, and options of passes (passes::Live). What it throws, FrameRunner::run throws.
  void before_each_frame(SetTime set_time);

  /// Checks everything, then orders the passes, drops those that nothing needs, gives sizes and storage to all targets,
  /// and puts resolves where multisampled targets are read as ordinary ones. All mistakes are told at once.
  /// @param width, height  of the frame, pixels, at least 1
  /// Where options of passes have changed (passes::Live), they are taken as they are now.
  PlanResult plan(int width, int height, const DeviceLimits& limits = {}) const;

  /// The options of a pass, to change while runners draw the frame. They are shared with copies of the frame, and with
  /// all its plans. @throws Mistake "unknown-pass", "no-options" for a pass of your own work
  std::shared_ptr<LiveOptions> options(std::string_view pass, Place place = Place::here()) const;

  std::vector<std::string> target_names() const;
  const std::vector<std::shared_ptr<const Pass>>& passes() const { return passes_; }  ///< in the order of declaration

 private:
  friend class Planner;
  friend class PlanBuilder;
  friend class SampleCounts;

  struct Target {
    std::string name;
    TargetDescription description;
    Place place;
  };

  std::uint32_t target_of(const TargetUse& use) const;
  void put_inside(Pass& pass) const;
  void open_window(Pass& pass);
  std::optional<FrameGraph> with_latest() const;
  PlanResult plan_as_declared(int width, int height, const DeviceLimits& limits) const;
  std::optional<FrameGraph> fused(const FramePlan& plan, std::vector<RemovedPass>& gone) const;

  std::vector<Target> targets_;
  std::vector<std::shared_ptr<const Pass>> passes_;
  std::vector<TargetUse> kept_;
  std::vector<SetTime> set_time_;
  bool fuses_ = true;
  int openings_ = 0;
};

}  // namespace periscena
