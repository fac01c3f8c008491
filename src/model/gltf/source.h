#pragma once

#include <filesystem>
#include <map>
#include <memory>
#include <span>
#include <string>

namespace periscena::gltf {

/// Bytes that somebody keeps alive.
struct Bytes {
  std::span<const std::byte> bytes;
  std::shared_ptr<const void> keeper;

  std::string_view text() const { return {reinterpret_cast<const char*>(bytes.data()), bytes.size()}; }
};

/// Where the bytes of a model come from.
class Source {
 public:
  Source() = default;
  Source(const Source&) = delete;
  Source& operator=(const Source&) = delete;
  virtual ~Source() = default;

  virtual std::uint64_t size() const = 0;

  /// Bytes within the size.
  virtual Bytes read(std::uint64_t offset, std::uint64_t length) = 0;

  /// Bytes that read() would make room for: 0 when they are there already.
  virtual std::uint64_t cost(std::uint64_t offset, std::uint64_t length) const = 0;
};

/// A file that is in memory already.
std::shared_ptr<Source> memory_source(std::string bytes);

/// A file whose parts are only read when they are wanted, each into memory of its own: what is converted then does not
/// stay. Parts that somebody holds are not read again. @throws Error "unreadable-file"
std::shared_ptr<Source> file_source(const std::filesystem::path& path);

}  // namespace periscena::gltf
