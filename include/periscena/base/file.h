#pragma once

#include <periscena/base/place.h>

#include <cstddef>
#include <filesystem>
#include <memory>
#include <optional>
#include <span>
#include <string>

namespace periscena {

/// The whole file as text; its name is the path without detours ("a/../b" is "b").
/// @throws Error "unreadable-file": missing, a directory, not readable, not UTF-8, or over `most` bytes
std::shared_ptr<const SourceText> read_text(const std::filesystem::path& path, std::size_t most = 64u << 20);

/// A file that something read from `folder` names. @param relative  with / between folders
/// @return nothing when it lies outside of the folder, by its name or by a link, or when it is no name
std::optional<std::filesystem::path> path_within(const std::filesystem::path& folder, const std::string& relative);

/// The whole file as bytes. @throws Error as read_text, without the check of the encoding
std::string read_bytes(const std::filesystem::path& path, std::size_t most = std::size_t{4} << 30);

/// Writes beside the target and renames, so that whatever stops us, the target is either the old file or the whole new
/// one.
/// @throws Error "unwritable-file": no such folder, no permission, no space
void write_file(const std::filesystem::path& path, std::span<const std::byte> bytes);
void write_file(const std::filesystem::path& path, std::string_view text);

/// Says early whether write_file has a chance: the folder exists and may be written, and the path is not a folder.
/// @throws Error "unwritable-file"
void expect_writable(const std::filesystem::path& path);

/// Is this byte sequence valid UTF-8 (RFC 3629)?
bool is_utf8(std::string_view text);

}  // namespace periscena
