#pragma once

#include <cstddef>
#include <cstdint>
#include <filesystem>
#include <optional>
#include <string>
#include <vector>

namespace periscena::gl {

/// What a driver made of a program (OpenGL 4.5, 7.5).
struct ProgramBinary {
  std::uint32_t format = 0;
  std::vector<std::byte> bytes;
};

/// Compiled programs in a folder, one file each. Whatever goes wrong there only costs time: nothing here throws.
class ProgramFiles {
 public:
  /// @param driver  what binaries depend on @param folder  empty: nothing is kept
  ProgramFiles(std::string driver, std::filesystem::path folder);

  bool used() const { return !folder_.empty(); }

  /// Is there a file for it? It may still be of no use.
  bool contains(const std::string& text) const;

  /// @return nothing unless the file is whole, and of this driver and this text
  std::optional<ProgramBinary> read(const std::string& text) const;

  void write(const std::string& text, const ProgramBinary& binary);

  /// What the driver refused.
  void drop(const std::string& text) const;

 private:
  std::filesystem::path path_of(const std::string& text) const;
  void make_room();

  std::string driver_;
  std::filesystem::path folder_;
  std::uintmax_t unchecked_bytes_ = 0;  ///< written since the folder's size was looked at; 0: it never was
};

}  // namespace periscena::gl
