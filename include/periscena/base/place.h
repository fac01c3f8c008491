#pragma once

#include <cstdint>
#include <memory>
#include <source_location>
#include <string>
#include <string_view>

namespace periscena {

/// A text that was read (a frame file, a shader), kept so that a message can show the line it speaks of.
struct SourceText {
  std::string name;  ///< as the user wrote it: a path, or "--set"
  std::string text;

  /// The line's characters without its end; empty when there is no such line.
  /// @param number  from 1
  std::string_view line(int number) const;
};

/// Where something was said: a span in a text that was read, or a line of C++. Cheap to copy. Lines and columns count
/// from 1; 0 means unknown.
struct Place {
  std::shared_ptr<const SourceText> source;  ///< set for texts; then `cpp_file` is null
  const char* cpp_file = nullptr;            ///< set for C++; a literal, from std::source_location
  std::int32_t line = 0;
  std::int32_t column = 0;
  std::int32_t length = 1;  ///< characters to underline

  /// The caller's own line, or that of a location which was handed on.
  static Place here(std::source_location location = std::source_location::current());

  /// A whole file, when nothing closer is known.
  static Place file(std::string name);

  bool known() const { return source != nullptr || cpp_file != nullptr; }

  /// The file's name; empty when unknown.
  std::string_view file_name() const;
};

}  // namespace periscena
