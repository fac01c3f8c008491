#include "frame/pass_uses.h"

#include <periscena/base/keys.h>

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <optional>

namespace periscena {
namespace {

/// A part of a target, or what it was.
struct PartKeys {
  Reference target;
  std::optional<int> level, layer;
  std::optional<std::string> face;
  int history = 0;
};

constexpr std::array faces{"+x", "-x", "+y", "-y", "+z", "-z"};

Keys<PartKeys> part_keys(bool read) {
  Keys<PartKeys> keys;
  keys.key("target", &PartKeys::target, {.required = true}, "the target's name")
      .key("level", &PartKeys::level, {.minimum = 0}, "a mip level")
      .key("layer", &PartKeys::layer, {.minimum = 0}, "a layer of an array")
      .key("face", &PartKeys::face, {.choices = {faces.begin(), faces.end()}}, "a face of a cube");
  if (read) keys.key("history", &PartKeys::history, {.minimum = 0, .maximum = 16}, "how many frames ago");
  return keys;
}

TargetUse read_part(const Value& table, const std::string& what, bool is_read, PartKeys& given, Diagnostics& problems) {
  const Keys<PartKeys> keys = part_keys(is_read);
  keys.read(table, what, given, problems);
  report_unknown_keys(table, what, keys.names(), problems);
  if (given.face && given.layer) {
    problems.error("two-layers", table.place, fmt::format("{} has both a layer and a face", what), "keep one of them");
  }
  const auto face = given.face ? std::find(faces.begin(), faces.end(), *given.face) : faces.end();
  if (face != faces.end()) given.layer = static_cast<int>(face - faces.begin());
  return given.target.empty() ? TargetUse() : TargetUse(given.target);
}

TargetUse read_part(const Value& table, const std::string& what, Read& into, Diagnostics& problems) {
  PartKeys given;
  TargetUse target = read_part(table, what, true, given, problems);
  into.level = given.level.value_or(all_levels);
  into.layer = given.layer.value_or(all_layers);
  into.history = given.history;
  return target;
}

TargetUse read_part(const Value& table, const std::string& what, Write& into, Diagnostics& problems) {
  PartKeys given;
  TargetUse target = read_part(table, what, false, given, problems);
  into.level = given.level.value_or(0);
  into.layer = given.layer.value_or(all_layers);
  return target;
}

template <class Use>
std::vector<Use> read_uses(const Value& table, const char* key, const std::string& what, Diagnostics& problems) {
  std::vector<Use> uses;
  if (table.empty()) return uses;
  const Value::Table* members = table.table();
  if (!members) {
    problems.error("wrong-type", table.place,
                   fmt::format("\"{}\" of {} wants a table, but this is {}", key, what, table.describe()),
                   fmt::format("write {} = {{ color = \"scene.color\" }}", key));
    return uses;
  }
  constexpr std::size_t most = 256;  // far more than any device has; checks go by pairs
  if (members->size() > most) {
    problems.error("out-of-range", table.place,
                   fmt::format("\"{}\" of {} names {} targets", key, what, members->size()),
                   fmt::format("no device takes over {}", most));
    return uses;
  }
  for (const ValueMember& member : *members) {
    Use use;
    use.slot = member.name;
    use.place = member.place;
    if (const std::string* target = member.value.text()) {
      use.target = Reference(*target, member.value.place);
    } else if (member.value.table()) {
      use.target = read_part(member.value, fmt::format("\"{}\" of {}", member.name, what), use, problems);
    } else {
      problems.error("wrong-type", member.value.place,
                     fmt::format("{} wants a target's name here, but this is {}", what, member.value.describe()),
                     "write it in quotes");
    }
    if (!use.target.empty()) uses.push_back(std::move(use));
  }
  return uses;
}

}  // namespace

std::vector<Read> read_reads(const Value& table, const std::string& what, Diagnostics& problems) {
  return read_uses<Read>(table, "reads", what, problems);
}

std::vector<Write> read_writes(const Value& table, const std::string& what, Diagnostics& problems) {
  return read_uses<Write>(table, "writes", what, problems);
}

void check_slots(const std::string& what, const char* key, const std::vector<passes::SlotInfo>& slots, bool own,
                 const Value& table, const Place& pass_place, Diagnostics& problems) {
  std::vector<std::string> names;
  if (!table.empty() && !table.table()) return;  // told already
  for (const passes::SlotInfo& slot : slots) {
    names.push_back(slot.name);
    if (slot.need == passes::Need::required && !table.find(slot.name)) {
      problems.error("missing-key", table.empty() ? pass_place : table.place,
                     fmt::format("{} {} no \"{}\"", what, key, slot.name),
                     fmt::format("add {} = {{ {} = \"…\" }} ({})", key, slot.name, slot.sentence));
    }
  }
  if (!own && names.empty() && table.table() && !table.table()->empty()) {
    problems.error("unknown-key", table.place, fmt::format("{} takes no {}", what, key), "remove it");
  } else if (!own) {
    report_unknown_keys(table, fmt::format("\"{}\" of {}", key, what), names, problems);
  }
}

}  // namespace periscena
