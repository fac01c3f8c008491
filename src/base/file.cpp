#include "base/open_file.h"

#include <periscena/base/error.h>
#include <periscena/base/file.h>
#include <periscena/base/names.h>
#include <periscena/base/temporary.h>

#include <fmt/format.h>

#include <algorithm>
#include <cerrno>
#include <cstdio>
#include <cstring>
#include <mutex>
#include <system_error>
#include <utility>

#include <fcntl.h>
#include <poll.h>
#include <sys/stat.h>
#include <unistd.h>

namespace periscena {
namespace fs = std::filesystem;
namespace {

[[noreturn]] void unreadable(const fs::path& path, const std::string& cause, std::string mend) {
  fail("unreadable-file", {}, fmt::format("cannot read \"{}\": {}", path.lexically_normal().string(), cause),
       std::move(mend));
}

[[noreturn]] void unwritable(const fs::path& path, const std::string& cause, std::string mend) {
  fail("unwritable-file", {}, fmt::format("cannot write \"{}\": {}", path.string(), cause), std::move(mend));
}

fs::path folder_of(const fs::path& path) {
  return path.has_parent_path() ? path.parent_path() : fs::path(".");
}

/// The file in that folder whose name is nearest, or what else may be wrong.
std::string missing_file_hint(const fs::path& path) {
  std::error_code code;
  if (!fs::is_directory(folder_of(path), code))
    return fmt::format("there is no folder \"{}\", either; check the path", folder_of(path).string());
  std::vector<std::string> names;
  for (const auto& entry : fs::directory_iterator(folder_of(path), code))
    names.push_back(entry.path().filename().string());
  std::sort(names.begin(), names.end());
  const std::string_view nearest = nearest_name(path.filename().string(), names);
  return nearest.empty()
             ? "check the path and the name"
             : fmt::format("did you mean \"{}\"?", (path.parent_path() / nearest).lexically_normal().string());
}

/// Nests in nothing: one FilesRead at a time.
struct ReadLog {
  std::mutex mutex;
  bool open = false;
  std::set<FileIdentity> files;
};

ReadLog& read_log() {
  static auto* const one = new ReadLog;  // outlives all threads
  return *one;
}

FileIdentity identity_of(const struct stat& status) {
  return {static_cast<std::uint64_t>(status.st_dev), static_cast<std::uint64_t>(status.st_ino)};
}

void note_read(const struct stat& status) {
  ReadLog& log = read_log();
  const std::lock_guard lock(log.mutex);
  if (log.open) log.files.insert(identity_of(status));
}

/// The file that a path stands for: symbolic links are followed, to a name where nothing is yet, too.
fs::path without_links(const fs::path& path) {
  constexpr int most = 40;  // as the system follows
  fs::path at = path;
  std::error_code code;
  for (int i = 0; i < most; ++i) {
    if (fs::symlink_status(at, code).type() != fs::file_type::symlink) return at;
    const fs::path target = fs::read_symlink(at, code);
    if (code) return at;
    at = target.is_absolute() ? target : folder_of(at) / target;
  }
  unwritable(path, "its links lead in a circle", "name another file");
}

void write_all(int descriptor, std::span<const std::byte> bytes, const fs::path& path, const char* mend) {
  while (!bytes.empty()) {
    const ssize_t put = ::write(descriptor, bytes.data(), bytes.size());
    if (put < 0 && errno == EINTR) continue;
    if (put < 0) unwritable(path, std::strerror(errno), mend);
    bytes = bytes.subspan(static_cast<std::size_t>(put));
  }
}

/// @param status  of what is there @throws Error for what must not be replaced
void expect_replaceable(const fs::path& path, const struct stat& status) {
  if (S_ISDIR(status.st_mode)) unwritable(path, "it is a folder", "name a file in it");
  if (S_ISBLK(status.st_mode)) unwritable(path, "it is a disk", "name a file");
  if (S_ISSOCK(status.st_mode)) unwritable(path, "it is a socket", "name a file or a pipe");
  if (::faccessat(AT_FDCWD, path.c_str(), W_OK, AT_EACCESS) != 0)
    unwritable(path, "it is write-protected", "allow writing (chmod u+w), or name another file");
  if (S_ISREG(status.st_mode) && status.st_nlink > 1) {
    unwritable(
        path,
        fmt::format("it is one of {} hard links to a file, and replacing it would separate them", status.st_nlink),
        "remove this name first, or name another file");
  }
}

/// Mode and owner are those of the file that is replaced, as far as this process may set them.
void take_over(int descriptor, const struct stat& old) {
  const bool given = ::fchown(descriptor, old.st_uid, old.st_gid) == 0;
  // A file that changes hands must not carry rights of its former owner.
  mode_t mode = old.st_mode & 07777;
  if (!given && ::fchown(descriptor, static_cast<uid_t>(-1), old.st_gid) != 0) mode &= 01777u;
  if (!given) mode &= 03777u;
  ::fchmod(descriptor, mode);
}

/// Waits until something writes into a pipe, which would else be read for ever; a writer may take any time.
/// @param pipe  opened without waiting; reads wait after this @return the first bytes
std::string begin_pipe(int pipe, const fs::path& path) {
  constexpr int seconds = 5, wait_ms = 50;
  for (int i = 0; i < seconds * 1000 / wait_ms; ++i) {
    char block[1 << 12];
    // With no writer, this ends at once; with one that has written nothing yet, it fails.
    const ssize_t got = ::read(pipe, block, sizeof block);
    pollfd writer{pipe, POLLIN, 0};
    if (got != 0 || (::poll(&writer, 1, wait_ms) > 0 && (writer.revents & POLLHUP))) {
      ::fcntl(pipe, F_SETFL, ::fcntl(pipe, F_GETFL) & ~O_NONBLOCK);
      return got > 0 ? std::string(block, static_cast<std::size_t>(got)) : std::string();
    }
  }
  unreadable(path, fmt::format("nothing has written into this pipe for {} seconds", seconds), "start its writer first");
}

}  // namespace

std::optional<fs::path> path_within(const fs::path& folder, const std::string& relative) {
  const fs::path path = relative, inside = path.lexically_normal();
  if (path.is_absolute() || inside.empty() || *inside.begin() == ".." || relative.find('\0') != std::string::npos)
    return std::nullopt;
  const fs::path whole = folder / inside;
  std::error_code code;
  // Made absolute first: of a relative path of which nothing is there, the standard leaves a relative one.
  const fs::path real = fs::weakly_canonical(fs::absolute(whole), code),
                 home = fs::weakly_canonical(fs::absolute(folder.empty() ? fs::path(".") : folder), code);
  const auto beyond = std::mismatch(home.begin(), home.end(), real.begin(), real.end());
  return beyond.first == home.end() ? std::optional(whole) : std::nullopt;
}

OpenFile::~OpenFile() {
  if (descriptor_ >= 0) ::close(descriptor_);
}

InputFile open_to_read(const fs::path& path) {
  struct stat status {};
  // Looked at before it is opened: to open a device may already do something.
  if (::stat(path.c_str(), &status) != 0 && (errno == ENOENT || errno == ENOTDIR))
    unreadable(path, "there is no such file", missing_file_hint(path));
  if (S_ISDIR(status.st_mode)) unreadable(path, "it is a folder", "name a file in it");
  if (S_ISCHR(status.st_mode) || S_ISBLK(status.st_mode) || S_ISSOCK(status.st_mode))
    unreadable(path, "it is a device, not a file", "name a file");
  // Files of the system's own may look regular and wait for something to happen; a pipe may have no writer.
  InputFile input{OpenFile(::open(path.c_str(), O_RDONLY | O_CLOEXEC | O_NOCTTY | O_NONBLOCK))};
  if (!input.file.valid() || ::fstat(input.file.get(), &status) != 0)
    unreadable(path, std::strerror(errno), "check the file's permissions");
  input.regular = S_ISREG(status.st_mode);
  if (!input.regular && !S_ISFIFO(status.st_mode)) unreadable(path, "it is a device, not a file", "name a file");
  input.size = input.regular ? static_cast<std::uint64_t>(status.st_size) : 0;
  note_read(status);
  return input;
}

std::string read_bytes(const fs::path& path, std::size_t most) {
  const InputFile input = open_to_read(path);
  // A pipe need not end.
  constexpr std::size_t longest_pipe = std::size_t{1} << 30;
  if (!input.regular) most = std::min(most, longest_pipe);
  const auto too_long = [&] { unreadable(path, fmt::format("it is over {} bytes", most), "is this the right file?"); };
  if (input.size > most) too_long();
  std::string bytes = input.regular ? std::string() : begin_pipe(input.file.get(), path);
  bytes.reserve(static_cast<std::size_t>(input.size));
  char block[1 << 16];
  for (;;) {
    const ssize_t got = ::read(input.file.get(), block, sizeof block);
    if (got < 0 && errno == EINTR) continue;
    if (got < 0) unreadable(path, std::strerror(errno), "check the disk");
    if (got == 0) return bytes;
    bytes.append(block, static_cast<std::size_t>(got));
    if (bytes.size() > most) too_long();
  }
}

std::shared_ptr<const SourceText> read_text(const fs::path& path, std::size_t most) {
  auto source = std::make_shared<SourceText>();
  source->name = path.lexically_normal().string();
  source->text = read_bytes(path, most);
  constexpr std::string_view byte_order_mark = "\xEF\xBB\xBF";
  if (source->text.starts_with(byte_order_mark)) source->text.erase(0, byte_order_mark.size());
  if (!is_utf8(source->text)) unreadable(path, "it is not UTF-8 text", "is this the right file? save it as UTF-8");
  return source;
}

namespace {

/// @return the file to replace, links followed, and what is there already: nothing, a file, or a stream
std::pair<fs::path, std::optional<struct stat>> expect_target(const fs::path& path) {
  if (path.empty()) unwritable(path, "it is no name", "name a file");
  struct stat status {};
  const bool there = ::stat(path.c_str(), &status) == 0;
  if (path.filename().empty() || (there && S_ISDIR(status.st_mode)))
    unwritable(path, "it is a folder", "name a file in it");
  if (there && !S_ISREG(status.st_mode)) {
    expect_replaceable(path, status);
    return {path, status};
  }
  const fs::path target = without_links(path);
  const fs::path folder = folder_of(target);
  std::error_code code;
  const fs::file_status folder_status = fs::status(folder, code);
  if (folder_status.type() == fs::file_type::not_found) {
    unwritable(path, fmt::format("the folder \"{}\" does not exist", folder.string()),
               fmt::format("make it first: mkdir -p '{}'", folder.string()));
  }
  if (folder_status.type() != fs::file_type::directory) {
    unwritable(path, fmt::format("\"{}\" is not a folder", folder.string()), "name a file in a folder");
  }
  constexpr std::size_t longest_name = 255;
  if (target.filename().native().size() > longest_name)
    unwritable(path, fmt::format("its name is over {} bytes long", longest_name), "choose a shorter one");
  if (::faccessat(AT_FDCWD, folder.c_str(), W_OK | X_OK, AT_EACCESS) != 0) {
    unwritable(path, fmt::format("the folder \"{}\": {}", folder.string(), std::strerror(errno)),
               "choose a folder that you may write to");
  }
  if (!there) return {target, std::nullopt};
  struct stat found {};
  if (::stat(target.c_str(), &found) != 0 || identity_of(found) != identity_of(status))
    unwritable(path, "it leads to a file that has no name", "name the file itself");
  expect_replaceable(target, status);
  return {target, status};
}

constexpr const char* left_as_it_was = "check the free space; the file was left as it was";

}  // namespace

void expect_writable(const fs::path& path) {
  const auto [target, there] = expect_target(path);
  if (!there || S_ISREG(there->st_mode)) remove_leftovers(folder_of(target));
}

void write_file(const fs::path& path, std::span<const std::byte> bytes) {
  const auto [target, there] = expect_target(path);
  if (there && !S_ISREG(there->st_mode)) {
    const OpenFile stream(::open(target.c_str(), O_WRONLY | O_CLOEXEC | O_NOCTTY));
    if (!stream.valid()) unwritable(path, std::strerror(errno), "check its permissions");
    return write_all(stream.get(), bytes, path, "check what reads it");
  }
  try {
    constexpr unsigned anybody = 0666, owner_only = 0600;  // until it is known whose it is
    TemporaryFile file(folder_of(target), there ? owner_only : anybody);
    write_all(file.descriptor(), bytes, path, left_as_it_was);
    if (there) take_over(file.descriptor(), *there);
    // What a network's file system only tells when a file is closed.
    if (::close(::dup(file.descriptor())) != 0) unwritable(path, std::strerror(errno), left_as_it_was);
    file.replace(target);
  } catch (const std::system_error& error) {
    unwritable(path, error.code().message(), "choose a folder that you may write to; nothing was changed");
  }
}

void write_file(const fs::path& path, std::string_view text) {
  write_file(path, std::as_bytes(std::span(text.data(), text.size())));
}

std::optional<FileIdentity> file_identity(const fs::path& path) {
  struct stat status {};
  if (::stat(path.c_str(), &status) != 0) return std::nullopt;
  return identity_of(status);
}

FilesRead::FilesRead() {
  const std::lock_guard lock(read_log().mutex);
  read_log().open = true;
  read_log().files.clear();
}

FilesRead::~FilesRead() {
  const std::lock_guard lock(read_log().mutex);
  read_log().open = false;
  read_log().files.clear();
}

bool FilesRead::contains(const fs::path& path) const {
  const std::optional<FileIdentity> identity = file_identity(path);
  const std::lock_guard lock(read_log().mutex);
  return identity && read_log().files.contains(*identity);
}

bool is_utf8(std::string_view text) {
  for (std::size_t i = 0; i < text.size();) {
    const auto lead = static_cast<unsigned char>(text[i]);
    const int length = lead < 0x80                   ? 1
                       : lead >= 0xC2 && lead < 0xE0 ? 2
                       : lead >= 0xE0 && lead < 0xF0 ? 3
                       : lead >= 0xF0 && lead < 0xF5 ? 4
                                                     : 0;
    if (length == 0 || i + static_cast<std::size_t>(length) > text.size()) return false;
    char32_t point = length == 1 ? lead : lead & (0x7F >> length);
    for (int k = 1; k < length; ++k) {
      const auto next = static_cast<unsigned char>(text[i + static_cast<std::size_t>(k)]);
      if ((next & 0xC0) != 0x80) return false;
      point = point << 6 | (next & 0x3F);
    }
    const bool overlong = (length == 3 && point < 0x800) || (length == 4 && point < 0x10000);
    if (overlong || point > 0x10FFFF || (point >= 0xD800 && point <= 0xDFFF)) return false;
    i += static_cast<std::size_t>(length);
  }
  return true;
}

}  // namespace periscena
