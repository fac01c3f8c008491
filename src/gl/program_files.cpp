#include "gl/program_files.h"

#include <periscena/base/error.h>
#include <periscena/base/file.h>
#include <periscena/base/hash.h>

#include <fmt/format.h>

#include <algorithm>
#include <cstring>
#include <utility>

namespace periscena::gl {
namespace {

namespace fs = std::filesystem;

constexpr std::string_view mark = "periscena program 1\n";
constexpr const char* suffix = ".program";
constexpr std::size_t most_bytes_of_file = std::size_t{64} << 20;
constexpr std::uintmax_t most_bytes_of_folder = std::uintmax_t{256} << 20;
constexpr std::uintmax_t most_unchecked_bytes = std::uintmax_t{16} << 20;

void put_number(std::string& into, std::uint64_t number) {
  for (int i = 0; i < 8; ++i) into += static_cast<char>(number >> (8 * i) & 0xFF);
}

void put_text(std::string& into, std::string_view text) {
  put_number(into, text.size());
  into += text;
}

/// Takes a file apart from its beginning; nothing once it has ended early.
class Parts {
 public:
  explicit Parts(std::string_view rest) : rest_(rest) {}

  std::optional<std::uint64_t> number() {
    if (rest_.size() < 8) return std::nullopt;
    std::uint64_t value = 0;
    for (std::size_t i = 0; i < 8; ++i)
      value |= static_cast<std::uint64_t>(static_cast<unsigned char>(rest_[i])) << (8 * i);
    rest_.remove_prefix(8);
    return value;
  }

  std::optional<std::string_view> text() {
    const auto length = number();
    if (!length || *length > rest_.size()) return std::nullopt;
    const std::string_view found = rest_.substr(0, *length);
    rest_.remove_prefix(*length);
    return found;
  }

 private:
  std::string_view rest_;
};

/// A regular file, or nothing by that name: a pipe or a link was put there by something else, and is left alone.
bool is_ours_or_free(const fs::path& path) {
  std::error_code code;
  const fs::file_type type = fs::symlink_status(path, code).type();
  return type == fs::file_type::regular || type == fs::file_type::not_found;
}

}  // namespace

ProgramFiles::ProgramFiles(std::string driver, fs::path folder)
    : driver_(std::move(driver)), folder_(std::move(folder)) {}

fs::path ProgramFiles::path_of(const std::string& text) const {
  return folder_ / fmt::format("{:016x}{:016x}{}", content_hash(driver_ + text), content_hash(text + driver_), suffix);
}

bool ProgramFiles::contains(const std::string& text) const {
  std::error_code code;
  return used() && fs::is_regular_file(fs::symlink_status(path_of(text), code));
}

std::optional<ProgramBinary> ProgramFiles::read(const std::string& text) const {
  if (!contains(text)) return std::nullopt;
  std::string file;
  try {
    file = read_bytes(path_of(text), most_bytes_of_file);
  } catch (const Error&) {
    return std::nullopt;
  }
  if (file.size() < mark.size() + 8 || !file.starts_with(mark)) return std::nullopt;
  const std::string_view checked = std::string_view(file).substr(0, file.size() - 8);
  if (Parts(std::string_view(file).substr(checked.size())).number() != content_hash(checked)) return std::nullopt;
  Parts parts(checked.substr(mark.size()));
  if (parts.text() != driver_ || parts.text() != text) return std::nullopt;
  const auto format = parts.number();
  const auto bytes = parts.text();
  if (!format || !bytes || bytes->empty()) return std::nullopt;
  ProgramBinary binary{static_cast<std::uint32_t>(*format), std::vector<std::byte>(bytes->size())};
  std::memcpy(binary.bytes.data(), bytes->data(), bytes->size());
  return binary;
}

void ProgramFiles::write(const std::string& text, const ProgramBinary& binary) {
  if (!used() || binary.bytes.empty()) return;
  std::string file(mark);
  put_text(file, driver_);
  put_text(file, text);
  put_number(file, binary.format);
  put_text(file, {reinterpret_cast<const char*>(binary.bytes.data()), binary.bytes.size()});
  put_number(file, content_hash(file));
  const fs::path path = path_of(text);
  if (file.size() > most_bytes_of_file || !is_ours_or_free(path)) return;
  std::error_code code;
  fs::create_directories(folder_, code);
  try {
    const bool first = unchecked_bytes_ == 0;
    unchecked_bytes_ += file.size();
    if (first) expect_writable(path);  // which removes what a killed process has left there
    write_file(path, file);
    if (first || unchecked_bytes_ > most_unchecked_bytes) make_room();
  } catch (const Error&) {
    folder_.clear();  // read-only, or full: the next would fail, too
  }
}

void ProgramFiles::drop(const std::string& text) const {
  std::error_code code;
  if (contains(text)) fs::remove(path_of(text), code);
}

/// Removes the files that were written longest ago, when there are too many.
void ProgramFiles::make_room() {
  unchecked_bytes_ = 1;
  struct File {
    fs::file_time_type written;
    std::uintmax_t bytes;
    fs::path path;
  };
  std::vector<File> files;
  std::uintmax_t bytes = 0;
  std::error_code code;
  for (fs::directory_iterator entry(folder_, code), end; !code && entry != end; entry.increment(code)) {
    std::error_code gone;  // by another process
    if (entry->path().extension() != suffix || !entry->is_regular_file(gone)) continue;
    const File file{entry->last_write_time(gone), entry->file_size(gone), entry->path()};
    if (gone) continue;
    bytes += file.bytes;
    files.push_back(file);
  }
  if (bytes <= most_bytes_of_folder) return;
  std::sort(files.begin(), files.end(), [](const File& a, const File& b) { return a.written < b.written; });
  for (const File& file : files) {
    if (bytes <= most_bytes_of_folder / 2) break;
    if (fs::remove(file.path, code)) bytes -= file.bytes;
  }
}

}  // namespace periscena::gl
