#pragma once

#include <periscena/base/place.h>

#include <concepts>
#include <string>
#include <utility>
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
/// mistake. Of errors, and of warnings and notes, the first 100 each are kept, the others only counted.
class Diagnostics {
 public:
  static constexpr std::size_t most = 100;

  void error(std::string slug, Place place, std::string message, std::string mend = {});

  /// The same for a mend that takes long to find, such as the nearest of many names: it is only made when it is kept.
  template <std::invocable Mend>
  void error(std::string slug, Place place, std::string message, Mend mend) {
    error(std::move(slug), std::move(place), std::move(message), errors_ < most ? std::string(mend()) : std::string());
  }

  void warning(std::string slug, Place place, std::string message, std::string mend = {});
  void note(std::string slug, Place place, std::string message, std::string mend = {});
  void add(Diagnostic diagnostic);
  void append(const Diagnostics& others) {
    append(others, [](Diagnostic&) {});
  }

  /// The same with a change to each, such as a better place. Those that were only counted are counted here, too.
  template <class Change>
  void append(const Diagnostics& others, Change change) {
    const std::size_t errors = errors_ + others.errors_, remarks = remarks_ + others.remarks_;
    for (Diagnostic other : others.entries_) {
      change(other);
      add(std::move(other));
    }
    errors_ = errors;
    remarks_ = remarks;
  }

  /// Orders by line and column, file by file as the files first appear.
  void sort_by_place();

  bool has_errors() const { return errors_ > 0; }
  std::size_t error_count() const { return errors_; }    ///< with those that were only counted
  std::size_t remark_count() const { return remarks_; }  ///< warnings and notes, likewise
  bool full() const { return errors_ >= most; }          ///< further errors are only counted
  std::size_t omitted() const { return errors_ + remarks_ - entries_.size(); }
  std::size_t size() const { return entries_.size(); }  ///< those that were kept
  bool empty() const { return entries_.empty(); }
  const Diagnostic& operator[](std::size_t i) const { return entries_[i]; }
  auto begin() const { return entries_.begin(); }
  auto end() const { return entries_.end(); }

 private:
  std::vector<Diagnostic> entries_;
  std::size_t errors_ = 0, remarks_ = 0;
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
/// Ends with a line feed. The two middle lines are there when the text of the place is known. Control characters of
/// what it quotes are shown by their pictures, so that no text from outside reaches a terminal as it is.
std::string to_text(const Diagnostic& diagnostic);

/// All of them, with an empty line between; at the end, how many more there are.
std::string to_text(const Diagnostics& diagnostics);

}  // namespace periscena
