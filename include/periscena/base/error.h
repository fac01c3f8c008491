#pragma once

#include <periscena/base/diagnostic.h>

#include <stdexcept>

namespace periscena {

/// A failure of the machine: no device, no memory, a file that can't be read. what() says what, where and what to do.
class Error : public std::runtime_error {
 public:
  explicit Error(Diagnostics diagnostics);
  explicit Error(Diagnostic diagnostic);

  const Diagnostics& diagnostics() const { return diagnostics_; }

 private:
  Diagnostics diagnostics_;
};

/// A mistake in what the caller asked for, found in a direct call: a field of view of 200°, a shader that does not
/// compile, a uniform that does not exist. Descriptions that are checked as a whole (a frame graph, a frame file)
/// return their Diagnostics instead.
class Mistake : public Error {
 public:
  using Error::Error;

  /// One error with everything it needs.
  Mistake(std::string slug, Place place, std::string message, std::string mend = {});
};

/// Throws Error for a failure of the machine.
[[noreturn]] void fail(std::string slug, Place place, std::string message, std::string mend = {});

/// Runs something that throws mistakes, and keeps them with a place in the file instead of the one they came with.
/// @return whether it threw none
template <class Action>
bool collect_mistakes(const Place& place, Diagnostics& diagnostics, Action action) {
  try {
    action();
    return true;
  } catch (const Error& error) {
    diagnostics.append(error.diagnostics(), [&](Diagnostic& found) { found.place = place; });
    return false;
  }
}

}  // namespace periscena
