#pragma once

#include "model/gltf/json_reader.h"
#include "model/gltf/source.h"

#include <periscena/scene/stream.h>

#include <filesystem>
#include <memory>
#include <span>

namespace periscena::gltf {

/// How much memory may be made of a file: so that a short one can't ask for all of it.
class Budget {
 public:
  explicit Budget(std::size_t file_bytes) : left_(std::size_t{512} << 20) { left_ += 24 * file_bytes; }

  /// @throws Error "broken-gltf" when there is not as much left
  void spend(std::size_t count, std::size_t bytes_each, const JsonReader& where);

 private:
  std::size_t left_;
};

/// A part of a source.
struct Part {
  std::shared_ptr<Source> source;
  std::uint64_t offset = 0, size = 0;
};

/// A file taken apart: its JSON, and its buffers with those that lie elsewhere.
class Document {
 public:
  Document(std::shared_ptr<Source> file, const std::string& name, std::filesystem::path folder);

  JsonReader root() const { return {json_, "", name_}; }
  const std::string& name() const { return name_; }
  Budget& budget() { return budget_; }

  /// How many there are in one of the file's lists.
  std::size_t count(const char* list) const;
  JsonReader item(const char* list, std::size_t index) const;

  /// Where a buffer view lies. @throws Error "broken-gltf"
  Part view(std::size_t index);

  /// The file that a relative path or a data: URI names.
  /// @throws Error "path-outside", "unreadable-file", "broken-gltf"
  Part resource(const JsonReader& uri);

  /// @throws Error "path-outside"
  std::filesystem::path file_beside(const JsonReader& where, const std::string& relative) const;

  /// Bytes of a part. @param offset, length  within it; @param where  who wants them
  Bytes read(const Part& part, std::uint64_t offset, std::uint64_t length, const JsonReader& where);
  Bytes read(const Part& part, const JsonReader& where) { return read(part, 0, part.size, where); }

 private:
  void parse_json(std::string_view text);
  void split_glb();
  Part buffer(std::size_t index);

  std::string name_;
  std::filesystem::path folder_;
  std::shared_ptr<Source> file_;
  std::optional<Part> binary_;  ///< of a .glb
  Json json_;
  Budget budget_;
  std::vector<std::optional<Part>> buffers_;
};

}  // namespace periscena::gltf
