#include <periscena/base/value.h>

#include <fmt/format.h>

namespace periscena {

bool Value::number(double& into) const {
  if (const auto* whole = std::get_if<std::int64_t>(&data)) {
    into = static_cast<double>(*whole);
    return true;
  }
  if (const auto* real = std::get_if<double>(&data)) {
    into = *real;
    return true;
  }
  return false;
}

const Value* Value::find(std::string_view name) const {
  if (const Table* members = table()) {
    for (const ValueMember& member : *members) {
      if (member.name == name) return &member.value;
    }
  }
  return nullptr;
}

std::string Value::describe() const {
  struct Describe {
    std::string operator()(std::monostate) const { return "nothing"; }
    std::string operator()(bool value) const { return value ? "true" : "false"; }
    std::string operator()(std::int64_t value) const { return fmt::format("the whole number {}", value); }
    std::string operator()(double value) const { return fmt::format("the number {}", value); }
    std::string operator()(const std::string& value) const {
      return value.size() <= 40 ? fmt::format("the text \"{}\"", value) : "a text";
    }
    std::string operator()(const Array& value) const { return fmt::format("a list of {}", value.size()); }
    std::string operator()(const Table&) const { return "a table"; }
  };
  return std::visit(Describe{}, data);
}

}  // namespace periscena
