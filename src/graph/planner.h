#pragma once

#include <periscena/graph/attachments.h>
#include <periscena/graph/frame_graph.h>

#include <span>
#include <unordered_map>

namespace periscena {

/// What was found out about a target before passes are looked at.
struct ResolvedTarget {
  int width = 1, height = 1;
  int levels = 1, layers = 1;  ///< a cube has 6 layers
  int samples = 1;
  TargetShape shape = TargetShape::flat;
  std::uint32_t first_part = 0;  ///< each level of each layer is a part; those of a level lie together

  std::uint32_t part_count() const { return static_cast<std::uint32_t>(levels * layers); }
};

/// One run of FrameGraph::plan up to the point where everything is known: resolve names, check, find dependencies,
/// order, drop. PlanBuilder makes the plan of it.
class Planner {
 public:
  Planner(const FrameGraph& graph, int width, int height, const DeviceLimits& limits)
      : graph_(graph), width_(width), height_(height), limits_(limits) {}

  /// @param gone  passes that are one with others, for the plan to tell
  PlanResult plan(std::vector<RemovedPass> gone = {});

 private:
  friend class PlanBuilder;
  friend class SampleCounts;

  static constexpr std::uint32_t none = TargetHandle::none;

  struct Edge {
    std::uint32_t from, to;
    bool carries;  ///< does `to` use what `from` made? else only the order matters
    std::uint32_t target;
    bool operator==(const Edge&) const = default;
  };

  // planner.cpp: the frame, its targets, what passes use, and the order
  void check_frame();
  void check_targets();
  bool may_shrink(std::uint32_t target) const;
  void check_target_size(std::uint32_t target);
  bool within_limit(const std::string& what, int width, int height, const Place& place);
  void resolve_uses();
  std::uint32_t resolve(const TargetUse& use, const std::string& who);
  void count_parts();
  void find_writers();
  void find_edges();
  void add_read_edges(std::uint32_t pass, std::uint32_t target, std::uint32_t part);
  void check_outputs();
  bool order_passes();
  void report_cycle(const std::vector<std::uint32_t>& waiting_for);
  void mark_needed();
  void warn_unused_targets();

  // target_checks.cpp: what a target may be
  void check_target_shape(std::uint32_t target);
  void check_target_values(std::uint32_t target);
  void check_resolve_rule(std::uint32_t target);

  // pass_checks.cpp: what a pass may do
  void check_passes();
  void check_pass(std::uint32_t pass);
  void check_write_names(std::uint32_t pass);
  void check_attachments_of(std::uint32_t pass);
  void check_targets_of(std::uint32_t pass);
  void check_rates();
  void check_reads(std::uint32_t pass);
  void check_wanted(std::uint32_t pass);
  void check_read(std::uint32_t pass, const Read& read, std::uint32_t target);
  void check_history(std::uint32_t pass, const Read& read, std::uint32_t target);
  std::vector<const Pass*> writers_of_read(std::uint32_t pass, std::size_t read) const;
  bool check_part(const std::string& what, std::uint32_t target, int level, int layer, const Place& place);
  void check_samples(std::uint32_t p, const Read& read, std::uint32_t target);
  void check_unwritten(std::uint32_t pass, const Read& read, std::uint32_t target);

  // operation_checks.cpp: copies, resolves and mip levels
  void check_operation(std::uint32_t pass);
  void check_copy(std::uint32_t pass, const CopyOperation& copy, std::uint32_t from, std::uint32_t to);
  void check_copied_formats(std::uint32_t pass, std::uint32_t from, std::uint32_t to, bool linear);
  bool check_area(std::uint32_t pass, const PixelRect& area, std::uint32_t target, int level, const char* key);
  void check_resolve(std::uint32_t pass, const ResolveOperation& resolve, std::uint32_t from, std::uint32_t to);
  void check_levels(std::uint32_t pass, std::uint32_t target);

  // shader_checks.cpp: the program against what is attached
  void check_shader(std::uint32_t pass);
  void check_outputs_of(std::uint32_t pass);
  void check_samplers_of(std::uint32_t pass);

  // color_checks.cpp: what is light, and what was encoded for looking at
  /// What a target's colours are, and what made them so.
  struct TargetCoding {
    ColorCoding coding = ColorCoding::unknown;
    std::uint32_t pass = none;
    Place encoder = {};  ///< in its program

    std::string by(const Planner& planner) const;
  };
  struct TargetRange {
    LightRange range = LightRange::unknown;
    std::uint32_t pass = none;  ///< that made it so
  };
  void check_colors();
  void check_range_of(std::uint32_t pass);
  void check_coding_of(std::uint32_t pass);
  std::uint32_t telling_read(std::uint32_t pass) const;
  void warn_encoded_light(std::uint32_t pass, const TargetCoding& read, std::uint32_t target);

  std::span<const std::uint32_t> writers_of(std::uint32_t part) const {
    return std::span(writers_).subspan(first_writer_[part], first_writer_[part + 1] - first_writer_[part]);
  }
  bool is_written(std::uint32_t target) const;

  /// Calls `action` with each part that a level and layer (or all of them) stand for. Parts out of range are left out.
  template <class Action>
  void for_parts(std::uint32_t target, int level, int layer, Action action) const {
    const ResolvedTarget& known = targets_[target];
    const int first_level = level == all_levels ? 0 : level == upper_levels ? 1 : level;
    const int last_level = level < 0 ? known.levels - 1 : level;
    const int first_layer = layer == all_layers ? 0 : layer,
              last_layer = layer == all_layers ? known.layers - 1 : layer;
    if (first_level < 0 || last_level >= known.levels || first_layer < 0 || last_layer >= known.layers) return;
    for (int l = first_level; l <= last_level; ++l) {
      for (int k = first_layer; k <= last_layer; ++k)
        action(known.first_part + static_cast<std::uint32_t>(l * known.layers + k));
    }
  }

  const Pass& pass(std::uint32_t index) const { return *graph_.passes_[index]; }
  const TargetDescription& description(std::uint32_t target) const { return graph_.targets_[target].description; }
  const std::string& name(std::uint32_t target) const { return graph_.targets_[target].name; }
  std::span<const std::uint32_t> reads_of(std::uint32_t pass) const {
    return std::span(uses_).subspan(first_use_[pass], graph_.passes_[pass]->reads.size());
  }
  std::span<const std::uint32_t> writes_of(std::uint32_t pass) const {
    return std::span(uses_).subspan(first_use_[pass] + graph_.passes_[pass]->reads.size(),
                                    graph_.passes_[pass]->writes.size());
  }
  const Place& place_of(const TargetUse& use, std::uint32_t pass) const;
  std::string quoted(std::uint32_t pass) const;

  std::vector<RemovedPass> gone_;
  const FrameGraph& graph_;
  int width_, height_;
  bool frame_fits_ = true;
  DeviceLimits limits_;
  Diagnostics diagnostics_;
  std::unordered_map<std::string_view, std::uint32_t> target_by_name_;
  std::vector<ResolvedTarget> targets_;
  std::vector<std::uint32_t> uses_;       ///< targets by pass: its reads, then its writes; none where unknown
  std::vector<std::uint32_t> first_use_;  ///< by pass, into uses_
  std::vector<std::uint32_t> writers_, first_writer_;  ///< by part: passes in the order of declaration
  std::vector<std::uint32_t> kept_;                    ///< targets
  std::vector<Edge> edges_;
  std::vector<std::uint32_t> order_;
  std::vector<bool> needed_;
  std::vector<TargetCoding> codings_;  ///< by target
  std::vector<TargetRange> ranges_;    ///< by target, while colours are followed
};

}  // namespace periscena
