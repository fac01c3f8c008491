#include <periscena/graph/attachments.h>

#include <fmt/format.h>

#include <algorithm>

namespace periscena {
namespace {

/// One run of check_attachments.
class AttachmentCheck {
 public:
  AttachmentCheck(std::span<const Attachment> attachments, const std::string& who, const DeviceLimits& limits)
      : attachments_(attachments), who_(who), limits_(limits) {}

  std::vector<AttachmentFault> run() {
    if (attachments_.empty()) {
      refuse(true, "writes-nothing", {}, fmt::format("{} writes no target", who_),
             "give it a target to draw into: writes = { color = \"output\" }");
    }
    for (std::size_t i = 0; i < attachments_.size(); ++i) {
      check_kind(attachments_[i]);
      check_part(attachments_[i]);
      check_against_earlier(i);
      if (i > 0) check_against_first(attachments_[i]);
    }
    check_counts();
    return std::move(faults_);
  }

 private:
  void refuse(bool incomplete, const char* slug, const Place& place, std::string cause, std::string mend) {
    faults_.push_back({incomplete, {Severity::error, slug, place, std::move(cause), std::move(mend)}});
  }

  static bool layered(const Attachment& a) { return a.shape != TargetShape::flat && a.layer == all_layers; }
  static int width(const Attachment& a) { return std::max(1, a.width >> std::clamp(a.level, 0, 30)); }
  static int height(const Attachment& a) { return std::max(1, a.height >> std::clamp(a.level, 0, 30)); }
  static bool is_depth(const Attachment& a) { return a.slot == "depth"; }
  static bool is_stencil(const Attachment& a) { return a.slot == "stencil"; }

  void check_kind(const Attachment& a) {
    const FormatInfo& format = info(a.format);
    const bool fits = is_depth(a) ? format.depth : is_stencil(a) ? format.stencil && !format.depth : format.color();
    if (fits) return;
    // A stencil attachment of a depth-stencil image is fine for OpenGL; we ask to attach both, as drivers store both.
    const bool incomplete = !(is_stencil(a) && format.stencil);
    refuse(incomplete, "wrong-attachment", a.place,
           fmt::format("{} writes \"{}\", whose format is {}, as {}", who_, a.target, format.name,
                       is_depth(a)     ? "its depth"
                       : is_stencil(a) ? "its stencil"
                                       : "a colour"),
           format.depth ? fmt::format("write it as depth: writes = {{ depth = \"{}\" }}", a.target)
           : format.stencil && is_depth(a)
               ? fmt::format("write it as stencil: writes = {{ stencil = \"{}\" }}", a.target)
           : is_depth(a)   ? "depth needs a depth format, such as depth32f"
           : is_stencil(a) ? "stencil needs stencil8, or a depth-stencil format written as depth"
                           : fmt::format("write it as stencil: writes = {{ stencil = \"{}\" }}", a.target));
  }

  void check_part(const Attachment& a) {
    if (a.level < 0 || a.level >= a.levels) {
      refuse(
          true, "no-such-level", a.place,
          fmt::format("{} writes level {} of \"{}\", which has {}", who_, a.level, a.target, a.levels),
          a.levels == 1 ? "give the target levels, or write level 0" : fmt::format("levels are 0 to {}", a.levels - 1));
    }
    if (a.layer != all_layers && (a.layer < 0 || a.layer >= a.layers)) {
      const char* what = a.shape == TargetShape::cube ? "face" : "layer";
      refuse(true, "no-such-layer", a.place,
             fmt::format("{} writes {} {} of \"{}\", which has {}", who_, what, a.layer, a.target, a.layers),
             fmt::format("{}s are 0 to {}", what, a.layers - 1));
    }
    const int largest = std::max(a.width, a.height);
    if (limits_.asked && largest > limits_.largest_size) {
      refuse(true, "over-device-limit", a.place,
             fmt::format("{} writes \"{}\" of {} x {} pixels, over the {} of this device", who_, a.target, a.width,
                         a.height, limits_.largest_size),
             "make it smaller, or render in tiles");
    }
  }

  void check_against_earlier(std::size_t i) {
    const Attachment& a = attachments_[i];
    for (std::size_t k = 0; k < i; ++k) {
      const Attachment& other = attachments_[k];
      const bool same_image = other.target == a.target && other.level == a.level &&
                              (other.layer == a.layer || other.layer == all_layers || a.layer == all_layers);
      if (!same_image) continue;
      refuse(false, "written-twice", a.place,
             fmt::format("{} writes \"{}\" twice, as {} and as {}", who_, a.target, other.slot, a.slot),
             "write another target with one of them");
      return;
    }
  }

  void check_against_first(const Attachment& a) {
    const Attachment& first = attachments_.front();
    if (width(a) != width(first) || height(a) != height(first)) {
      refuse(false, "size-mismatch", a.place,
             fmt::format("{} writes \"{}\" of {} x {} and \"{}\" of {} x {} pixels", who_, first.target, width(first),
                         height(first), a.target, width(a), height(a)),
             "all targets that a pass writes must have one size; give both the same size or scale");
    }
    if (a.samples != first.samples) {
      refuse(true, "sample-mismatch", a.place,
             fmt::format("{} writes \"{}\" of {} and \"{}\" of {} sample{}", who_, first.target, first.samples,
                         a.target, a.samples, a.samples == 1 ? "" : "s"),
             "all targets that a pass writes have one count: say it once, or draw ids in a second pass at one sample");
    }
    const bool kinds_differ = layered(a) && layered(first) && a.shape != first.shape;
    if (layered(a) != layered(first) || kinds_differ) {
      refuse(true, "layer-mismatch", a.place,
             fmt::format("{} writes {} of \"{}\" and {} of \"{}\"", who_, part_text(first), first.target, part_text(a),
                         a.target),
             kinds_differ ? "use arrays for all, or cubes for all" : "write one layer of each, or all layers of each");
    } else if (layered(a) && a.layers != first.layers) {
      refuse(false, "layer-mismatch", a.place,
             fmt::format("{} writes \"{}\" of {} and \"{}\" of {} layers", who_, first.target, first.layers, a.target,
                         a.layers),
             "give both as many layers; OpenGL would draw into the fewer alone");
    }
  }

  static const char* part_text(const Attachment& a) {
    if (!layered(a)) return a.shape == TargetShape::flat ? "the one picture" : "one layer";
    return a.shape == TargetShape::cube ? "all faces" : "all layers";
  }

  void check_counts() {
    const auto count = [&](auto is) { return std::count_if(attachments_.begin(), attachments_.end(), is); };
    const auto depths = count(is_depth), stencils = count(is_stencil);
    const auto colors = static_cast<std::ptrdiff_t>(attachments_.size()) - depths - stencils;
    if (depths > 1 || stencils > 1) {
      refuse(false, "two-depths", {},
             fmt::format("{} writes {} {} targets", who_, std::max(depths, stencils), depths > 1 ? "depth" : "stencil"),
             "a pass has one");
    }
    if (depths == 1 && stencils == 1) {
      // OpenGL leaves it to the driver (FRAMEBUFFER_UNSUPPORTED), and few take it.
      refuse(true, "split-depth-stencil", {}, fmt::format("{} writes depth and stencil as two targets", who_),
             "drivers store both together: use one target of depth24_stencil8 or depth32f_stencil8, written as depth");
    }
    if (colors > limits_.color_attachments) {
      refuse(true, "over-device-limit", {},
             fmt::format("{} writes {} colours, over the limit of {}", who_, colors, limits_.color_attachments),
             "split it into two passes");
    }
  }

  std::span<const Attachment> attachments_;
  const std::string& who_;
  const DeviceLimits& limits_;
  std::vector<AttachmentFault> faults_;
};

}  // namespace

std::vector<AttachmentFault> check_attachments(std::span<const Attachment> attachments, const std::string& who,
                                               const DeviceLimits& limits) {
  return AttachmentCheck(attachments, who, limits).run();
}

}  // namespace periscena
