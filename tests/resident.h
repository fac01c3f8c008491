#pragma once

#include <cstddef>
#include <fstream>

/// Of this process.
inline std::size_t resident_bytes() {
  std::ifstream file("/proc/self/statm");
  std::size_t pages = 0, resident = 0;
  file >> pages >> resident;
  return resident * 4096;
}
