#pragma once

#include <periscena/gl/frame_runner.h>
#include <periscena/gl/framebuffer.h>

#include <map>
#include <memory>

namespace periscena::gl {

/// The targets of a plan on a device: storages, and views of them. Each has a serial number that is never given again,
/// unlike a GL name, so that others can tell whether what they were made for is still there.
class FrameTargets {
 public:
  explicit FrameTargets(Device& device) : device_(device) {}

  /// Makes what the plan needs and is not there, and lets go of what it does not need.
  /// @throws Mistake "outside-mismatch", Error "out-of-memory"
  void change(const FramePlan* before, const FramePlan& plan, const std::vector<Outside>& outside);

  /// Which storage a target lies in, in the frame of that number and `history` frames before it.
  std::uint32_t storage_of(const PlannedTarget& target, std::uint64_t frame, int history = 0) const;

  std::uint64_t serial(std::uint32_t storage) const { return slots_[storage]->serial; }

  /// The target as the format it was declared with; a view where its storage has another, or for a part of it.
  const Texture& texture(const PlannedTarget& target, std::uint32_t storage, int level = all_levels,
                         int layer = all_layers, bool as_array = false);
  Attached attached(const PlannedTarget& target, std::uint32_t storage, int level, int layer);
  const Texture* own_texture(std::uint32_t storage) const;
  bool is_renderbuffer(std::uint32_t storage) const { return slots_[storage]->made.renderbuffer; }

  /// The outside framebuffer that the target stands for.
  std::uint32_t framebuffer(const PlannedTarget& target) const { return slots_[target.storage]->framebuffer; }

  /// Samples that the driver gave.
  int samples(std::uint32_t storage) const;

  /// Sets all frames of all targets with history to their clear values; after change(), those that are new.
  void clear_history(const FramePlan& plan, bool only_new);

 private:
  struct Slot {
    PlannedStorage made;
    std::uint64_t serial = 0;
    Texture texture;
    Renderbuffer renderbuffer;
    std::uint32_t framebuffer = 0;
    bool is_new = true;
  };
  using Slots = std::vector<std::unique_ptr<Slot>>;
  struct ViewKey {
    std::uint64_t serial;
    Format format;
    int level, layer;
    bool as_array;
    auto operator<=>(const ViewKey&) const = default;
  };

  void keep_history(const FramePlan& before, const FramePlan& plan, Slots& earlier, Slots& next);
  std::unique_ptr<Slot> make(const PlannedStorage& storage, const std::string& label);
  std::unique_ptr<Slot> adopt(const PlannedTarget& target, const std::vector<Outside>& outside);
  void expect_as_declared(const PlannedTarget& target, const Texture& texture) const;
  void drop_views();

  Device& device_;
  Slots slots_;  ///< by storage of the plan
  std::map<ViewKey, Texture> views_;
  std::uint64_t next_serial_ = 1;
};

}  // namespace periscena::gl
