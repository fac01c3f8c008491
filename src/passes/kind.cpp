#include <periscena/passes/kind.h>

#include <periscena/base/error.h>
#include <periscena/base/names.h>
#include <periscena/graph/pass.h>

#include <fmt/format.h>

#include <algorithm>

namespace periscena::passes::detail {
namespace {

template <class Use>
bool has_required(const std::vector<FilledSlot<Use>>& slots) {
  return std::all_of(slots.begin(), slots.end(), [](const FilledSlot<Use>& slot) {
    return slot.info->need == Need::optional || !slot.use.target.empty();
  });
}

template <class Use>
void expect_required(const char* verb, const std::vector<FilledSlot<Use>>& slots, Pass& pass) {
  for (const FilledSlot<Use>& slot : slots) {
    if (slot.info->need != Need::required || !slot.use.target.empty()) continue;
    pass.problems.error("missing-key", pass.place,
                        fmt::format("pass \"{}\" {} no {}", pass.name, verb, slot.info->name),
                        fmt::format("name a target for it: {}", slot.info->sentence));
  }
}

template <class Use>
const Use* find_in(const std::vector<Use>& given, const std::string& slot) {
  const auto found = std::find_if(given.begin(), given.end(), [&](const Use& one) { return one.slot == slot; });
  return found == given.end() ? nullptr : &*found;
}

template <class Use>
Use read_use(const void* options, const UsePlace& member, Use how, const std::string& slot) {
  const void* at = static_cast<const char*>(options) + member.offset;
  if (member.form == UsePlace::Form::whole)
    how = *static_cast<const Use*>(at);
  else
    how.target = *static_cast<const TargetUse*>(at);
  how.slot = slot;
  return how;
}

template <class Use>
void write_use(const std::vector<Use>& given, const std::string& slot, const UsePlace& member, void* into) {
  const Use* said = find_in(given, slot);
  if (!said) return;
  void* at = static_cast<char*>(into) + member.offset;
  if (member.form == UsePlace::Form::whole)
    *static_cast<Use*>(at) = *said;
  else
    *static_cast<TargetUse*>(at) = said->target;
}

template <class Use>
void take_places(const std::vector<Use>& given, std::vector<Use>& uses) {
  for (Use& use : uses) {
    const Use* said = find_in(given, use.slot);
    if (!said) continue;
    use.place = said->place;
    if (use.level == Use{}.level) use.level = said->level;
    if (use.layer == Use{}.layer) use.layer = said->layer;
    if constexpr (requires { use.history; }) {
      if (use.history == 0) use.history = said->history;
    }
  }
}

}  // namespace

Pass prepared(const std::string& name, const char* kind, Place place, const FilledSlots& slots) {
  Pass pass;
  pass.name = name;
  pass.kind = kind;
  pass.place = std::move(place);
  pass.facts = PlainFacts{};
  pass.shader = ShaderInterface{.source = fmt::format("periscena/{}.frag", kind), .outputs = {}, .samplers = {}};
  for (const FilledSlot<Read>& slot : slots.reads) {
    if (slot.use.target.empty()) continue;
    pass.reads.push_back(slot.use);
    pass.shader->samplers.push_back({.name = slot.info->name});
  }
  for (const FilledSlot<Write>& slot : slots.writes) {
    if (slot.use.target.empty()) continue;
    pass.writes.push_back(slot.use);
    if (!is_color_slot(slot.info->name)) continue;
    pass.shader->outputs.push_back({slot.info->name, slot.numbers, static_cast<int>(pass.shader->outputs.size())});
  }
  return pass;
}

void expect_required(const FilledSlots& slots, Pass& pass) {
  expect_required("reads", slots.reads, pass);
  expect_required("writes", slots.writes, pass);
}

bool has_required(const FilledSlots& slots) {
  return has_required(slots.reads) && has_required(slots.writes);
}

Read use_of(const void* options, const UsePlace& member, Read how, const std::string& slot) {
  return read_use(options, member, std::move(how), slot);
}

Write use_of(const void* options, const UsePlace& member, Write how, const std::string& slot) {
  return read_use(options, member, std::move(how), slot);
}

void take_use(const std::vector<Read>& given, const std::string& slot, const UsePlace& member, void* into) {
  write_use(given, slot, member, into);
}

void take_use(const std::vector<Write>& given, const std::string& slot, const UsePlace& member, void* into) {
  write_use(given, slot, member, into);
}

void take_places(const PassSource& source, Pass& pass) {
  take_places(source.reads, pass.reads);
  take_places(source.writes, pass.writes);
}

void refuse_kind(const char* name, const Place& place) {
  throw Mistake("bad-kind", place,
                fmt::format("the kind of pass \"{}\" lacks its finish, or a member for a target", name),
                "set finish, and give each slot a member of the options: &Options::color");
}

std::size_t key_of(std::span<const KeyInfo> keys, std::string_view key, const std::string& pass, const Place& place) {
  const auto found = std::find_if(keys.begin(), keys.end(), [&](const KeyInfo& info) { return info.name == key; });
  if (found != keys.end()) return static_cast<std::size_t>(found - keys.begin());
  std::vector<std::string> names;
  for (const KeyInfo& info : keys) names.push_back(info.name);
  throw Mistake("unknown-key", place, fmt::format("pass \"{}\" has no key \"{}\"", pass, key), name_hint(key, names));
}

std::size_t live_key_of(std::span<const KeyInfo> keys, std::string_view key, const std::string& pass,
                        const Place& place) {
  const std::size_t found = key_of(keys, key, pass, place);
  if (keys[found].live) return found;
  throw Mistake("not-live", place, fmt::format("\"{}\" of pass \"{}\" can't change while frames run", key, pass),
                "declare the frame with it, and use() its plan: what did not change stays");
}

void refuse_options(const FrameGraph& frame, std::string_view name, const Place& place) {
  const auto pass =
      std::find_if(frame.passes().begin(), frame.passes().end(), [&](const auto& one) { return one->name == name; });
  throw Mistake("wrong-kind", place,
                fmt::format("pass \"{}\" is of kind {}, which has other options", name, (*pass)->kind),
                "name the options struct of that kind, or another pass");
}

}  // namespace periscena::passes::detail
