#include <periscena/inspect/capture.h>

#include <algorithm>

namespace periscena::inspect {
namespace {

/// Shows the pictures of one write of a pass.
class WriteVisit {
 public:
  WriteVisit(gl::FrameRunner& runner, const Visitor& visitor, std::size_t pass, const PlannedWrite& write)
      : runner_(runner), visitor_(visitor), write_(write), target_(runner.plan().targets()[write.target]) {
    const PlannedPass& planned = runner.plan().passes()[pass];
    found_.pass = pass;
    found_.pass_name = planned.name;
    found_.target = target_.name;
    found_.slot = write.slot;
    found_.shows = write.shows;
    found_.format = target_.description.format;
    found_.holds = target_.description.meaning();
    found_.samples = target_.samples;
    found_.levels = target_.levels;
    found_.layers = target_.layers;
  }

  void show() {
    if (target_.description.origin == Origin::outside_framebuffer) return;
    const bool upper = write_.level == upper_levels;
    const int first_level = upper ? 1 : write_.level, last_level = upper ? target_.levels - 1 : write_.level;
    const bool all = write_.layer == all_layers;
    for (int level = first_level; level <= last_level; ++level) {
      for (int layer = all ? 0 : write_.layer; layer <= (all ? target_.layers - 1 : write_.layer); ++layer)
        show_part(level, layer);
    }
  }

 private:
  std::optional<Camera> camera_of(std::size_t pass, int layer) const {
    const Camera* camera = runner_.camera(pass, layer);
    return camera ? std::optional(*camera) : std::nullopt;
  }

  /// What a resolve or a copy makes of depth is seen through the lens that drew it.
  std::optional<Camera> camera_of_target(int layer) const {
    if (!info(found_.format).depth) return std::nullopt;
    const std::vector<PlannedPass>& passes = runner_.plan().passes();
    for (std::size_t i = 0; i < passes.size(); ++i) {
      const bool writes = std::any_of(passes[i].writes.begin(), passes[i].writes.end(), [&](const PlannedWrite& one) {
        return one.target == write_.target || (target_.resolved_from && one.target == *target_.resolved_from);
      });
      if (writes && runner_.camera(i)) return camera_of(i, layer);
    }
    return std::nullopt;
  }

  void show_part(int level, int layer) {
    found_.level = level;
    found_.layer = layer;
    found_.camera = camera_of(found_.pass, layer);
    if (!found_.camera) found_.camera = camera_of_target(layer);
    const FormatInfo& format = info(found_.format);
    for (const bool stencil : {false, true}) {
      if (stencil ? !format.stencil : format.stencil && !format.depth) continue;
      found_.stencil = stencil;
      found_.image = runner_.look(write_.target, {level, layer, stencil ? gl::Aspect::stencil : gl::Aspect::main});
      visitor_(found_);
    }
  }

  gl::FrameRunner& runner_;
  const Visitor& visitor_;
  const PlannedWrite& write_;
  const PlannedTarget& target_;
  CapturedTarget found_;
};

}  // namespace

void visit_targets(gl::FrameRunner& runner, const Moment& moment, const Visitor& visitor) {
  runner.run_settled(moment.seconds, moment.history_steps, moment.history_rate, [&](std::size_t pass) {
    for (const PlannedWrite& write : runner.plan().passes()[pass].writes)
      WriteVisit(runner, visitor, pass, write).show();
  });
}

}  // namespace periscena::inspect
