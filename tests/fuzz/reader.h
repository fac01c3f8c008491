#pragma once

#include <periscena/base/error.h>

#include <cstddef>
#include <cstdint>
#include <cstdlib>
#include <filesystem>
#include <fstream>
#include <string>
#include <string_view>

#include <unistd.h>

/// A folder for readers that want a path; in memory where there is one.
inline const std::filesystem::path& fuzz_folder() {
  static const std::filesystem::path folder = [] {
    const bool in_memory = ::access("/dev/shm", W_OK) == 0;
    const auto path = (in_memory ? std::filesystem::path("/dev/shm") : std::filesystem::temp_directory_path()) /
                      ("periscena-fuzz-" + std::to_string(::getpid()));
    std::filesystem::create_directories(path);
    std::atexit([] { std::filesystem::remove_all(fuzz_folder()); });
    return path;
  }();
  return folder;
}

inline std::filesystem::path fuzz_file(const char* name, std::string_view bytes) {
  const auto path = fuzz_folder() / name;
  std::ofstream(path, std::ios::binary).write(bytes.data(), static_cast<std::streamsize>(bytes.size()));
  return path;
}

/// Readers may refuse, by Error, and nothing else. A message without a slug or words is a failure, too.
template <class Read>
int expect_read_or_refused(Read read) {
  try {
    read();
  } catch (const periscena::Error& error) {
    for (const periscena::Diagnostic& told : error.diagnostics()) {
      if (told.slug.empty() || told.message.empty()) std::abort();
    }
  }
  return 0;
}
