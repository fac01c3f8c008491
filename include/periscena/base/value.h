#pragma once

#include <periscena/base/reference.h>

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

}  // namespace periscena
