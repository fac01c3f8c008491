#pragma once

#include "graph/planner.h"

namespace periscena {

/// Makes the plan of a frame that was found right: passes in order, with resolves where multisampled targets are read
/// as ordinary ones, lifetimes, and storage.
class PlanBuilder {
 public:
  explicit PlanBuilder(Planner& planner) : planner_(planner) {}

  FramePlan build();

 private:
  static constexpr std::uint32_t none = TargetHandle::none;

  std::uint32_t planned(std::uint32_t declared);
  std::uint32_t ordinary(std::uint32_t target);
  void add_pass(std::uint32_t declared);
  void add_reads(std::uint32_t declared, PlannedPass& into);
  void add_writes(std::uint32_t declared, PlannedPass& into);
  bool needs_texture(PlannedPass& pass, std::uint32_t read) const;
  LoadAction load_of(std::uint32_t declared, const Write& write);
  void resolve(std::uint32_t target);
  void keep_results();
  void find_lifetimes();
  void find_finishes();
  bool is_sampled(std::uint32_t target) const;
  void give_storage();
  void check_memory();

  Planner& planner_;
  FramePlan plan_;
  std::vector<std::uint32_t> planned_target_;  ///< by declared target
  std::vector<bool> written_;                  ///< by part
  std::vector<bool> resolve_is_current_;       ///< by planned target
  std::vector<bool> sampled_;                  ///< by planned target: does anything need it as a texture?
};

/// The bytes that a texture or renderbuffer takes: all levels, layers and samples.
std::size_t storage_bytes(const PlannedStorage& storage);

/// Turns renderbuffers into textures where that lets them share with a texture that lives at another time.
void prefer_shared_textures(const std::vector<PlannedTarget>& targets, std::vector<PlannedStorage>& wanted);

/// Lays targets that never live at once into the same storages; see may_share.
/// @param wanted  by target: what each needs; `targets` get their storage
std::vector<PlannedStorage> share_storages(std::vector<PlannedTarget>& targets,
                                           const std::vector<PlannedStorage>& wanted);

}  // namespace periscena
