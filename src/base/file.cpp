#include <periscena/base/error.h>
#include <periscena/base/file.h>
#include <periscena/base/names.h>

#include <fmt/format.h>

#include <algorithm>
#include <cerrno>
#include <cstdio>
#include <cstring>
#include <system_error>
#include <utility>

#include <fcntl.h>
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

class OpenFile {
 public:
  explicit OpenFile(int descriptor) : descriptor_(descriptor) {}
  OpenFile(const OpenFile&) = delete;
  OpenFile& operator=(const OpenFile&) = delete;
  ~OpenFile() {
    if (descriptor_ >= 0) ::close(descriptor_);
  }
  int get() const { return descriptor_; }
  int release() { return std::exchange(descriptor_, -1); }

 private:
  int descriptor_;
};

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

std::string read_bytes(const fs::path& path, std::size_t most) {
  std::error_code code;
  const fs::file_status status = fs::status(path, code);
  if (status.type() == fs::file_type::not_found) {
    unreadable(path, "there is no such file", missing_file_hint(path));
  }
  if (status.type() == fs::file_type::directory) unreadable(path, "it is a folder", "name a file in it");
  OpenFile file(::open(path.c_str(), O_RDONLY | O_CLOEXEC));
  if (file.get() < 0) unreadable(path, std::strerror(errno), "check the file's permissions");
  std::string bytes;
  // What a device or a pipe says of its size means nothing, and costs nothing.
  const std::uintmax_t size = fs::file_size(path, code);
  if (!code) bytes.reserve(static_cast<std::size_t>(std::min<std::uintmax_t>(size, most)));
  char block[1 << 16];
  for (;;) {
    const ssize_t got = ::read(file.get(), block, sizeof block);
    if (got < 0 && errno == EINTR) continue;
    if (got < 0) unreadable(path, std::strerror(errno), "check the disk");
    if (got == 0) return bytes;
    bytes.append(block, static_cast<std::size_t>(got));
    if (bytes.size() > most) unreadable(path, fmt::format("it is over {} bytes", most), "is this the right file?");
  }
}

std::shared_ptr<const SourceText> read_text(const fs::path& path, std::size_t most) {
  auto source = std::make_shared<SourceText>();
  source->name = path.lexically_normal().string();
  source->text = read_bytes(path, most);
  if (!is_utf8(source->text)) unreadable(path, "it is not UTF-8 text", "is this the right file? save it as UTF-8");
  return source;
}

void expect_writable(const fs::path& path) {
  std::error_code code;
  if (path.empty()) unwritable(path, "it is no name", "name a file");
  if (path.filename().empty() || fs::is_directory(path, code)) unwritable(path, "it is a folder", "name a file in it");
  const fs::path folder = folder_of(path);
  const fs::file_status status = fs::status(folder, code);
  if (status.type() == fs::file_type::not_found) {
    unwritable(path, fmt::format("the folder \"{}\" does not exist", folder.string()),
               fmt::format("make it first: mkdir -p '{}'", folder.string()));
  }
  if (status.type() != fs::file_type::directory) {
    unwritable(path, fmt::format("\"{}\" is not a folder", folder.string()), "name a file in a folder");
  }
  if (::access(folder.c_str(), W_OK | X_OK) != 0) {
    unwritable(path, fmt::format("the folder \"{}\": {}", folder.string(), std::strerror(errno)),
               "choose a folder that you may write to");
  }
}

void write_file(const fs::path& path, std::span<const std::byte> bytes) {
  expect_writable(path);
  const fs::path beside = folder_of(path) / fmt::format(".{}.{}.tmp", path.filename().string(), ::getpid());
  OpenFile file(::open(beside.c_str(), O_WRONLY | O_CREAT | O_TRUNC | O_CLOEXEC, 0666));
  if (file.get() < 0) unwritable(path, std::strerror(errno), "choose a folder that you may write to");
  const auto give_up = [&] {
    const int cause = errno;
    ::unlink(beside.c_str());
    unwritable(path, std::strerror(cause), "check the free space; the file was left as it was");
  };
  while (!bytes.empty()) {
    const ssize_t put = ::write(file.get(), bytes.data(), bytes.size());
    if (put < 0 && errno == EINTR) continue;
    if (put < 0) give_up();
    bytes = bytes.subspan(static_cast<std::size_t>(put));
  }
  if (::close(file.release()) != 0) give_up();
  if (::rename(beside.c_str(), path.c_str()) != 0) give_up();
}

void write_file(const fs::path& path, std::string_view text) {
  write_file(path, std::as_bytes(std::span(text.data(), text.size())));
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
