#include "graph/plan_builder.h"

#include <algorithm>
#include <numeric>
#include <queue>
#include <tuple>
#include <unordered_map>

namespace periscena {
namespace {

/// Equal for storages that may share.
std::uint64_t share_key(const PlannedStorage& storage) {
  const FormatInfo& format = info(storage.format);
  // Renderbuffers have no views, and depth formats none but their own.
  const bool views = format.color() && !storage.renderbuffer;
  std::uint64_t key = 0;
  const auto mix = [&](int value) {
    key = (key ^ static_cast<std::uint64_t>(static_cast<std::uint32_t>(value))) * 0x9E3779B97F4A7C15ull;
    key ^= key >> 29;
  };
  for (const int value :
       {views ? format.bytes : 1000 + static_cast<int>(storage.format), static_cast<int>(storage.shape), storage.width,
        storage.height, storage.samples, storage.levels, storage.layers, static_cast<int>(storage.renderbuffer)})
    mix(value);
  return key;
}

bool shares(const PlannedTarget& target) {
  return target.frames == 1 && target.description.origin == Origin::ours;
}

/// The storages of one class while targets are laid into them in the order in which their lives begin.
class StorageClass {
 public:
  /// A storage that nothing lives in at `life.first`: best one of this format, so that no view is needed.
  std::uint32_t take(std::vector<PlannedStorage>& all, const PlannedStorage& wanted, const Lifetime& life) {
    while (!busy_.empty() && busy_.top().first < life.first) {
      free_.push_back(busy_.top().second);
      busy_.pop();
    }
    const auto index = free_.empty() ? add(all, wanted) : take_free(all, wanted.format);
    busy_.emplace(life.last, index);
    return index;
  }

 private:
  static std::uint32_t add(std::vector<PlannedStorage>& all, const PlannedStorage& wanted) {
    all.push_back(wanted);
    return static_cast<std::uint32_t>(all.size() - 1);
  }

  std::uint32_t take_free(const std::vector<PlannedStorage>& all, Format format) {
    // Looking at a few is enough: most classes hold one format alone.
    const std::size_t looked_at = std::min<std::size_t>(free_.size(), 8);
    auto chosen = free_.end() - 1;
    for (auto at = free_.end(); at != free_.end() - static_cast<std::ptrdiff_t>(looked_at);) {
      --at;
      if (all[*at].format != format) continue;
      chosen = at;
      break;
    }
    const std::uint32_t index = *chosen;
    *chosen = free_.back();
    free_.pop_back();
    return index;
  }

  using Busy = std::pair<std::uint32_t, std::uint32_t>;  ///< until which pass, which storage
  std::priority_queue<Busy, std::vector<Busy>, std::greater<>> busy_;
  std::vector<std::uint32_t> free_;
};

}  // namespace

bool may_share(const PlannedStorage& a, const PlannedStorage& b) {
  const bool alike = a.shape == b.shape && a.width == b.width && a.height == b.height && a.samples == b.samples &&
                     a.levels == b.levels && a.layers == b.layers && a.renderbuffer == b.renderbuffer;
  const bool formats = a.renderbuffer ? a.format == b.format : share_storage(a.format, b.format);
  return alike && formats && a.origin == Origin::ours && b.origin == Origin::ours;
}

std::size_t storage_bytes(const PlannedStorage& storage) {
  if (storage.origin != Origin::ours) return 0;
  std::size_t pixels = 0;
  for (int level = 0; level < storage.levels; ++level) {
    pixels += static_cast<std::size_t>(std::max(1, storage.width >> level)) *
              static_cast<std::size_t>(std::max(1, storage.height >> level));
  }
  return pixels * static_cast<std::size_t>(storage.layers) * static_cast<std::size_t>(storage.samples) *
         static_cast<std::size_t>(info(storage.format).bytes);
}

void prefer_shared_textures(const std::vector<PlannedTarget>& targets, std::vector<PlannedStorage>& wanted) {
  struct Ends {
    std::uint32_t first_death = TargetHandle::none, last_birth = 0;
  };
  std::unordered_map<std::uint64_t, Ends> textures;
  for (std::size_t i = 0; i < wanted.size(); ++i) {
    if (wanted[i].renderbuffer || !shares(targets[i])) continue;
    Ends& ends = textures[share_key(wanted[i])];
    ends.first_death = std::min(ends.first_death, targets[i].lifetime.last);
    ends.last_birth = std::max(ends.last_birth, targets[i].lifetime.first);
  }
  for (std::size_t i = 0; i < wanted.size(); ++i) {
    if (!wanted[i].renderbuffer) continue;
    PlannedStorage as_texture = wanted[i];
    as_texture.renderbuffer = false;
    const auto found = textures.find(share_key(as_texture));
    if (found == textures.end()) continue;
    const Lifetime& life = targets[i].lifetime;
    if (found->second.first_death < life.first || found->second.last_birth > life.last) wanted[i] = as_texture;
  }
}

std::vector<PlannedStorage> share_storages(std::vector<PlannedTarget>& targets,
                                           const std::vector<PlannedStorage>& wanted) {
  std::vector<PlannedStorage> storages;
  storages.reserve(targets.size());
  std::vector<std::uint32_t> by_birth(targets.size());
  std::iota(by_birth.begin(), by_birth.end(), 0u);
  std::stable_sort(by_birth.begin(), by_birth.end(), [&](std::uint32_t a, std::uint32_t b) {
    return targets[a].lifetime.first < targets[b].lifetime.first;
  });
  std::unordered_map<std::uint64_t, StorageClass> classes;
  for (const std::uint32_t i : by_birth) {
    if (shares(targets[i])) {
      targets[i].storage = classes[share_key(wanted[i])].take(storages, wanted[i], targets[i].lifetime);
    } else {
      targets[i].storage = static_cast<std::uint32_t>(storages.size());
      storages.insert(storages.end(), targets[i].frames, wanted[i]);
    }
  }
  return storages;
}

std::size_t FramePlan::least_bytes() const {
  // Sweep over the passes: what is born adds its bytes, what died takes them away, class by class.
  struct Event {
    std::uint64_t key;
    std::uint32_t pass;
    bool birth;
    std::size_t bytes;
    auto order() const { return std::tuple(key, pass, birth); }  // deaths first
  };
  std::vector<Event> events;
  std::size_t sum = 0;
  for (const PlannedTarget& target : targets_) {
    if (!shares(target)) {
      sum += target.bytes;
      continue;
    }
    const std::uint64_t key = share_key(storages_[target.storage]);
    events.push_back({key, target.lifetime.first, true, target.bytes});
    events.push_back({key, target.lifetime.last + 1, false, target.bytes});
  }
  std::sort(events.begin(), events.end(), [](const Event& a, const Event& b) { return a.order() < b.order(); });
  std::size_t alive = 0, most = 0;
  for (std::size_t i = 0; i < events.size(); ++i) {
    alive = events[i].birth ? alive + events[i].bytes : alive - events[i].bytes;
    most = std::max(most, alive);
    if (i + 1 < events.size() && events[i + 1].key == events[i].key) continue;
    sum += most;
    alive = most = 0;
  }
  return sum;
}

}  // namespace periscena
