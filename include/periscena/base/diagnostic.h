#pragma once

#include <periscena/base/place.h>

#include <string>
#include <vector>

namespace periscena {

enum class Severity { error, warning, note };

/// One thing that is wrong: what (a stable slug and a sentence), where, and how to mend it.
struct Diagnostic {
  Severity severity = Severity::error;
  std::string slug;  ///< stable, kebab-case: "feedback-loop"; docs/diagnostics.md lists them
  Place place;
  std::string message;  ///< the cause, one sentence without a full stop, names in double quotes
  std::string mend;     ///< what to do; empty when there is nothing better than the message
};

/// All that was found wrong, in the order in which it was found. A check fills one and never stops at the first
/// mistake.
class Diagnostics {
 public:
  void error(std::string slug, Place place, std::string message, std::string mend = {});
  void warning(std::string slug, Place place, std::string message, std::string mend = {});
  void note(std::string slug, Place place, std::string message, std::string mend = {});
  void add(Diagnostic diagnostic);
  void append(const Diagnostics& others);

  /// Orders by line and column, file by file as the files first appear.
  void sort_by_place();

  bool has_errors() const { return errors_ > 0; }
  std::size_t error_count() const { return errors_; }
  std::size_t size() const { return entries_.size(); }
  bool empty() const { return entries_.empty(); }
  const Diagnostic& operator[](std::size_t i) const { return entries_[i]; }
  auto begin() const { return entries_.begin(); }
  auto end() const { return entries_.end(); }

 private:
  std::vector<Diagnostic> entries_;
  std::size_t errors_ = 0;
};

/// "error", "warning" or "note".
std::string_view to_string(Severity severity);

/// As a compiler prints it:
///
///     demo/lock.toml:41:12: error[feedback-loop]: pass "mirror" reads "scene.color", which it also writes
///       41 | reads  = ["scene.color"]
///          |            ^^^^^^^^^^^^^
///     mend: write another target, or read last frame's with history = 1
///
/// Ends with a line feed. The two middle lines are there when the text of the place is known.
std::string to_text(const Diagnostic& diagnostic);

/// All of them, with an empty line between.
std::string to_text(const Diagnostics& diagnostics);

}  // namespace periscena
