#pragma once

#include "graph/planner.h"

namespace periscena {

/// Gives every target its count of samples. Targets that a pass writes together belong together: those that say no
/// count take the others'. What the device lacks is rounded, once for all that belong together, with a warning.
class SampleCounts {
 public:
  explicit SampleCounts(Planner& planner) : planner_(planner) {}

  void find();

 private:
  std::uint32_t group_of(std::uint32_t target);
  void join_targets();
  void give_counts();
  int available(std::uint32_t speaker, const std::vector<Format>& formats);
  void warn_of_guarantees(std::uint32_t speaker, const std::vector<Format>& formats);

  Planner& planner_;
  std::vector<std::uint32_t> parent_;  ///< by target: another of its group, or itself
};

}  // namespace periscena
