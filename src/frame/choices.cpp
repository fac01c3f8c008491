#include "frame/choices.h"

#include <periscena/base/names.h>

#include <fmt/format.h>

#include <algorithm>
#include <map>
#include <set>

namespace periscena {
namespace {

/// The names that a pass speaks of: all its texts, however deep.
void collect_texts(const Value& value, std::set<std::string>& into) {
  if (const std::string* text = value.text()) into.insert(*text);
  if (const Value::Array* items = value.array()) {
    for (const Value& item : *items) collect_texts(item, into);
  }
  if (const Value::Table* members = value.table()) {
    for (const ValueMember& member : *members) collect_texts(member.value, into);
  }
}

/// What [choice] says, and which ways the passes know.
class Choices {
 public:
  Choices(const Value& root, Diagnostics& diagnostics) : diagnostics_(diagnostics) {
    const Value* table = root.find("choice");
    if (!table) return;
    if (!table->table()) {
      diagnostics.error("wrong-type", table->place, fmt::format("\"choice\" is {}", table->describe()),
                        "write [choice], then a name and the way for each: lighting = \"deferred\"");
      return;
    }
    for (const ValueMember& member : *table->table()) {
      if (const std::string* way = member.value.text()) {
        chosen_[member.name] = Reference(*way, member.value.place);
      } else {
        diagnostics.error(
            "wrong-type", member.value.place,
            fmt::format("choice \"{}\" wants the name of a way, but this is {}", member.name, member.value.describe()),
            "write it in quotes");
      }
    }
  }

  /// Is the pass one of those that were chosen? Mistakes are told.
  bool wants(const Value& pass) {
    const Value* when = pass.find("when");
    if (!when) return true;
    if (!when->table()) {
      diagnostics_.error("wrong-type", when->place,
                         fmt::format("\"when\" wants a table, but this is {}", when->describe()),
                         "write when = { lighting = \"deferred\" }");
      return true;
    }
    bool wanted = true;
    for (const ValueMember& member : *when->table()) wanted = is_chosen(member) && wanted;
    return wanted;
  }

  /// A choice that no pass knows is most likely misspelt.
  void expect_known() const {
    for (const auto& [name, way] : chosen_) {
      const auto ways = ways_.find(name);
      if (ways == ways_.end()) {
        std::vector<std::string> names;
        for (const auto& [known, of_it] : ways_) names.push_back(known);
        diagnostics_.error("unknown-way", way.place, fmt::format("no pass asks how \"{}\" was chosen", name),
                           names.empty() ? fmt::format("say it in a pass: when = {{ {} = \"{}\" }}", name, way.name)
                                         : name_hint(name, names));
      } else if (!ways->second.contains(way.name)) {
        diagnostics_.error("unknown-way", way.place, fmt::format("\"{}\" has no way \"{}\"", name, way.name),
                           name_hint(way.name, std::vector<std::string>(ways->second.begin(), ways->second.end())));
      }
    }
  }

 private:
  bool is_chosen(const ValueMember& member) {
    std::vector<std::string> ways;
    const auto take = [&](const Value& value) {
      if (const std::string* text = value.text())
        ways.push_back(*text);
      else
        diagnostics_.error("wrong-type", value.place,
                           fmt::format("\"when\" wants names of ways, but this is {}", value.describe()),
                           "write a name in quotes, or a list of them");
    };
    if (const Value::Array* list = member.value.array())
      std::for_each(list->begin(), list->end(), take);
    else
      take(member.value);
    ways_[member.name].insert(ways.begin(), ways.end());
    const auto chosen = chosen_.find(member.name);
    if (chosen == chosen_.end()) {
      diagnostics_.error(
          "unknown-way", member.place, fmt::format("nothing says how \"{}\" is chosen", member.name),
          ways.empty() ? "add it to [choice]" : fmt::format("add [choice] with {} = \"{}\"", member.name, ways[0]));
      return true;
    }
    return std::find(ways.begin(), ways.end(), chosen->second.name) != ways.end();
  }

  Diagnostics& diagnostics_;
  std::map<std::string, Reference> chosen_;
  std::map<std::string, std::set<std::string>> ways_;
};

}  // namespace

void leave_out_unchosen(Value& root, Diagnostics& diagnostics) {
  Choices choices(root, diagnostics);
  std::set<std::string> kept, left_out;
  for (ValueMember& section : *root.table()) {
    auto* passes = std::get_if<Value::Array>(&section.value.data);
    if (section.name != "pass" || !passes) continue;
    std::erase_if(*passes, [&](const Value& pass) {
      const bool wanted = !pass.table() || choices.wants(pass);
      if (!pass.table()) return false;
      for (const ValueMember& member : *pass.table()) {
        if (member.name != "when" && member.name != "name" && member.name != "kind")
          collect_texts(member.value, wanted ? kept : left_out);
      }
      return !wanted;
    });
  }
  choices.expect_known();
  for (ValueMember& section : *root.table()) {
    if (section.name != "target" || !section.value.table()) continue;
    std::erase_if(*section.value.table(), [&](const ValueMember& target) {
      return left_out.contains(target.name) && !kept.contains(target.name);
    });
  }
}

SectionInfo choice_section() {
  return {"[choice]",
          "Which of several ways a frame goes: a name, and the way, for passes that ask by `when`. What only passes of "
          "other ways name is left out with them. `--set choice.lighting=forward` goes another way; `vary` compares "
          "them.",
          {},
          "[choice]\nlighting = \"deferred\"   # or \"forward\"\n\n[[pass]]\nname = \"lock\"\nkind = "
          "\"deferred\"\nwhen = { lighting = "
          "\"deferred\" }\n"};
}

}  // namespace periscena
