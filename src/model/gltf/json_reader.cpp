#include "model/gltf/json_reader.h"

#include <periscena/base/error.h>

#include <fmt/format.h>

#include <cmath>

namespace periscena::gltf {
namespace {

std::string shown(const Json& value) {
  if (value.is_object()) return "an object";
  if (value.is_array()) return fmt::format("a list of {}", value.size());
  std::string text = value.dump(-1, ' ', false, Json::error_handler_t::replace);
  if (text.size() > 40) text = text.substr(0, 37) + "…";
  return text;
}

}  // namespace

void JsonReader::refuse(const std::string& cause, const std::string& mend) const {
  fail("broken-gltf", Place::file(*file_), fmt::format("{} {}", path(), cause),
       mend.empty() ? "export the file again" : mend);
}

JsonReader JsonReader::at(const char* key) const {
  expect_object();
  if (!value_->contains(key)) refuse(fmt::format("has no \"{}\"", key));
  return {(*value_)[key], path_.empty() ? key : fmt::format("{}.{}", path_, key), *file_};
}

std::optional<JsonReader> JsonReader::find(const char* key) const {
  expect_object();
  if (!value_->contains(key)) return std::nullopt;
  return at(key);
}

std::optional<JsonReader> JsonReader::extension(const char* name) const {
  const auto extensions = find("extensions");
  return extensions ? extensions->find(name) : std::nullopt;
}

std::optional<JsonReader> JsonReader::own() const {
  const auto extras = find("extras");
  if (!extras || !extras->value().is_object()) return std::nullopt;
  return extras->find("periscena");
}

std::size_t JsonReader::size() const {
  if (!value_->is_array()) refuse(fmt::format("is {}, but must be a list", shown(*value_)));
  return value_->size();
}

JsonReader JsonReader::item(std::size_t index) const {
  return {(*value_)[index], fmt::format("{}[{}]", path_, index), *file_};
}

std::vector<JsonReader> JsonReader::items() const {
  std::vector<JsonReader> items;
  items.reserve(size());
  for (std::size_t i = 0; i < size(); ++i) items.push_back(item(i));
  return items;
}

std::vector<JsonReader> JsonReader::items(const char* key) const {
  const auto list = find(key);
  return list ? list->items() : std::vector<JsonReader>();
}

std::vector<std::string> JsonReader::texts(const char* key) const {
  std::vector<std::string> texts;
  for (const JsonReader& item : items(key)) texts.push_back(item.text());
  return texts;
}

std::vector<std::pair<std::string, JsonReader>> JsonReader::members() const {
  expect_object();
  std::vector<std::pair<std::string, JsonReader>> members;
  for (const auto& [key, value] : value_->items())
    members.emplace_back(key, JsonReader(value, fmt::format("{}.{}", path_, key), *file_));
  return members;
}

void JsonReader::expect_object() const {
  if (!value_->is_object()) refuse(fmt::format("is {}, but must be an object", shown(*value_)));
}

std::string JsonReader::text() const {
  if (!value_->is_string()) refuse(fmt::format("is {}, but must be text", shown(*value_)));
  return value_->get<std::string>();
}

bool JsonReader::boolean() const {
  if (!value_->is_boolean()) refuse(fmt::format("is {}, but must be true or false", shown(*value_)));
  return value_->get<bool>();
}

double JsonReader::number() const {
  if (!value_->is_number()) refuse(fmt::format("is {}, but must be a number", shown(*value_)));
  const auto number = value_->get<double>();
  if (!std::isfinite(static_cast<float>(number))) refuse(fmt::format("is {}, too large to be held", shown(*value_)));
  return number;
}

std::uint64_t JsonReader::whole(std::uint64_t most) const {
  const bool whole = value_->is_number() && number() >= 0 && number() == std::floor(number());
  if (!whole) refuse(fmt::format("is {}, but must be a whole number, 0 or more", shown(*value_)));
  if (number() > static_cast<double>(most)) refuse(fmt::format("is {}, more than {}", shown(*value_), most));
  return static_cast<std::uint64_t>(number());
}

std::size_t JsonReader::index(std::size_t count, const char* of) const {
  const std::uint64_t index = whole();
  if (index >= count) refuse(fmt::format("is {}, but there are {} {}", index, count, of), "indices count from 0");
  return static_cast<std::size_t>(index);
}

std::string JsonReader::text(const char* key, const std::string& otherwise) const {
  const auto member = find(key);
  return member ? member->text() : otherwise;
}

bool JsonReader::boolean(const char* key, bool otherwise) const {
  const auto member = find(key);
  return member ? member->boolean() : otherwise;
}

float JsonReader::number(const char* key, float otherwise) const {
  const auto member = find(key);
  return member ? static_cast<float>(member->number()) : otherwise;
}

std::uint64_t JsonReader::whole(const char* key, std::uint64_t otherwise) const {
  const auto member = find(key);
  return member ? member->whole() : otherwise;
}

std::optional<std::size_t> JsonReader::index(const char* key, std::size_t count, const char* of) const {
  const auto member = find(key);
  return member ? std::optional(member->index(count, of)) : std::nullopt;
}

Value JsonReader::as_value(int depth) const {
  // Tables of keys hold lists of numbers and texts: what is deeper is none of theirs, and could be endless.
  if (depth > 4) return {};
  const Json& json = *value_;
  if (json.is_boolean()) return {json.get<bool>(), {}};
  if (json.is_number_integer()) return {json.get<std::int64_t>(), {}};
  if (json.is_number()) return {json.get<double>(), {}};
  if (json.is_string()) return {json.get<std::string>(), {}};
  if (json.is_array()) {
    Value::Array list;
    for (const JsonReader& item : items()) list.push_back(item.as_value(depth + 1));
    return {std::move(list), {}};
  }
  if (!json.is_object()) return {};
  Value::Table table;
  for (const auto& [key, member] : members()) table.push_back({key, {}, member.as_value(depth + 1)});
  return {std::move(table), {}};
}

void JsonReader::refuse(const Diagnostic& cause) const {
  // How to add a key is said for frame files; a model is written again.
  refuse("is not sound: " + cause.message, cause.slug == "missing-key" ? std::string() : cause.mend);
}

std::vector<float> JsonReader::numbers(std::size_t count) const {
  if (!value_->is_array() || value_->size() != count)
    refuse(fmt::format("is {}, but must be {} numbers", shown(*value_), count));
  std::vector<float> numbers;
  for (const JsonReader& item : items()) numbers.push_back(static_cast<float>(item.number()));
  return numbers;
}

Vec2 JsonReader::vec2(const char* key, const Vec2& otherwise) const {
  const auto member = find(key);
  return member ? Vec2::of_numbers(member->numbers(2).data()) : otherwise;
}

Vec3 JsonReader::vec3(const char* key, const Vec3& otherwise) const {
  const auto member = find(key);
  return member ? Vec3::of_numbers(member->numbers(3).data()) : otherwise;
}

}  // namespace periscena::gltf
