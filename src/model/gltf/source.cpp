#include "model/gltf/source.h"

#include "base/open_file.h"

#include <periscena/base/error.h>
#include <periscena/base/file.h>

#include <fmt/format.h>

#include <cerrno>
#include <cstring>

#include <sys/stat.h>
#include <unistd.h>

namespace periscena::gltf {
namespace {

class MemorySource final : public Source {
 public:
  explicit MemorySource(std::string bytes) : bytes_(std::make_shared<const std::string>(std::move(bytes))) {}

  std::uint64_t size() const override { return bytes_->size(); }
  std::uint64_t cost(std::uint64_t, std::uint64_t) const override { return 0; }
  Bytes read(std::uint64_t offset, std::uint64_t length) override {
    return {std::as_bytes(std::span(*bytes_)).subspan(offset, length), bytes_};
  }

 private:
  std::shared_ptr<const std::string> bytes_;
};

class FileSource final : public Source {
 public:
  FileSource(std::filesystem::path path, OpenFile file, std::uint64_t size)
      : path_(std::move(path)), file_(std::move(file)), size_(size) {}

  std::uint64_t size() const override { return size_; }

  std::uint64_t cost(std::uint64_t offset, std::uint64_t length) const override {
    const auto known = parts_.find({offset, length});
    return known != parts_.end() && !known->second.expired() ? 0 : length;
  }

  Bytes read(std::uint64_t offset, std::uint64_t length) override {
    std::weak_ptr<std::byte[]>& known = parts_[{offset, length}];
    std::shared_ptr<std::byte[]> part = known.lock();
    if (!part) {
      latest_.reset();
      part.reset(new std::byte[length]);  // made with its counts in one piece, it would stay as long as those
      fill({part.get(), length}, offset);
      known = part;
    }
    latest_ = part;  // what is interleaved is wanted several times in a row
    return {{part.get(), length}, part};
  }

 private:
  void fill(std::span<std::byte> into, std::uint64_t offset) const {
    while (!into.empty()) {
      const ssize_t got = ::pread(file_.get(), into.data(), into.size(), static_cast<off_t>(offset));
      if (got < 0 && errno == EINTR) continue;
      if (got <= 0) {
        fail("unreadable-file", {},
             fmt::format("cannot read \"{}\": {}", path_.string(),
                         got < 0 ? std::strerror(errno) : "it was cut meanwhile"),
             "read it again when nobody writes it");
      }
      into = into.subspan(static_cast<std::size_t>(got));
      offset += static_cast<std::uint64_t>(got);
    }
  }

  std::filesystem::path path_;
  OpenFile file_;
  std::uint64_t size_;
  std::map<std::pair<std::uint64_t, std::uint64_t>, std::weak_ptr<std::byte[]>> parts_;
  std::shared_ptr<std::byte[]> latest_;
};

}  // namespace

std::shared_ptr<Source> memory_source(std::string bytes) {
  return std::make_shared<MemorySource>(std::move(bytes));
}

std::shared_ptr<Source> file_source(const std::filesystem::path& path) {
  struct stat status {};
  // A pipe is opened once, by who reads it: who writes into it gives up when a reader goes.
  if (::stat(path.c_str(), &status) == 0 && S_ISREG(status.st_mode)) {
    InputFile input = open_to_read(path);
    if (input.regular) return std::make_shared<FileSource>(path, std::move(input.file), input.size);
  }
  // A pipe, or nothing that can be read, which is told there.
  return memory_source(read_bytes(path));
}

}  // namespace periscena::gltf
