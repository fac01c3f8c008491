#pragma once

#include <cstdint>
#include <filesystem>
#include <utility>

namespace periscena {

/// A file descriptor that is closed in the end.
class OpenFile {
 public:
  OpenFile() = default;
  explicit OpenFile(int descriptor) : descriptor_(descriptor) {}
  OpenFile(OpenFile&& other) noexcept : descriptor_(other.release()) {}
  OpenFile& operator=(OpenFile&& other) noexcept {
    std::swap(descriptor_, other.descriptor_);
    return *this;
  }
  ~OpenFile();

  int get() const { return descriptor_; }
  bool valid() const { return descriptor_ >= 0; }
  int release() { return std::exchange(descriptor_, -1); }

 private:
  int descriptor_ = -1;
};

/// A file to read. Everything that the library reads is opened here, which is what FilesRead relies on.
struct InputFile {
  OpenFile file;
  bool regular = false;    ///< it has a size and can be read from anywhere; else it is a pipe
  std::uint64_t size = 0;  ///< bytes, of a regular file
};

/// @throws Error "unreadable-file": missing, a folder, a device, not readable
InputFile open_to_read(const std::filesystem::path& path);

}  // namespace periscena
