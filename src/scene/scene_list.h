#pragma once

#include <periscena/scene/scene.h>

#include <periscena/base/error.h>

#include <fmt/format.h>

#include <type_traits>
#include <utility>

namespace periscena {

/// @param removed  name of what was removed; empty: nothing of this handle ever was there @param valid  the handle
[[noreturn]] void refuse_handle(std::string_view removed, bool valid, const char* what, const Place& place);

using TagCounts = std::map<std::string, std::uint32_t, std::less<>>;

inline void add_tags(TagCounts& counts, const std::vector<std::string>& tags) {
  for (const std::string& tag : tags) ++counts[tag];
}

inline void drop_tags(TagCounts& counts, const std::vector<std::string>& tags) {
  for (const std::string& tag : tags) {
    const auto found = counts.find(tag);
    if (--found->second == 0) counts.erase(found);
  }
}

template <class Thing>
const Thing* Scene::List<Thing>::find(std::string_view name) const {
  const auto found = by_name.find(std::string(name));
  return found == by_name.end() ? nullptr : &things[slots.position(found->second)];
}

template <class Thing>
template <class Kind>
Handle<Kind> Scene::List<Thing>::handle(std::string_view name) const {
  const auto found = by_name.find(std::string(name));
  return found == by_name.end() ? Handle<Kind>{} : slots.handle<Kind>(found->second);
}

template <class Thing>
std::uint32_t Scene::List<Thing>::append(Thing thing) {
  const std::uint32_t slot = slots.free_slot();
  slots.fill(slot, static_cast<std::uint32_t>(things.size()));
  by_name.emplace(thing.name, slot);
  things.push_back(std::move(thing));
  return slot;
}

template <class Thing>
std::uint32_t Scene::List<Thing>::put(Thing thing, const std::string& name, std::uint32_t above) {
  const std::uint32_t slot = slots.free_slot(above);
  slots.fill(slot, slot);
  if (!name.empty() || !std::is_same_v<Thing, Node>) by_name.emplace(name, slot);
  if (slot == things.size())
    things.push_back(std::move(thing));
  else
    things[slot] = std::move(thing);
  return slot;
}

template <class Thing>
void Scene::List<Thing>::erase(std::uint32_t slot) {
  const std::uint32_t position = slots.position(slot);
  by_name.erase(things[position].name);
  slots.clear(slot, std::move(things[position].name));
  slots.move_up(position);
  things.erase(things.begin() + position);
}

template <class Thing>
void Scene::List<Thing>::vacate(std::uint32_t slot, const std::string& name, Thing empty) {
  by_name.erase(name);
  slots.clear(slot, name);
  things[slot] = std::move(empty);
}

template <class Kind, class Thing>
const Thing& Scene::there(Handle<Kind> which, const List<Thing>& list, const char* what, const Place& place) const {
  if (list.slots.is_valid(which)) return list.things[list.slots.position(which.index)];
  refuse_handle(list.slots.was_valid(which) ? list.slots.removed_name(which.index) : std::string_view(), which.valid(),
                what, place);
}

template <class Kind, class Thing>
Thing& Scene::there(Handle<Kind> which, List<Thing>& list, const char* what, const Place& place) {
  return const_cast<Thing&>(std::as_const(*this).there(which, std::as_const(list), what, place));
}

}  // namespace periscena
