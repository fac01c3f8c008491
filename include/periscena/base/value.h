#pragma once

#include <periscena/base/place.h>

#include <cstdint>
#include <string>
#include <string_view>
#include <variant>
#include <vector>

namespace periscena {

struct ValueMember;

/// A value that was read from a text (a TOML file, a `--set`), with the place it came from: the form in which
/// descriptions reach the checks, whatever their syntax was.
struct Value {
  using Array = std::vector<Value>;
  using Table = std::vector<ValueMember>;  ///< in the order of the text; names are unique

  std::variant<std::monostate, bool, std::int64_t, double, std::string, Array, Table> data;
  Place place;

  bool empty() const { return std::holds_alternative<std::monostate>(data); }
  const std::string* text() const { return std::get_if<std::string>(&data); }
  const Array* array() const { return std::get_if<Array>(&data); }
  const Table* table() const { return std::get_if<Table>(&data); }
  Table* table() { return std::get_if<Table>(&data); }

  /// Whole numbers count as numbers. @return false when it is neither
  bool number(double& into) const;

  /// A member of a table; null when there is none or this is no table.
  const Value* find(std::string_view name) const;

  /// "a text", "a whole number", "a list of 3", …: for messages.
  std::string describe() const;
};

struct ValueMember {
  std::string name;
  Place place;  ///< of the name
  Value value;
};

/// A name that points at something declared elsewhere (a view, a light, a target, a file), with the place where it was
/// said.
struct Reference {
  std::string name;
  Place place;

  Reference() = default;
  Reference(std::string text, Place where) : name(std::move(text)), place(std::move(where)) {}
  Reference(const char* text, std::source_location location = std::source_location::current())
      : name(text), place(Place::here(location)) {}
  Reference(std::string text, std::source_location location = std::source_location::current())
      : name(std::move(text)), place(Place::here(location)) {}

  bool empty() const { return name.empty(); }
};

}  // namespace periscena
