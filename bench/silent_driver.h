#pragma once

#include <cstdint>
#include <string>
#include <vector>

/// Replaces the API's entry points that a frame uses by functions that only count. libepoxy's are plain function
/// pointers.
void silence_driver();

/// Puts the driver's entry points back.
void wake_driver();

struct CallCount {
  std::string name;
  std::uint64_t calls;
};

/// Calls since the last reset, by name; those that were made.
std::vector<CallCount> silent_calls();
void reset_silent_calls();
