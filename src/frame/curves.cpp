#include "frame/curves.h"

#include <periscena/base/hash.h>
#include <periscena/math/curve_keys.h>

#include <algorithm>
#include <unordered_map>

namespace periscena {
namespace {

/// Tables whose members have names of the user's: none of them is a curve, but its members may be.
enum class Names { ours, users };

bool is_curve(const Value& value, Names names) {
  return names == Names::ours && periscena::is_curve(value);
}

bool holds_curve(const Value& value, Names names = Names::ours) {
  if (is_curve(value, names)) return true;
  if (const Value::Array* items = value.array())
    return std::any_of(items->begin(), items->end(), [](const Value& item) { return holds_curve(item); });
  const Value::Table* members = value.table();
  return members && std::any_of(members->begin(), members->end(),
                                [](const ValueMember& member) { return holds_curve(member.value); });
}

/// Reads all curves in a value. @param path  "light.lamp.intensity_candela", for the seed of noise
void read_curves(const Value& value, const std::string& path, std::vector<Curve>& into, Names names = Names::ours) {
  if (is_curve(value, names)) {
    into.push_back(read_curve(value, content_hash(path)));
    return;
  }
  if (const Value::Array* items = value.array()) {
    for (std::size_t i = 0; i < items->size(); ++i) read_curves((*items)[i], fmt::format("{}.{}", path, i), into);
  }
  if (const Value::Table* members = value.table()) {
    for (const ValueMember& member : *members) read_curves(member.value, path + "." + member.name, into);
  }
}

/// @param next  gives the numbers of the next curve that is met
template <class Next>
Value without_curves(const Value& value, Next& next, Names names = Names::ours) {
  if (is_curve(value, names)) return next(value.place);
  if (const Value::Array* items = value.array()) {
    Value::Array made;
    for (const Value& item : *items) made.push_back(without_curves(item, next));
    return {std::move(made), value.place};
  }
  if (const Value::Table* members = value.table()) {
    Value::Table made;
    for (const ValueMember& member : *members)
      made.push_back({member.name, member.place, without_curves(member.value, next)});
    return {std::move(made), value.place};
  }
  return value;
}

Names names_in(std::string_view key) {
  return key == "uniforms" ? Names::users : Names::ours;
}

}  // namespace

template <class NumbersOf>
ValueMember TimedKey::with(NumbersOf numbers_of) const {
  auto curve = curves.begin();
  const auto next = [&](const Place& place) {
    Value value = write_numbers(numbers_of(*curve), curve->count(), place);
    ++curve;
    return value;
  };
  return {member.name, member.place, without_curves(member.value, next, names_in(member.name))};
}

template <class NumbersOf>
Value TimedSection::with(NumbersOf numbers_of) const {
  Value::Table table;
  for (const TimedKey& key : keys) table.push_back(key.with(numbers_of));
  return {std::move(table), place};
}

Value TimedSection::at(double seconds) const {
  return with([&](const Curve& curve) { return curve.at(seconds); });
}

namespace {

constexpr const char* timed_kinds[] = {"light", "material", "view", "fog", "environment"};

/// Takes the curves out of one section. @return nothing when it has none
std::optional<TimedSection> take_section(const std::string& kind, const std::string& name, const Place& place,
                                         Value& table,
                                         const std::function<bool(const Value&, std::string_view)>& stay_curves,
                                         Diagnostics& diagnostics) {
  if (!table.table()) return std::nullopt;
  // What a pass reads, writes and asks of [choice] goes by names of the user's, and stays as it is.
  const auto is_timed = [&](const ValueMember& member) {
    const bool fixed = kind == "pass" && (member.name == "reads" || member.name == "writes" || member.name == "when" ||
                                          (stay_curves && stay_curves(table, member.name)));
    return !fixed && holds_curve(member.value, names_in(member.name));
  };
  if (std::none_of(table.table()->begin(), table.table()->end(), is_timed)) return std::nullopt;
  TimedSection section{kind, name, place, {}, {}};
  bool any = false;
  Value::Table kept;
  for (ValueMember& member : *table.table()) {
    if (kind == "view" || is_timed(member)) {
      TimedKey key{member, {}};
      const bool sound = collect_mistakes_at(diagnostics, [&] {
        read_curves(member.value, fmt::format("{}.{}.{}", kind, name, member.name), key.curves, names_in(member.name));
      });
      if (!sound) continue;
      any = any || !key.curves.empty();
      member = key.with([](const Curve& curve) { return curve.at(0); });
      section.keys.push_back(std::move(key));
    }
    kept.push_back(std::move(member));
  }
  *table.table() = std::move(kept);
  if (!any) return std::nullopt;
  return section;
}

}  // namespace

std::vector<TimedSection> take_curves(Value& root,
                                      const std::function<bool(const Value& pass, std::string_view key)>& stay_curves,
                                      Diagnostics& diagnostics) {
  std::vector<TimedSection> taken;
  std::unordered_map<std::string, std::size_t> latest;  // of those by a name
  const auto take = [&](const std::string& kind, const std::string& name, const Place& place, Value& table) {
    // What a frame file says of its scene file's things comes later, and counts.
    const std::string path = kind + "." + name;
    if (const auto before = latest.find(path); before != latest.end()) {
      std::erase_if(taken[before->second].keys,
                    [&](const TimedKey& key) { return kind == "view" || table.find(key.member.name); });
    }
    std::optional<TimedSection> section = take_section(kind, name, place, table, stay_curves, diagnostics);
    if (!section) return;
    latest[path] = taken.size();
    taken.push_back(*std::move(section));
  };
  for (ValueMember& section : *root.table()) {
    const bool named = std::find(std::begin(timed_kinds), std::end(timed_kinds), section.name) != std::end(timed_kinds);
    if (named && section.value.table()) {
      for (ValueMember& member : *section.value.table()) take(section.name, member.name, member.place, member.value);
    } else if (auto* passes = std::get_if<Value::Array>(&section.value.data); passes && section.name == "pass") {
      for (Value& pass : *passes) {
        const Value* name = pass.find("name");
        if (name && name->text()) take("pass", *name->text(), name->place, pass);
      }
    }
  }
  return taken;
}

void Timed::set(const TimedSection& section, const Value& table, Diagnostics& diagnostics) const {
  const ValueMember member{section.name, section.place, table};
  if (section.kind == "light")
    read_light(member, *scene_, diagnostics);
  else if (section.kind == "material")
    read_material(member, folder_, *scene_, diagnostics);
  else if (section.kind == "fog")
    read_fog(member, *scene_, diagnostics);
  else if (section.kind == "environment")
    turn_environment(member, *scene_, diagnostics);
  else if (section.kind == "view")
    read_view(member, aspect_, *scene_, diagnostics);
  else if (section.options)
    for (const ValueMember& key : *table.table()) {
      collect_mistakes(key.value.place, diagnostics,
                       [&] { section.options->set(key.name, key.value, key.value.place); });
    }
}

void Timed::prepare(const FrameGraph& graph, Diagnostics& diagnostics) {
  std::vector<TimedSection> sound;
  for (TimedSection& section : sections_) {
    if (section.keys.empty()) continue;
    if (section.kind == "pass") {
      const auto& passes = graph.passes();
      const auto pass =
          std::find_if(passes.begin(), passes.end(), [&](const auto& one) { return one->name == section.name; });
      // What is wrong with it is told already.
      if (pass == passes.end() || (*pass)->problems.has_errors()) continue;
      if (!collect_mistakes(section.place, diagnostics, [&] { section.options = graph.options(section.name); }))
        continue;
    }
    Diagnostics found;
    collect_mistakes_at(found, [&] { try_extremes(section, found); });
    if (!found.has_errors()) set(section, section.at(0), found);
    if (!found.has_errors()) sound.push_back(std::move(section));
    // What is wrong at time 0 was told when the section was read.
    for (const Diagnostic& one : found) {
      const bool told = std::any_of(diagnostics.begin(), diagnostics.end(), [&](const Diagnostic& before) {
        return before.slug == one.slug && before.place.line == one.place.line &&
               before.place.column == one.place.column && before.place.source == one.place.source;
      });
      if (!told) diagnostics.add(one);
    }
  }
  sections_ = std::move(sound);
}

void Timed::try_extremes(const TimedSection& section, Diagnostics& found) const {
  for (const std::size_t end : {std::size_t{0}, std::size_t{1}}) {
    set(section, section.with([&](const Curve& curve) { return curve.extremes()[end]; }), found);
    if (found.has_errors()) return;
  }
}

void Timed::set_time(double seconds) const {
  Diagnostics found;
  for (const TimedSection& section : sections_) set(section, section.at(seconds), found);
  if (found.has_errors()) throw Mistake(std::move(found));
}

void follow_curves(std::vector<TimedSection> sections, std::shared_ptr<Scene> scene, std::filesystem::path folder,
                   float aspect, FrameGraph& graph, Diagnostics& diagnostics) {
  if (sections.empty()) return;
  const auto timed = std::make_shared<Timed>(std::move(sections), std::move(scene), std::move(folder), aspect);
  timed->prepare(graph, diagnostics);
  if (!timed->empty()) graph.before_each_frame([timed](double seconds) { timed->set_time(seconds); });
}

SectionInfo curve_section() {
  return {
      "key = { curve = [[seconds, value], …] }",
      "A number, a list of numbers or a colour as a function of absolute time, instead of a value: for keys of passes "
      "that are live, and for keys of lights, materials, views and fogs, and for the rotation and intensity of "
      "environments. A key of the type \"value or curve\" has the curve itself as its value.",
      curve_keys().infos(),
      "[light.lamp]\nkind              = \"point\"\nintensity_candela = { noise = [700, 900], rate = 9 }\n\n[[pass]]\n"
      "name     = \"glow\"\nkind     = \"bloom\"\nstrength = { curve = [[0, 0.05], [2, 0.4], [4, 0.05]], ease = "
      "\"smooth\", "
      "repeat = true }\n"};
}

}  // namespace periscena
