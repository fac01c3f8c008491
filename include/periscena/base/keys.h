#pragma once

#include <periscena/base/diagnostic.h>
#include <periscena/base/value.h>

#include <array>
#include <limits>
#include <optional>
#include <span>
#include <string>
#include <vector>

namespace periscena {

/// What holds for a key beyond its type.
struct KeyRules {
  std::string unit = {};                                      ///< "metres", "lux"; empty for plain numbers
  double minimum = -std::numeric_limits<double>::infinity();  ///< smallest allowed, for each number of a list
  double maximum = std::numeric_limits<double>::infinity();
  bool above_minimum = false;  ///< the minimum itself is refused
  std::vector<std::string> choices = {};
  bool required = false;
  bool fixed = false;  ///< of a pass: the plan depends on it, so that it can't change while frames run
};

/// One key of a table, said once: the reader, its messages, the reference page and the editor schema all use this.
struct KeyInfo {
  std::string name;
  std::string type;  ///< "number", "3 numbers", "text", "list", "table", …
  KeyRules rules;
  std::string default_text;  ///< as it would be written; empty when there is none
  std::string sentence;
  bool live = false;  ///< of a pass: may change while frames run

  /// `0 < x <= 180 degrees`; empty when anything goes.
  std::string range_text() const;
};

/// How a C++ type is read from a value. Specialised for bool, int, std::uint32_t, float, std::string, Reference, Value
/// (taken as it is), std::array of int or float, std::optional of these; math adds its vectors.
template <class T>
struct KeyType;

namespace detail {
bool read_numbers(const Value& value, const KeyInfo& info, std::span<double> into, bool whole,
                  Diagnostics& diagnostics);
bool read_text(const Value& value, const KeyInfo& info, std::string& into, Diagnostics& diagnostics);
void wrong_type(const Value& value, const KeyInfo& info, Diagnostics& diagnostics);
bool expect_numbers(std::span<const double> numbers, const Place& place, const KeyInfo& info, Diagnostics& diagnostics);
std::string numbers_text(std::span<const double> numbers);

/// A struct with its own defaults.
template <class T>
const T& unfilled() {
  static const T all{};
  return all;
}

/// Where a member is in T, bytes.
/// @tparam Owner  T, or what it derives from
template <class T, class Member, class Owner>
std::size_t member_offset(Member Owner::*member) {
  const T& whole = unfilled<T>();
  return static_cast<std::size_t>(reinterpret_cast<const char*>(&(whole.*member)) -
                                  reinterpret_cast<const char*>(&whole));
}
}  // namespace detail

/// Reports each key of `table` that is none of `known`, with the nearest name.
/// @param what  what the table is, for the message: `pass "mirror"`
void report_unknown_keys(const Value& table, std::string_view what, std::span<const std::string> known,
                         Diagnostics& diagnostics);

/// What tables do with the values of one C++ type, whatever struct they are members of.
struct KeyOperations {
  std::string (*name)() = nullptr;
  std::string (*show)(const void* value) = nullptr;
  void (*read)(const Value& value, const KeyInfo& info, void* into, Diagnostics& diagnostics) = nullptr;
  /// Null where there is nothing to check.
  void (*check)(const void* value, const KeyInfo& info, const Place& place, Diagnostics& diagnostics) = nullptr;
  bool (*is_empty)(const void* value) = nullptr;           ///< null for types that always have a value
  Value (*write)(const void* value) = nullptr;             ///< as `read` takes it; null for types that are not written
  const std::vector<std::string>& (*choices)() = nullptr;  ///< null for all but enumerations
  bool fixed = false;                                      ///< see KeyRules

  template <class T>
  static constexpr KeyOperations of();
  static const KeyOperations degrees;  ///< of a float in radians that is written in degrees
};

/// A table of keys, apart from the type of the struct that they fill.
class KeyTable {
 public:
  const std::vector<KeyInfo>& infos() const { return infos_; }
  std::vector<std::string> names() const;

 protected:
  /// @param offset  of the member in the struct, bytes
  /// @param standard  the member's value in a struct that nobody has filled
  void add(const KeyOperations& operations, std::size_t offset, const void* standard, std::string name, KeyRules rules,
           std::string sentence);
  void add_part(const KeyTable& part, std::size_t offset);
  void add_elsewhere(std::string name, std::string type, KeyRules rules, std::string sentence);
  bool read_all(const Value& table, std::string_view what, void* into, Diagnostics& diagnostics) const;
  Value write_one(std::size_t key, const void* from) const;
  void read_one(std::size_t key, const Value& value, void* into, Diagnostics& diagnostics) const;
  Value write_all(const void* from, std::span<const std::string_view> only) const;
  void check_all(const void* from, std::string_view what, const Place& place, Diagnostics& diagnostics) const;

 private:
  struct Member {
    const KeyOperations* operations;  ///< null: other code reads it
    std::size_t offset;
    const void* standard;
  };

  bool has_value(std::size_t key, const void* in) const;

  std::vector<KeyInfo> infos_;
  std::vector<Member> members_;  ///< by key
};

/// The keys of a table and the struct members that they fill. Defaults are the struct's own member initialisers.
///
///     static const auto keys = Keys<Lens>().key("fov_y_degrees", &Lens::fov_y_degrees,
///                                               {.unit = "degrees", .minimum = 0, .maximum = 180}, "Vertical field of
///                                               view.");
template <class T>
class Keys : public KeyTable {
 public:
  /// @tparam Owner  T, or what it derives from
  template <class Member, class Owner>
  Keys& key(std::string name, Member Owner::*member, KeyRules rules, std::string sentence) {
    static constexpr KeyOperations operations = KeyOperations::of<Member>();
    add(operations, detail::member_offset<T>(member), &(detail::unfilled<T>().*member), std::move(name),
        std::move(rules), std::move(sentence));
    return *this;
  }

  /// The keys of a member, as keys of this table.
  template <class Part>
  Keys& part(Part T::*member, const Keys<Part>& keys) {
    add_part(keys, detail::member_offset<T>(member));
    return *this;
  }

  /// A key that other code reads: a path, or a table of any names. Here it is only documented, and reported when it is
  /// required and missing.
  /// @param type  "text", "table"
  Keys& elsewhere(std::string name, std::string type, KeyRules rules, std::string sentence) {
    add_elsewhere(std::move(name), std::move(type), std::move(rules), std::move(sentence));
    return *this;
  }

  /// A key in degrees, for a member in radians.
  template <class Owner>
  Keys& degrees(std::string name, float Owner::*member, KeyRules rules, std::string sentence) {
    if (rules.unit.empty()) rules.unit = "degrees";
    add(KeyOperations::degrees, detail::member_offset<T>(member), &(detail::unfilled<T>().*member), std::move(name),
        std::move(rules), std::move(sentence));
    return *this;
  }

  /// Fills `into` from the table's keys. What is missing keeps its default; a required name is not missing where `into`
  /// has one already. Wrong types, values out of range and missing required keys are reported. Unknown keys are the
  /// business of report_unknown_keys, as tables may be read in parts.
  /// @param what  what the table is, for messages: `pass "mirror"`
  /// @return are all required keys there, and sound?
  bool read(const Value& table, std::string_view what, T& into, Diagnostics& diagnostics) const {
    return read_all(table, what, &into, diagnostics);
  }

  /// The table from which read() gives an equal struct (keys in degrees: to a ten-thousandth): keys that differ from
  /// their defaults, and those that are required.
  /// @param only  names of keys: no others are written; empty: all
  Value write(const T& from, std::span<const std::string_view> only = {}) const { return write_all(&from, only); }

  /// One key's value; empty where it can't be written. @param key  index into infos()
  Value value(std::size_t key, const T& from) const { return write_one(key, &from); }

  /// Reads one key that is live. @param key  index into infos()
  void read_one(std::size_t key, const Value& value, T& into, Diagnostics& diagnostics) const {
    KeyTable::read_one(key, value, &into, diagnostics);
  }

  /// Reports names that are required and empty, and numbers that are out of their range, as read() does, of a struct
  /// that was filled in C++.
  void check(const T& from, std::string_view what, const Place& place, Diagnostics& diagnostics) const {
    check_all(&from, what, place, diagnostics);
  }
};

template <>
struct KeyType<bool> {
  static std::string name() { return "true or false"; }
  static std::string show(bool value) { return value ? "true" : "false"; }
  static Value write(bool value) { return {value, {}}; }
  static void read(const Value& value, const KeyInfo& info, bool& into, Diagnostics& diagnostics) {
    if (const auto* given = std::get_if<bool>(&value.data)) {
      into = *given;
    } else {
      detail::wrong_type(value, info, diagnostics);
    }
  }
};

/// Lists of numbers of fixed length, with the length 1 for a plain number.
template <class Number, std::size_t count>
struct NumbersKeyType {
  static constexpr bool whole = std::is_integral_v<Number>;
  static std::string name() {
    const std::string noun = whole ? "whole number" : "number";
    return count == 1 ? noun : std::to_string(count) + " " + noun + "s";
  }
  static std::string show(const Number* values) {
    std::array<double, count> numbers{};
    for (std::size_t i = 0; i < count; ++i) numbers[i] = static_cast<double>(values[i]);
    return detail::numbers_text(numbers);
  }
  static Value write(const Number* values) {
    const auto one = [](Number number) -> Value {
      if constexpr (whole) return {static_cast<std::int64_t>(number), {}};
      return {static_cast<double>(number), {}};
    };
    if (count == 1) return one(values[0]);
    Value::Array list;
    for (std::size_t i = 0; i < count; ++i) list.push_back(one(values[i]));
    return {std::move(list), {}};
  }
  static void read(const Value& value, const KeyInfo& info, Number* into, Diagnostics& diagnostics) {
    std::array<double, count> numbers{};
    if (!detail::read_numbers(value, info, numbers, whole, diagnostics)) return;
    for (std::size_t i = 0; i < count; ++i) into[i] = static_cast<Number>(numbers[i]);
  }
  static void check(const Number* values, const KeyInfo& info, const Place& place, Diagnostics& diagnostics) {
    std::array<double, count> numbers{};
    for (std::size_t i = 0; i < count; ++i) {
      numbers[i] = static_cast<double>(values[i]);
      // The nearest float to an end of the range may lie beyond it.
      if constexpr (!whole) {
        for (const double end : {info.rules.minimum, info.rules.maximum})
          numbers[i] = values[i] == static_cast<Number>(end) ? end : numbers[i];
      }
    }
    detail::expect_numbers(numbers, place, info, diagnostics);
  }
};

template <class Number>
requires(std::is_same_v<Number, int> || std::is_same_v<Number, std::uint32_t> || std::is_same_v<Number, float> ||
         std::is_same_v<Number, double>) struct KeyType<Number> {
  using Type = NumbersKeyType<Number, 1>;
  static std::string name() { return Type::name(); }
  static std::string show(Number value) { return Type::show(&value); }
  static Value write(Number value) { return Type::write(&value); }
  static void read(const Value& value, const KeyInfo& info, Number& into, Diagnostics& diagnostics) {
    Type::read(value, info, &into, diagnostics);
  }
  static void check(Number value, const KeyInfo& info, const Place& place, Diagnostics& diagnostics) {
    Type::check(&value, info, place, diagnostics);
  }
};

template <class Number, std::size_t count>
struct KeyType<std::array<Number, count>> {
  using Type = NumbersKeyType<Number, count>;
  static std::string name() { return Type::name(); }
  static std::string show(const std::array<Number, count>& values) { return Type::show(values.data()); }
  static Value write(const std::array<Number, count>& values) { return Type::write(values.data()); }
  static void read(const Value& value, const KeyInfo& info, std::array<Number, count>& into, Diagnostics& diagnostics) {
    Type::read(value, info, into.data(), diagnostics);
  }
  static void check(const std::array<Number, count>& values, const KeyInfo& info, const Place& place,
                    Diagnostics& diagnostics) {
    Type::check(values.data(), info, place, diagnostics);
  }
};

template <>
struct KeyType<std::string> {
  static std::string name() { return "text"; }
  static std::string show(const std::string& value) { return value.empty() ? "" : "\"" + value + "\""; }
  static Value write(const std::string& value) { return {value, {}}; }
  static void read(const Value& value, const KeyInfo& info, std::string& into, Diagnostics& diagnostics) {
    detail::read_text(value, info, into, diagnostics);
  }
};

/// Enumerations whose names, in order, choices_of gives, which lies beside the type.
template <class Enumeration>
requires(std::is_enum_v<Enumeration>) struct KeyType<Enumeration> {
  static const std::vector<std::string>& choices() { return choices_of(Enumeration{}); }
  static std::string name() { return "text"; }
  static std::string show(Enumeration value) { return "\"" + choices()[static_cast<std::size_t>(value)] + "\""; }
  static Value write(Enumeration value) { return {choices()[static_cast<std::size_t>(value)], {}}; }
  static void read(const Value& value, const KeyInfo& info, Enumeration& into, Diagnostics& diagnostics) {
    std::string text;
    if (!detail::read_text(value, info, text, diagnostics)) return;
    for (std::size_t i = 0; i < choices().size(); ++i) {
      if (choices()[i] == text) into = static_cast<Enumeration>(i);
    }
  }
};

template <>
struct KeyType<Reference> {
  static std::string name() { return "name"; }
  static std::string show(const Reference& value) { return KeyType<std::string>::show(value.name); }
  static Value write(const Reference& value) { return {value.name, {}}; }
  static bool is_empty(const Reference& value) { return value.empty(); }
  static void read(const Value& value, const KeyInfo& info, Reference& into, Diagnostics& diagnostics) {
    if (detail::read_text(value, info, into.name, diagnostics)) into.place = value.place;
  }
};

/// Lists of texts, names or numbers, of any length.
template <class Text>
requires(std::is_same_v<Text, std::string> || std::is_same_v<Text, Reference> ||
         std::is_same_v<Text, float>) struct KeyType<std::vector<Text>> {
  static std::string name() { return "list of " + KeyType<Text>::name() + "s"; }
  static std::string show(const std::vector<Text>&) { return ""; }
  static Value write(const std::vector<Text>& values) {
    Value::Array list;
    for (const Text& value : values) list.push_back(KeyType<Text>::write(value));
    return {std::move(list), {}};
  }
  static void check(const std::vector<Text>& values, const KeyInfo& info, const Place& place,
                    Diagnostics& diagnostics) requires(std::is_same_v<Text, float>) {
    for (const Text value : values) KeyType<Text>::check(value, info, place, diagnostics);
  }
  static void read(const Value& value, const KeyInfo& info, std::vector<Text>& into, Diagnostics& diagnostics) {
    const Value::Array* list = value.array();
    if (!list) {
      detail::wrong_type(value, info, diagnostics);
      return;
    }
    into.clear();
    for (const Value& item : *list) KeyType<Text>::read(item, info, into.emplace_back(), diagnostics);
  }
};

template <>
struct KeyType<Value> {
  static std::string name() { return "table or list"; }
  static std::string show(const Value&) { return ""; }
  static void read(const Value& value, const KeyInfo&, Value& into, Diagnostics&) { into = value; }
};

template <class T>
struct KeyType<std::optional<T>> {
  static std::string name() { return KeyType<T>::name(); }
  static std::string show(const std::optional<T>& value) { return value ? KeyType<T>::show(*value) : ""; }
  static Value write(const std::optional<T>& value) { return value ? KeyType<T>::write(*value) : Value{}; }
  static void read(const Value& value, const KeyInfo& info, std::optional<T>& into, Diagnostics& diagnostics) {
    // What could not be read is not there: some types have no value of their own to start from.
    T read{};
    Diagnostics problems;
    KeyType<T>::read(value, info, read, problems);
    if (!problems.has_errors()) into = std::move(read);
    diagnostics.append(problems);
  }
  static void check(const std::optional<T>& value, const KeyInfo& info, const Place& place, Diagnostics& diagnostics) {
    if constexpr (requires { KeyType<T>::check(*value, info, place, diagnostics); }) {
      if (value) KeyType<T>::check(*value, info, place, diagnostics);
    }
  }
};

template <class T>
constexpr KeyOperations KeyOperations::of() {
  using Type = KeyType<T>;
  KeyOperations all;
  all.name = [] { return Type::name(); };
  all.show = [](const void* value) { return Type::show(*static_cast<const T*>(value)); };
  all.read = [](const Value& value, const KeyInfo& info, void* into, Diagnostics& diagnostics) {
    Type::read(value, info, *static_cast<T*>(into), diagnostics);
  };
  if constexpr (requires(const T& value, const KeyInfo& info, Diagnostics& diagnostics) {
                  Type::check(value, info, Place(), diagnostics);
                }) {
    all.check = [](const void* value, const KeyInfo& info, const Place& place, Diagnostics& diagnostics) {
      Type::check(*static_cast<const T*>(value), info, place, diagnostics);
    };
  }
  if constexpr (requires(const T& value) { Type::write(value); })
    all.write = [](const void* value) { return Type::write(*static_cast<const T*>(value)); };
  if constexpr (requires(const T& value) { Type::is_empty(value); })
    all.is_empty = [](const void* value) { return Type::is_empty(*static_cast<const T*>(value)); };
  if constexpr (requires { Type::choices(); })
    all.choices = []() -> const std::vector<std::string>& { return Type::choices(); };
  if constexpr (requires { Type::fixed; }) all.fixed = Type::fixed;
  return all;
}

}  // namespace periscena
