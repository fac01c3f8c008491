#include <periscena/scene/handle_slots.h>

#include <utility>

namespace periscena {

std::uint32_t HandleSlots::free_slot(std::uint32_t above) const {
  const auto found = above == none ? free_.begin() : free_.upper_bound(above);
  return found == free_.end() ? static_cast<std::uint32_t>(slots_.size()) : *found;
}

void HandleSlots::fill(std::uint32_t slot, std::uint32_t position) {
  if (slot == slots_.size()) slots_.emplace_back();
  free_.erase(slot);
  slots_[slot].position = position;
}

void HandleSlots::clear(std::uint32_t slot, std::string name) {
  ++slots_[slot].generation;
  slots_[slot].position = none;
  removed_[slot] = std::move(name);
  free_.insert(slot);
}

void HandleSlots::move_up(std::uint32_t position) {
  for (Slot& slot : slots_) {
    if (slot.position != none && slot.position > position) --slot.position;
  }
}

}  // namespace periscena
