#pragma once

#include "scene/gltf/json_reader.h"

#include <periscena/scene/stream.h>

#include <filesystem>
#include <memory>
#include <span>

namespace periscena::gltf {

/// Bytes that somebody keeps alive.
struct Bytes {
  std::span<const std::byte> bytes;
  std::shared_ptr<const void> keeper;
};

/// How much memory may be made of a file: so that a short one can't ask for all of it.
class Budget {
 public:
  explicit Budget(std::size_t file_bytes) : left_(std::size_t{512} << 20) { left_ += 24 * file_bytes; }

  /// @throws Error "broken-gltf" when there is not as much left
  void spend(std::size_t count, std::size_t bytes_each, const JsonReader& where);

 private:
  std::size_t left_;
};

/// A file taken apart: its JSON, and its buffers with those that lie elsewhere.
class Document {
 public:
  Document(std::string file, const std::string& name, std::filesystem::path folder);

  JsonReader root() const { return {json_, "", name_}; }
  const std::string& name() const { return name_; }
  Budget& budget() { return budget_; }

  /// How many there are in one of the file's lists.
  std::size_t count(const char* list) const;
  JsonReader item(const char* list, std::size_t index) const;

  /// The bytes of a buffer view. @throws Error "broken-gltf"
  Bytes view(std::size_t index);

  /// The file that a relative path or a data: URI names.
  /// @throws Error "path-outside", "unreadable-file", "broken-gltf"
  Bytes resource(const JsonReader& uri);

 private:
  void parse_json(std::string_view text);
  void split_glb(std::string_view file);
  Bytes buffer(std::size_t index);

  std::string name_;
  std::filesystem::path folder_;
  std::shared_ptr<const std::string> file_;
  std::string_view binary_;  ///< of a .glb
  bool has_binary_ = false;
  Json json_;
  Budget budget_;
  std::vector<std::optional<Bytes>> buffers_;
};

}  // namespace periscena::gltf
