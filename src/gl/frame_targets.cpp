#include "gl/frame_targets.h"

#include "gl/clear.h"

#include <periscena/base/error.h>
#include <periscena/base/names.h>

#include <fmt/format.h>

#include <algorithm>
#include <set>

namespace periscena::gl {
namespace {

/// May what was made for one plan be used in the next?
bool serves(const PlannedStorage& made, const PlannedStorage& wanted) {
  return made == wanted && made.origin == Origin::ours;
}

std::string label_of(const FramePlan& plan, std::uint32_t storage) {
  for (const PlannedTarget& target : plan.targets()) {
    if (storage >= target.storage && storage < target.storage + target.frames) return target.name;
  }
  return "target";
}

std::string describe(const TextureDescription& d) {
  const auto many = [](int count, const char* noun) { return counted(static_cast<std::size_t>(count), noun); };
  return fmt::format("{} of {} x {}, {}, {}, {}, {}", to_string(d.format), d.width, d.height, many(d.levels, "level"),
                     many(d.layers, "layer"), many(d.samples, "sample"), to_string(d.shape));
}

}  // namespace

void FrameTargets::change(const FramePlan* before, const FramePlan& plan, const std::vector<Outside>& outside) {
  Slots earlier = std::move(slots_);
  Slots next(plan.storages().size());
  std::erase(earlier, nullptr);
  for (auto& slot : earlier) slot->is_new = false;
  if (before) keep_history(*before, plan, earlier, next);
  for (const PlannedTarget& target : plan.targets()) {
    if (target.description.origin != Origin::ours) next[target.storage] = adopt(target, outside);
  }
  for (std::size_t i = 0; i < next.size(); ++i) {
    if (next[i]) continue;
    const auto fitting = std::find_if(earlier.begin(), earlier.end(),
                                      [&](const auto& slot) { return slot && serves(slot->made, plan.storages()[i]); });
    if (fitting != earlier.end()) next[i] = std::move(*fitting);
  }
  // What is not needed goes before what is needed comes, so that both need not fit together.
  earlier.clear();
  slots_ = std::move(next);
  drop_views();
  for (std::uint32_t i = 0; i < slots_.size(); ++i) {
    if (!slots_[i]) slots_[i] = make(plan.storages()[i], label_of(plan, i));
  }
  clear_history(plan, true);
}

/// History lives on where a target of the same name still has as many frames of the same make.
void FrameTargets::keep_history(const FramePlan& before, const FramePlan& plan, Slots& earlier, Slots& next) {
  for (const PlannedTarget& target : plan.targets()) {
    if (target.frames == 1) continue;
    const auto found = before.find_target(target.name);
    if (!found || before.targets()[*found].frames != target.frames) continue;
    const std::uint32_t from = before.targets()[*found].storage;
    if (!earlier[from] || !serves(earlier[from]->made, plan.storages()[target.storage])) continue;
    for (std::uint32_t i = 0; i < target.frames; ++i) next[target.storage + i] = std::move(earlier[from + i]);
  }
}

void FrameTargets::drop_views() {
  std::set<std::uint64_t> alive;
  for (const auto& slot : slots_) {
    if (slot) alive.insert(slot->serial);
  }
  std::erase_if(views_, [&](const auto& view) { return !alive.contains(view.first.serial); });
}

std::unique_ptr<FrameTargets::Slot> FrameTargets::make(const PlannedStorage& storage, const std::string& label) {
  auto slot = std::make_unique<Slot>();
  slot->made = storage;
  slot->serial = next_serial_++;
  if (storage.renderbuffer) {
    slot->renderbuffer = Renderbuffer(storage.width, storage.height, storage.format, storage.samples, label);
  } else {
    slot->texture = Texture(
        {storage.width, storage.height, storage.format, storage.shape, storage.layers, storage.levels, storage.samples},
        label);
  }
  return slot;
}

std::unique_ptr<FrameTargets::Slot> FrameTargets::adopt(const PlannedTarget& target,
                                                        const std::vector<Outside>& outside) {
  const auto given =
      std::find_if(outside.begin(), outside.end(), [&](const Outside& one) { return one.target == target.name; });
  if (given == outside.end()) {
    std::vector<std::string> names;
    for (const Outside& one : outside) names.push_back(one.target);
    throw Mistake("outside-missing", {},
                  fmt::format("target \"{}\" is made outside, and nothing was handed over for it", target.name),
                  names.empty() ? "give the runner {\"" + target.name + "\", name}" : name_hint(target.name, names));
  }
  auto slot = std::make_unique<Slot>();
  slot->made.origin = target.description.origin;
  slot->serial = next_serial_++;
  if (target.description.origin == Origin::outside_framebuffer) {
    slot->framebuffer = given->name;
    return slot;
  }
  slot->texture = Texture::adopt(given->name);
  expect_as_declared(target, slot->texture);
  return slot;
}

void FrameTargets::expect_as_declared(const PlannedTarget& target, const Texture& texture) const {
  const TextureDescription& is = texture.description();
  const TextureDescription declared{
      target.width,  target.height, target.description.format, target.description.shape, target.layers,
      target.levels, target.samples};
  const bool fits = is.width == declared.width && is.height == declared.height && is.format == declared.format &&
                    is.shape == declared.shape && is.layers == declared.layers && is.levels >= declared.levels &&
                    is.samples == declared.samples;
  if (fits) return;
  throw Mistake("outside-mismatch", {},
                fmt::format("target \"{}\" was declared {}, but texture {} is {}", target.name, describe(declared),
                            texture.name(), describe(is)),
                "declare it as it is, or hand over another texture");
}

std::uint32_t FrameTargets::storage_of(const PlannedTarget& target, std::uint64_t frame, int history) const {
  if (target.frames == 1) return target.storage;
  const std::uint64_t at = (frame + target.frames - static_cast<std::uint64_t>(history)) % target.frames;
  return target.storage + static_cast<std::uint32_t>(at);
}

const Texture* FrameTargets::own_texture(std::uint32_t storage) const {
  return slots_[storage]->texture.name() ? &slots_[storage]->texture : nullptr;
}

const Texture& FrameTargets::texture(const PlannedTarget& target, std::uint32_t storage, int level, int layer,
                                     bool as_array) {
  const Slot& slot = *slots_[storage];
  const bool same = slot.texture.format() == target.description.format &&
                    (!as_array || slot.texture.description().shape == TargetShape::array);
  if (same && level == all_levels && layer == all_layers) return slot.texture;
  const ViewKey key{slot.serial, target.description.format, level, layer, as_array};
  const auto known = views_.find(key);
  if (known != views_.end()) return known->second;
  return views_.emplace(key, Texture::view(slot.texture, {key.format, level, layer, as_array}, target.name))
      .first->second;
}

Attached FrameTargets::attached(const PlannedTarget& target, std::uint32_t storage, int level, int layer) {
  const Slot& slot = *slots_[storage];
  if (slot.made.renderbuffer) return slot.renderbuffer;
  return {texture(target, storage), level, layer};
}

int FrameTargets::samples(std::uint32_t storage) const {
  const Slot& slot = *slots_[storage];
  if (slot.made.renderbuffer) return slot.renderbuffer.samples();
  return slot.texture.name() ? slot.texture.description().samples : 1;
}

void FrameTargets::clear_history(const FramePlan& plan, bool only_new) {
  State& state = device_.state();
  for (const PlannedTarget& target : plan.targets()) {
    for (std::uint32_t i = 0; target.frames > 1 && i < target.frames; ++i) {
      Slot& slot = *slots_[target.storage + i];
      if (only_new && !slot.is_new) continue;
      state.set_conventions();
      state.open_write_masks(true, true, true);
      for (int level = 0; level < target.levels; ++level) {
        const Attached all = attached(target, target.storage + i, level, all_layers);
        const bool color = info(target.description.format).color();
        const Framebuffer framebuffer(color ? std::span(&all, 1) : std::span<const Attached>(),
                                      color ? std::nullopt : std::optional(all), "history");
        clear_attachment(framebuffer.name(), target.description, 0);
      }
    }
  }
}

}  // namespace periscena::gl
