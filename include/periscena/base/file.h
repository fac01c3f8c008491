#pragma once

#include <periscena/base/place.h>

#include <compare>
#include <cstddef>
#include <cstdint>
#include <filesystem>
#include <memory>
#include <optional>
#include <set>
#include <span>
#include <string>
#include <utility>

namespace periscena {

/// The whole file as text, without a byte order mark; its name is the path without detours ("a/../b" is "b").
/// @throws Error "unreadable-file": missing, a folder, a device, not readable, not UTF-8, or over `most` bytes
std::shared_ptr<const SourceText> read_text(const std::filesystem::path& path, std::size_t most = 64u << 20);

/// A file that something read from `folder` names. @param relative  with / between folders
/// @return nothing when it lies outside of the folder, by its name or by a link, or when it is no name
std::optional<std::filesystem::path> path_within(const std::filesystem::path& folder, const std::string& relative);

/// The whole file as bytes; of a pipe, 1 GiB at most. @throws Error as read_text, without the check of the encoding
std::string read_bytes(const std::filesystem::path& path, std::size_t most = std::size_t{4} << 30);

/// Writes a temporary file in the same folder and renames it, so that the path always holds either the old file or the
/// whole new one.
///
/// A file that is replaced keeps its mode, and its owner where this process may give files away. A symbolic link is
/// followed: the file that it names is replaced. A pipe or a character device is written to as it is. The temporary
/// file has a random name, is opened exclusively, and is locked while it is written (see expect_writable).
/// @throws Error "unwritable-file": no such folder, no permission, no space, a write-protected file, a file with
/// further hard links (replacing one name would separate it from the others), a block device
void write_file(const std::filesystem::path& path, std::span<const std::byte> bytes);
void write_file(const std::filesystem::path& path, std::string_view text);

/// Checks early what write_file would refuse, and removes temporary files that a killed process has left in the folder.
/// @throws Error "unwritable-file"
void expect_writable(const std::filesystem::path& path);

/// Is this byte sequence valid UTF-8 (RFC 3629)?
bool is_utf8(std::string_view text);

/// Which file a path leads to, whatever the path's spelling: equal for links to one file.
struct FileIdentity {
  std::uint64_t device = 0, number = 0;
  auto operator<=>(const FileIdentity&) const = default;
};

/// Nothing when there is no such file. Links are followed.
std::optional<FileIdentity> file_identity(const std::filesystem::path& path);

/// Collects which files the process reads through this library while the object exists: a program that writes files can
/// refuse to overwrite its own inputs. One at a time.
class FilesRead {
 public:
  FilesRead();
  FilesRead(const FilesRead&) = delete;
  FilesRead& operator=(const FilesRead&) = delete;
  ~FilesRead();

  /// Was the file that this path leads to read?
  bool contains(const std::filesystem::path& path) const;
};

}  // namespace periscena
