#include "frame/overrides.h"

#include "frame/toml_value.h"

#include <periscena/base/names.h>

#include <fmt/format.h>

#include <algorithm>
#include <utility>

namespace periscena {
namespace {

/// The things of a section and their names: members of [target.…], or tables of [[pass]] by their key "name".
std::vector<std::pair<std::string, Value*>> named_things(Value& section) {
  std::vector<std::pair<std::string, Value*>> things;
  if (Value::Table* table = section.table()) {
    for (ValueMember& member : *table) things.emplace_back(member.name, &member.value);
  } else if (auto* array = std::get_if<Value::Array>(&section.data)) {
    for (Value& item : *array) {
      const Value* name = item.find("name");
      if (name && name->text()) things.emplace_back(*name->text(), &item);
    }
  }
  return things;
}

Value* member(Value& table, const std::string& name) {
  return const_cast<Value*>(std::as_const(table).find(name));
}

/// The value as TOML, else as a bare word.
std::optional<Value> parse_value(const std::string& text, const Place& place) {
  const auto source = std::make_shared<SourceText>(SourceText{"--set", "value = " + text});
  Diagnostics ignored;
  std::optional<Value> root = parse_toml(source, ignored);
  Value value;
  if (root && root->table()->size() == 1) {
    value = root->table()->front().value;
  } else if (!text.empty() && text.find_first_of("\"'[]{}=\n") == text.npos) {
    value.data = text;
  } else {
    return std::nullopt;
  }
  // Whatever lies within, the argument is the place to show.
  const auto put_place = [&](auto& self, Value& at) -> void {
    at.place = place;
    if (auto* items = std::get_if<Value::Array>(&at.data)) {
      for (Value& item : *items) self(self, item);
    } else if (Value::Table* members = at.table()) {
      for (ValueMember& m : *members) self(self, m.value);
    }
  };
  put_place(put_place, value);
  return value;
}

/// Follows "a.b.c" from `at`, making tables on the way, and sets the last.
void set_path(Value& start, std::string path, Value value, const Place& place, Diagnostics& diagnostics) {
  if (static_cast<std::size_t>(std::count(path.begin(), path.end(), '.')) > deepest_value) {
    diagnostics.error("bad-override", place, fmt::format("the key has over {} parts", deepest_value),
                      "no key of a frame file lies that deep");
    return;
  }
  Value* at = &start;
  for (;;) {
    Value::Table* table = at->table();
    if (!table) {
      diagnostics.error("bad-override", place,
                        fmt::format("\"{}\" can't be set: it lies in {}, not in a table", path, at->describe()),
                        "set the whole value");
      return;
    }
    const std::size_t dot = path.find('.');
    const std::string name = path.substr(0, dot);
    Value* next = member(*at, name);
    if (!next) {
      table->push_back({name, place, {}});
      next = &table->back().value;
      if (dot != path.npos) next->data = Value::Table{};
      next->place = place;
    }
    if (dot == path.npos) {
      *next = std::move(value);
      return;
    }
    at = next;
    path.erase(0, dot + 1);
  }
}

}  // namespace

void apply_override(const std::string& text, Value& root, Diagnostics& diagnostics) {
  const auto source = std::make_shared<SourceText>(SourceText{"--set", text});
  const Place whole{source, nullptr, 1, 1, static_cast<std::int32_t>(text.size())};
  const char* form =
      "write SECTION.NAME.KEY=VALUE, such as pass.finish.uniforms.exposure_ev100=11 or frame.size=[640,360]";
  const std::size_t equals = text.find('=');
  const std::size_t dot = text.find('.');
  if (equals == text.npos || dot == text.npos || dot > equals || equals == 0) {
    diagnostics.error("bad-override", whole, "this is no SECTION.NAME.KEY=VALUE", form);
    return;
  }
  const std::string path = text.substr(0, equals);
  Place value_place = whole;
  value_place.column = static_cast<std::int32_t>(equals) + 2;
  value_place.length = std::max(1, static_cast<std::int32_t>(text.size() - equals) - 1);
  std::optional<Value> value = parse_value(text.substr(equals + 1), value_place);
  if (!value) {
    diagnostics.error("bad-override", value_place, "this is no value",
                      "write a TOML value: 0.5, [1, 2, 3], \"text\", true");
    return;
  }
  Place path_place = whole;
  path_place.length = static_cast<std::int32_t>(equals);
  const std::string section_name = path.substr(0, dot);
  std::string rest = path.substr(dot + 1);
  // A name in quotes, as it stands in the file.
  if (const std::size_t end = rest.find("\".", 1); rest[0] == '"' && end != rest.npos)
    rest = rest.substr(1, end - 1) + rest.substr(end + 1);
  // Sections of which there is one.
  if (section_name == "frame" || section_name == "choice") {
    if (!root.find(section_name))
      root.table()->push_back({section_name, path_place, Value{Value::Table{}, path_place}});
    set_path(*member(root, section_name), rest, std::move(*value), path_place, diagnostics);
    return;
  }
  Value* section = member(root, section_name);
  if (!section) {
    std::vector<std::string> names{"frame"};
    for (const ValueMember& known : *root.table()) {
      if (known.name != names.front()) names.push_back(known.name);
    }
    diagnostics.error("bad-override", path_place, fmt::format("the file has no section \"{}\"", section_name),
                      name_hint(section_name, names));
    return;
  }
  // Names may hold dots themselves: the longest that fits is meant.
  std::pair<std::string, Value*> best;
  std::vector<std::string> names;
  for (const auto& thing : named_things(*section)) {
    names.push_back(thing.first);
    if (rest.starts_with(thing.first + ".") && thing.first.size() >= best.first.size()) best = thing;
  }
  if (std::find(names.begin(), names.end(), rest) != names.end() && !best.second) {
    diagnostics.error("bad-override", path_place,
                      fmt::format("this names the {} \"{}\", but no key", section_name, rest),
                      fmt::format("name the key: {}.{}.KEY=VALUE", section_name, rest));
    return;
  }
  if (!best.second) {
    const std::string wanted = rest.substr(0, rest.rfind('.'));
    diagnostics.error("bad-override", path_place,
                      fmt::format("there is no {} \"{}\" with a key to set", section_name, wanted),
                      name_hint(wanted, names));
    return;
  }
  set_path(*best.second, rest.substr(best.first.size() + 1), std::move(*value), path_place, diagnostics);
}

}  // namespace periscena
