#pragma once

#include <periscena/base/keys.h>
#include <periscena/math/vector.h>

#include <nlohmann/json.hpp>

#include <cstdint>
#include <optional>
#include <string>
#include <vector>

namespace periscena::gltf {

using Json = nlohmann::json;

/// A value of a glTF file with the way to it, so that whatever is wrong is told with its place:
/// `meshes[3].primitives[0].mode is "4", but must be a whole number`.
class JsonReader {
 public:
  JsonReader(const Json& value, std::string path, const std::string& file)
      : value_(&value), path_(std::move(path)), file_(&file) {}

  const Json& value() const { return *value_; }
  const std::string& path() const { return path_.empty() ? *file_ : path_; }

  /// @throws Error "broken-gltf": `PATH cause`
  [[noreturn]] void refuse(const std::string& cause, const std::string& mend = {}) const;

  bool has(const char* key) const { return value_->contains(key); }

  /// A member that must be there.
  JsonReader at(const char* key) const;

  /// A member, when it is there.
  std::optional<JsonReader> find(const char* key) const;

  /// A member of `extensions`.
  std::optional<JsonReader> extension(const char* name) const;

  /// What we wrote ourselves, in `extras`.
  std::optional<JsonReader> own() const;

  /// The items of a list that may be missing.
  std::vector<JsonReader> items(const char* key) const;
  std::vector<JsonReader> items() const;

  /// The texts of a list that may be missing.
  std::vector<std::string> texts(const char* key) const;

  /// How many items a list has, and one of them, without making the others.
  std::size_t size() const;
  JsonReader item(std::size_t index) const;

  /// The members of an object.
  std::vector<std::pair<std::string, JsonReader>> members() const;

  void expect_object() const;
  std::string text() const;
  bool boolean() const;
  double number() const;
  std::uint64_t whole(std::uint64_t most = std::uint64_t{1} << 53) const;

  /// An index into something of which there are so many. @param of  "accessors"
  std::size_t index(std::size_t count, const char* of) const;

  std::string text(const char* key, const std::string& otherwise) const;
  bool boolean(const char* key, bool otherwise) const;
  float number(const char* key, float otherwise) const;
  std::uint64_t whole(const char* key, std::uint64_t otherwise) const;
  std::optional<std::size_t> index(const char* key, std::size_t count, const char* of) const;

  /// All of it, for tables of keys. @param depth  lists and objects around it
  Value as_value(int depth = 0) const;

  /// Fills a struct by the keys of a table.
  template <class T>
  void read(const Keys<T>& keys, T& into) const {
    Diagnostics problems;
    keys.read(as_value(), "it", into, problems);
    if (problems.has_errors()) refuse(problems[0]);
  }

  /// As many numbers as `count`.
  std::vector<float> numbers(std::size_t count) const;
  Vec2 vec2(const char* key, const Vec2& otherwise) const;
  Vec3 vec3(const char* key, const Vec3& otherwise) const;

 private:
  [[noreturn]] void refuse(const Diagnostic& cause) const;

  const Json* value_;
  std::string path_;
  const std::string* file_;
};

}  // namespace periscena::gltf
