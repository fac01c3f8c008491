#pragma once

#include <periscena/base/handle.h>

#include <set>
#include <string>
#include <string_view>
#include <unordered_map>
#include <vector>

namespace periscena {

/// Which handles to the things of one list are valid. A handle is the number of a slot and the slot's generation, which
/// rises when the slot's thing is removed, so that an old handle never leads to what came into its slot later.
class HandleSlots {
 public:
  static constexpr std::uint32_t none = Handle<void>::none;

  /// The lowest free slot above another; else one behind all. @param above  none: any slot
  std::uint32_t free_slot(std::uint32_t above = none) const;

  /// Puts a thing into a free slot. @param position  of the thing in its list
  void fill(std::uint32_t slot, std::uint32_t position);

  /// Frees a slot. @param name  of the thing, for messages
  void clear(std::uint32_t slot, std::string name);

  /// The things behind a position moved up by one.
  void move_up(std::uint32_t position);

  template <class Kind>
  Handle<Kind> handle(std::uint32_t slot) const {
    if (!is_filled(slot)) return {};
    return {slot, slots_[slot].generation};
  }

  bool is_filled(std::uint32_t slot) const { return slot < slots_.size() && slots_[slot].position != none; }
  std::uint32_t position(std::uint32_t slot) const { return slots_[slot].position; }

  template <class Kind>
  bool is_valid(Handle<Kind> handle) const {
    return is_filled(handle.index) && slots_[handle.index].generation == handle.generation;
  }

  /// Was the thing of this handle there once?
  template <class Kind>
  bool was_valid(Handle<Kind> handle) const {
    return handle.index < slots_.size() && handle.generation < slots_[handle.index].generation;
  }

  /// What was removed last from a slot that something was removed from.
  std::string_view removed_name(std::uint32_t slot) const { return removed_.find(slot)->second; }

 private:
  struct Slot {
    std::uint32_t generation = 0, position = none;
  };
  std::vector<Slot> slots_;
  std::unordered_map<std::uint32_t, std::string> removed_;
  std::set<std::uint32_t> free_;
};

}  // namespace periscena
