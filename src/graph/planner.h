#pragma once

#include <periscena/graph/frame_graph.h>

#include <unordered_map>

namespace periscena {

/// One run of FrameGraph::plan: resolve names, check, find dependencies, order, drop, give sizes.
class Planner {
 public:
  Planner(const FrameGraph& graph, int width, int height, const DeviceLimits& limits)
      : graph_(graph), width_(width), height_(height), limits_(limits) {}

  PlanResult plan();

 private:
  static constexpr std::uint32_t none = TargetHandle::none;

  struct PassUses {
    std::vector<std::uint32_t> reads, writes;  ///< target indices, in the pass's order; none where unknown
  };
  struct Edge {
    std::uint32_t from, to;
    bool carries;  ///< does `to` use what `from` made? else only the order matters
    std::uint32_t target;
  };

  void check_frame();
  void check_targets();
  void check_target_size(std::uint32_t target);
  bool within_limit(const std::string& what, int width, int height, const Place& place);
  void resolve_uses();
  std::uint32_t resolve(const TargetUse& use, const std::string& who);
  void check_passes();
  void check_pass(std::uint32_t pass);
  void check_attachment_sizes(std::uint32_t pass);
  void find_writers();
  void find_edges();
  void add_read_edges(std::uint32_t pass, std::uint32_t target);
  void check_outputs();
  bool order_passes();
  void report_cycle(const std::vector<std::uint32_t>& waiting_for);
  void mark_needed();
  void warn_unused_targets();
  FramePlan build() const;

  const Place& place_of(const TargetUse& use, std::uint32_t pass) const;
  std::string quoted(std::uint32_t pass) const;

  const FrameGraph& graph_;
  int width_, height_;
  bool frame_fits_ = true;
  DeviceLimits limits_;
  Diagnostics diagnostics_;
  std::unordered_map<std::string_view, std::uint32_t> target_by_name_;
  std::vector<std::array<int, 2>> sizes_;            ///< of targets, pixels
  std::vector<PassUses> uses_;                       ///< of passes
  std::vector<std::vector<std::uint32_t>> writers_;  ///< of targets: passes in the order of declaration
  std::vector<std::uint32_t> kept_;                  ///< targets
  std::vector<Edge> edges_;
  std::vector<std::uint32_t> order_;
  std::vector<bool> needed_;
};

}  // namespace periscena
