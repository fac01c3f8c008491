#pragma once

#include <filesystem>
#include <string>

namespace periscena {

/// A file under a random name, opened exclusively, that takes another's place when it is whole. Removed when it did
/// not.
///
/// The file is locked while it is open, which tells it from what a killed process has left behind.
class TemporaryFile {
 public:
  /// @param mode  permissions, as open() takes them
  /// @throws std::system_error when the folder can't be written to
  TemporaryFile(const std::filesystem::path& folder, unsigned mode);
  TemporaryFile(const TemporaryFile&) = delete;
  TemporaryFile& operator=(const TemporaryFile&) = delete;
  ~TemporaryFile();

  int descriptor() const { return descriptor_; }

  /// Renames it to `target`, which it replaces. @throws std::system_error
  void replace(const std::filesystem::path& target);

 private:
  std::filesystem::path path_;
  int descriptor_ = -1;
  bool placed_ = false;
};

/// A folder under a random name, for files that take a place together. Removed, with the files in it, when it did not.
class TemporaryFolder {
 public:
  /// @throws std::system_error when the folder can't be written to
  explicit TemporaryFolder(const std::filesystem::path& parent);
  TemporaryFolder(const TemporaryFolder&) = delete;
  TemporaryFolder& operator=(const TemporaryFolder&) = delete;
  ~TemporaryFolder();

  const std::filesystem::path& path() const { return path_; }

  /// Renames it to `target`, where nothing may be yet. @throws std::system_error
  void place(const std::filesystem::path& target);

  /// Exchanges the two folders in one step: `target` is the old or the new one at any moment. This object is the old
  /// folder after that. @throws std::system_error, also where the file system can't exchange folders
  void exchange(const std::filesystem::path& target);

  /// Leaves the folder where it is.
  void keep();

 private:
  std::filesystem::path path_;
  int descriptor_ = -1;
  bool kept_ = false;
};

/// Removes temporary files and folders that no running process holds, such as a killed one has left.
void remove_leftovers(const std::filesystem::path& folder);

/// Removes all temporary files and folders of this process, and blocks every thread that would make or place one from
/// then on. For a program that is about to end by a signal; call it from a thread, not from a signal handler.
void remove_own_temporaries();

}  // namespace periscena
