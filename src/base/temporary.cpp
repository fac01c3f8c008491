#include <periscena/base/temporary.h>

#include <fmt/format.h>

#include <cerrno>
#include <mutex>
#include <set>
#include <system_error>
#include <vector>

#include <dirent.h>
#include <fcntl.h>
#include <sys/file.h>
#include <sys/random.h>
#include <sys/stat.h>
#include <unistd.h>

namespace periscena {
namespace fs = std::filesystem;
namespace {

constexpr std::string_view prefix = ".periscena-", file_ending = ".tmp", folder_ending = ".partial";
constexpr std::size_t random_digits = 16;

[[noreturn]] void throw_system(int cause, const char* what) {
  throw std::system_error(cause, std::generic_category(), what);
}

/// What this process has made and not put in place. It belongs to the process, as signals do: a handler has to find it
/// without being given anything.
struct Registry {
  std::mutex mutex;
  std::set<fs::path> files, folders;
};

Registry& registry() {
  static auto* const one = new Registry;  // outlives all threads
  return *one;
}

std::string random_name(std::string_view ending) {
  std::uint64_t bits = 0;
  if (::getrandom(&bits, sizeof bits, 0) != sizeof bits) throw_system(errno, "getrandom");
  return fmt::format("{}{:016x}{}", prefix, bits, ending);
}

bool is_temporary_name(std::string_view name, std::string_view ending) {
  return name.size() == prefix.size() + random_digits + ending.size() && name.starts_with(prefix) &&
         name.ends_with(ending) &&
         name.substr(prefix.size(), random_digits).find_first_not_of("0123456789abcdef") == name.npos;
}

/// Takes the lock, and makes sure that the file was not removed before it was locked.
bool is_ours(int descriptor, bool folder) {
  struct stat status {};
  ::flock(descriptor, LOCK_EX | LOCK_NB);
  return ::fstat(descriptor, &status) == 0 && status.st_nlink > (folder ? 1u : 0u);
}

/// A folder of ours holds files only.
void remove_folder(const fs::path& folder) {
  if (DIR* open = ::opendir(folder.c_str())) {
    while (const dirent* entry = ::readdir(open)) ::unlinkat(::dirfd(open), entry->d_name, 0);
    ::closedir(open);
  }
  ::rmdir(folder.c_str());
}

/// Is this a leftover: of ours, of this user, and held by no process?
bool is_abandoned(int parent, const char* name, bool folder) {
  const int descriptor =
      ::openat(parent, name, O_RDONLY | O_NOFOLLOW | O_NONBLOCK | O_CLOEXEC | (folder ? O_DIRECTORY : 0));
  if (descriptor < 0) return false;
  struct stat status {};
  const bool right_kind = ::fstat(descriptor, &status) == 0 && status.st_uid == ::geteuid() &&
                          (folder ? S_ISDIR(status.st_mode) : S_ISREG(status.st_mode));
  const bool free = right_kind && ::flock(descriptor, LOCK_EX | LOCK_NB) == 0;
  ::close(descriptor);
  return free;
}

}  // namespace

TemporaryFile::TemporaryFile(const fs::path& folder, unsigned mode) {
  for (;;) {
    path_ = folder / random_name(file_ending);
    const std::lock_guard lock(registry().mutex);
    descriptor_ = ::open(path_.c_str(), O_RDWR | O_CREAT | O_EXCL | O_NOFOLLOW | O_CLOEXEC, mode);
    if (descriptor_ < 0 && errno == EEXIST) continue;
    if (descriptor_ < 0) throw_system(errno, "open");
    if (is_ours(descriptor_, false)) {
      registry().files.insert(path_);
      return;
    }
    ::close(descriptor_);
  }
}

TemporaryFile::~TemporaryFile() {
  {
    const std::lock_guard lock(registry().mutex);
    if (!placed_) ::unlink(path_.c_str());
    registry().files.erase(path_);
  }
  if (descriptor_ >= 0) ::close(descriptor_);
}

void TemporaryFile::replace(const fs::path& target) {
  const std::lock_guard lock(registry().mutex);
  if (::rename(path_.c_str(), target.c_str()) != 0) throw_system(errno, "rename");
  placed_ = true;
}

TemporaryFolder::TemporaryFolder(const fs::path& parent) {
  for (;;) {
    path_ = parent / random_name(folder_ending);
    const std::lock_guard lock(registry().mutex);
    if (::mkdir(path_.c_str(), 0777) != 0) {
      if (errno == EEXIST) continue;
      throw_system(errno, "mkdir");
    }
    descriptor_ = ::open(path_.c_str(), O_RDONLY | O_DIRECTORY | O_NOFOLLOW | O_CLOEXEC);
    if (descriptor_ >= 0 && is_ours(descriptor_, true)) {
      registry().folders.insert(path_);
      return;
    }
    if (descriptor_ >= 0) ::close(descriptor_);
  }
}

TemporaryFolder::~TemporaryFolder() {
  {
    const std::lock_guard lock(registry().mutex);
    if (!kept_) remove_folder(path_);
    registry().folders.erase(path_);
  }
  if (descriptor_ >= 0) ::close(descriptor_);
}

void TemporaryFolder::place(const fs::path& target) {
  const std::lock_guard lock(registry().mutex);
  if (::renameat2(AT_FDCWD, path_.c_str(), AT_FDCWD, target.c_str(), RENAME_NOREPLACE) != 0) {
    // Where the file system does not know the flag: a folder is only ever renamed over nothing or an empty folder.
    if (errno != EINVAL || ::rename(path_.c_str(), target.c_str()) != 0) throw_system(errno, "rename");
  }
  registry().folders.erase(path_);
  kept_ = true;
}

void TemporaryFolder::exchange(const fs::path& target) {
  const std::lock_guard lock(registry().mutex);
  if (::renameat2(AT_FDCWD, path_.c_str(), AT_FDCWD, target.c_str(), RENAME_EXCHANGE) != 0)
    throw_system(errno, "exchange");
}

void TemporaryFolder::keep() {
  const std::lock_guard lock(registry().mutex);
  registry().folders.erase(path_);
  kept_ = true;
}

void remove_leftovers(const fs::path& folder) {
  DIR* const open = ::opendir(folder.empty() ? "." : folder.c_str());
  if (!open) return;
  std::vector<fs::path> folders;
  while (const dirent* entry = ::readdir(open)) {
    const std::string_view name = entry->d_name;
    if (is_temporary_name(name, file_ending) && is_abandoned(::dirfd(open), entry->d_name, false))
      ::unlinkat(::dirfd(open), entry->d_name, 0);
    if (is_temporary_name(name, folder_ending) && is_abandoned(::dirfd(open), entry->d_name, true))
      folders.push_back((folder.empty() ? fs::path(".") : folder) / name);
  }
  ::closedir(open);
  for (const fs::path& abandoned : folders) remove_folder(abandoned);
}

void remove_own_temporaries() {
  registry().mutex.lock();  // for good
  for (const fs::path& file : registry().files) ::unlink(file.c_str());
  for (const fs::path& folder : registry().folders) remove_folder(folder);
}

}  // namespace periscena
