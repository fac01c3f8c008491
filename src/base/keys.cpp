#include <periscena/base/keys.h>
#include <periscena/base/names.h>

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numbers>

namespace periscena {
namespace {

bool in_range(double number, const KeyRules& rules) {
  return number <= rules.maximum && (rules.above_minimum ? number > rules.minimum : number >= rules.minimum);
}

bool accept(double number, const Place& place, const KeyInfo& info, Diagnostics& diagnostics) {
  if (!std::isfinite(number)) {
    diagnostics.error("not-finite", place, fmt::format("\"{}\" is {}, which is no finite number", info.name, number),
                      "give a finite number");
    return false;
  }
  if (in_range(number, info.rules)) return true;
  diagnostics.error("out-of-range", place, fmt::format("\"{}\" is {}, out of its range", info.name, number),
                    fmt::format("choose {}", info.range_text()));
  return false;
}

const void* at(const void* whole, std::size_t offset) {
  return static_cast<const char*>(whole) + offset;
}

void* at(void* whole, std::size_t offset) {
  return static_cast<char*>(whole) + offset;
}

/// Equal, wherever they are from.
bool same(const Value& a, const Value& b) {
  const Value::Array *list = a.array(), *other_list = b.array();
  if (list && other_list) return std::equal(list->begin(), list->end(), other_list->begin(), other_list->end(), same);
  const Value::Table *table = a.table(), *other_table = b.table();
  if (table && other_table) {
    return std::equal(table->begin(), table->end(), other_table->begin(), other_table->end(),
                      [](const ValueMember& one, const ValueMember& other) {
                        return one.name == other.name && same(one.value, other.value);
                      });
  }
  if (list || table || a.data.index() != b.data.index()) return false;
  return std::visit(
      [&](const auto& one) {
        using One = std::decay_t<decltype(one)>;
        if constexpr (std::is_same_v<One, Value::Array> || std::is_same_v<One, Value::Table>)
          return false;
        else
          return one == std::get<One>(b.data);
      },
      a.data);
}

/// `[1, 1]`
std::string example_numbers(int count, const KeyRules& rules) {
  const double one = std::clamp(1.0, rules.minimum, rules.maximum);
  std::string list;
  for (int i = 0; i < count; ++i) list += fmt::format("{}{}", i ? ", " : "[", one);
  return list + "]";
}

}  // namespace

std::string KeyInfo::range_text() const {
  std::string text;
  const bool from = std::isfinite(rules.minimum), to = std::isfinite(rules.maximum);
  const char* above = rules.above_minimum ? "more than" : "at least";
  if (from && to)
    text = rules.above_minimum ? fmt::format("more than {} and at most {}", rules.minimum, rules.maximum)
                               : fmt::format("{} to {}", rules.minimum, rules.maximum);
  if (from && !to) text = fmt::format("{} {}", above, rules.minimum);
  if (!from && to) text = fmt::format("at most {}", rules.maximum);
  if (!rules.choices.empty()) text = quoted_list(rules.choices, 100);
  if (!text.empty() && !rules.unit.empty()) text += " " + rules.unit;
  return text;
}

void KeyTable::add(const KeyOperations& operations, std::size_t offset, const void* standard, std::string name,
                   KeyRules rules, std::string sentence) {
  if (operations.choices && rules.choices.empty()) rules.choices = operations.choices();
  std::string default_text = rules.required ? std::string() : operations.show(standard);
  const bool live = !operations.fixed && !rules.fixed;
  infos_.push_back(
      {std::move(name), operations.name(), std::move(rules), std::move(default_text), std::move(sentence), live});
  members_.push_back({&operations, offset, standard});
}

void KeyTable::add_part(const KeyTable& part, std::size_t offset) {
  infos_.insert(infos_.end(), part.infos_.begin(), part.infos_.end());
  for (const Member& member : part.members_)
    members_.push_back({member.operations, offset + member.offset, member.standard});
}

void KeyTable::add_elsewhere(std::string name, std::string type, KeyRules rules, std::string sentence) {
  infos_.push_back({std::move(name), std::move(type), std::move(rules), "", std::move(sentence)});
  members_.push_back({nullptr, 0, nullptr});
}

std::vector<std::string> KeyTable::names() const {
  std::vector<std::string> names;
  for (const KeyInfo& info : infos_) names.push_back(info.name);
  return names;
}

bool KeyTable::has_value(std::size_t key, const void* in) const {
  const Member& member = members_[key];
  return member.operations && member.operations->is_empty && !member.operations->is_empty(at(in, member.offset));
}

bool KeyTable::read_all(const Value& table, std::string_view what, void* into, Diagnostics& diagnostics) const {
  bool whole = true;
  for (std::size_t i = 0; i < infos_.size(); ++i) {
    const KeyInfo& info = infos_[i];
    const Member& member = members_[i];
    Diagnostics problems;
    if (const Value* value = table.find(info.name)) {
      if (member.operations) member.operations->read(*value, info, at(into, member.offset), problems);
    } else if (info.rules.required && !has_value(i, into)) {
      problems.error("missing-key", table.place, fmt::format("{} has no \"{}\"", what, info.name),
                     fmt::format("add {} = … ({})", info.name, info.sentence));
    }
    whole = whole && !(info.rules.required && problems.has_errors());
    diagnostics.append(problems);
  }
  return whole;
}

Value KeyTable::write_one(std::size_t key, const void* from) const {
  const Member& member = members_[key];
  return member.operations && member.operations->write ? member.operations->write(at(from, member.offset)) : Value();
}

void KeyTable::read_one(std::size_t key, const Value& value, void* into, Diagnostics& diagnostics) const {
  const Member& member = members_[key];
  if (member.operations) member.operations->read(value, infos_[key], at(into, member.offset), diagnostics);
}

Value KeyTable::write_all(const void* from, std::span<const std::string_view> only) const {
  Value::Table table;
  for (std::size_t i = 0; i < infos_.size(); ++i) {
    const KeyInfo& info = infos_[i];
    const Member& member = members_[i];
    if (!member.operations || !member.operations->write) continue;
    if (!only.empty() && std::find(only.begin(), only.end(), info.name) == only.end()) continue;
    Value value = member.operations->write(at(from, member.offset));
    const bool is_default = same(value, member.operations->write(member.standard));
    if (!value.empty() && (info.rules.required || !is_default)) table.push_back({info.name, {}, std::move(value)});
  }
  return {std::move(table), {}};
}

void KeyTable::check_all(const void* from, std::string_view what, const Place& place, Diagnostics& diagnostics) const {
  for (std::size_t i = 0; i < infos_.size(); ++i) {
    const KeyInfo& info = infos_[i];
    const Member& member = members_[i];
    const bool may_be_empty = member.operations && member.operations->is_empty;
    if (!info.rules.required || !may_be_empty || has_value(i, from)) continue;
    diagnostics.error("missing-key", place, fmt::format("{} has no {}", what, info.name),
                      fmt::format("set {} ({})", info.name, info.sentence));
  }
  for (std::size_t i = 0; i < infos_.size(); ++i) {
    const Member& member = members_[i];
    if (member.operations && member.operations->check)
      member.operations->check(at(from, member.offset), infos_[i], place, diagnostics);
  }
}

namespace {

/// To a ten-thousandth, so that 0.53 stays 0.53.
float to_degrees(const void* radians) {
  return static_cast<float>(
      std::round(static_cast<double>(*static_cast<const float*>(radians)) * 180 / std::numbers::pi * 1e4) / 1e4);
}

}  // namespace

constinit const KeyOperations KeyOperations::degrees{
    .name = [] { return KeyType<float>::name(); },
    .show = [](const void* radians) { return KeyType<float>::show(to_degrees(radians)); },
    .read =
        [](const Value& value, const KeyInfo& info, void* radians, Diagnostics& diagnostics) {
          float given = to_degrees(radians);
          KeyType<float>::read(value, info, given, diagnostics);
          *static_cast<float*>(radians) = static_cast<float>(static_cast<double>(given) * std::numbers::pi / 180);
        },
    .check = [](const void* radians, const KeyInfo& info, const Place& place,
                Diagnostics& diagnostics) { KeyType<float>::check(to_degrees(radians), info, place, diagnostics); },
    .write = [](const void* radians) { return KeyType<float>::write(to_degrees(radians)); }};

void report_unknown_keys(const Value& table, std::string_view what, std::span<const std::string> known,
                         Diagnostics& diagnostics) {
  const Value::Table* members = table.table();
  if (!members) return;
  for (const ValueMember& member : *members) {
    if (std::find(known.begin(), known.end(), member.name) != known.end()) continue;
    diagnostics.error("unknown-key", member.place, fmt::format("{} has no key \"{}\"", what, member.name),
                      name_hint(member.name, known));
  }
}

namespace detail {

void wrong_type(const Value& value, const KeyInfo& info, Diagnostics& diagnostics) {
  const bool number = info.type == "number" || info.type == "whole number";
  const bool text = info.type == "text" || info.type == "name";
  const bool list = info.type.starts_with("list of");
  const int numbers = info.type.ends_with(" numbers") ? std::atoi(info.type.c_str()) : 0;
  const bool curve = info.type == "value or curve";
  std::string wanted = (number || text || list || curve ? "a " : "") + info.type;
  if (!info.rules.unit.empty()) wanted += fmt::format(" ({})", info.rules.unit);
  if (!info.rules.choices.empty() && info.rules.choices.size() <= 8) {
    return diagnostics.error("wrong-type", value.place,
                             fmt::format("\"{}\" wants {}, but this is {}", info.name, wanted, value.describe()),
                             name_hint("", info.rules.choices));
  }
  const std::string example =
      !info.default_text.empty() ? fmt::format("write it like {} = {}", info.name, info.default_text)
      : numbers > 1              ? fmt::format("write it like {} = {}", info.name, example_numbers(numbers, info.rules))
      : list && info.type == "list of numbers" ? fmt::format("write it like {} = [1, 2.5]", info.name)
      : list                                   ? fmt::format("write it like {} = [\"…\", \"…\"]", info.name)
      : text                                   ? fmt::format("write it in quotes: {} = \"…\"", info.name)
      : number                                 ? fmt::format("write it without quotes: {} = {}", info.name,
                             std::isfinite(info.rules.minimum) ? std::max(1.0, info.rules.minimum) : 1.0)
                                               : "";
  diagnostics.error("wrong-type", value.place,
                    fmt::format("\"{}\" wants {}, but this is {}", info.name, wanted, value.describe()),
                    fmt::format("{}{}({})", example, example.empty() ? "" : " ", info.sentence));
}

bool read_numbers(const Value& value, const KeyInfo& info, std::span<double> into, bool whole,
                  Diagnostics& diagnostics) {
  const auto read_one = [&](const Value& from, double& number) {
    const bool fits = whole ? std::holds_alternative<std::int64_t>(from.data) : from.number(number);
    if (!fits || !from.number(number)) {
      wrong_type(value, info, diagnostics);
      return false;
    }
    if (!accept(number, from.place, info, diagnostics)) return false;
    const double largest = whole ? static_cast<double>(std::numeric_limits<int>::max())
                                 : static_cast<double>(std::numeric_limits<float>::max());
    if (std::abs(number) <= largest) return true;
    diagnostics.error("out-of-range", from.place, fmt::format("\"{}\" is {}, too large to be held", info.name, number),
                      fmt::format("stay within ±{}", largest));
    return false;
  };
  if (into.size() == 1) return read_one(value, into[0]);
  const Value::Array* list = value.array();
  if (!list || list->size() != into.size()) {
    wrong_type(value, info, diagnostics);
    return false;
  }
  for (std::size_t i = 0; i < into.size(); ++i) {
    if (!read_one((*list)[i], into[i])) return false;
  }
  return true;
}

bool expect_numbers(std::span<const double> numbers, const Place& place, const KeyInfo& info,
                    Diagnostics& diagnostics) {
  for (const double number : numbers) {
    if (!accept(number, place, info, diagnostics)) return false;
  }
  return true;
}

bool read_text(const Value& value, const KeyInfo& info, std::string& into, Diagnostics& diagnostics) {
  const std::string* text = value.text();
  if (!text) {
    wrong_type(value, info, diagnostics);
    return false;
  }
  const auto& choices = info.rules.choices;
  if (!choices.empty() && std::find(choices.begin(), choices.end(), *text) == choices.end()) {
    diagnostics.error("unknown-choice", value.place, fmt::format("\"{}\" can't be \"{}\"", info.name, *text),
                      name_hint(*text, choices));
    return false;
  }
  if (info.rules.required && text->empty()) {
    diagnostics.error("empty-text", value.place, fmt::format("\"{}\" is empty", info.name), info.sentence);
    return false;
  }
  into = *text;
  return true;
}

std::string numbers_text(std::span<const double> numbers) {
  const auto one = [](double number) {
    return std::isfinite(number) ? fmt::format("{:.7g}", number) : std::string("inf");
  };
  // What has no end, such as a corner of a box that holds everything, is best left out.
  if (std::none_of(numbers.begin(), numbers.end(), [](double number) { return std::isfinite(number); })) return "";
  if (numbers.size() == 1) return one(numbers[0]);
  std::string text = "[";
  for (std::size_t i = 0; i < numbers.size(); ++i) text += (i ? ", " : "") + one(numbers[i]);
  return text + "]";
}

}  // namespace detail
}  // namespace periscena
