#pragma once

#include <periscena/base/diagnostic.h>

#include <memory>
#include <span>
#include <string>
#include <vector>

namespace periscena::gl {

/// A GLSL text that lies in the program, by the name that #include says.
struct EmbeddedText {
  const char* name;
  const char* text;
};
using ShaderLibrary = std::span<const EmbeddedText>;

/// GLSL as somebody wrote it: a file, a text that lies in the program, or a text at hand.
class ShaderText {
 public:
  ShaderText() = default;

  /// @param library  what the text may include besides files and this module's own texts (frame, camera, bindings)
  /// @throws Error "unreadable-file"
  static ShaderText file(const std::string& path, ShaderLibrary library = {});

  /// @param name  "periscena/surface.vert"; @throws Mistake "unknown-include"
  static ShaderText embedded(const std::string& name, ShaderLibrary library);

  /// @param name  for messages
  static ShaderText from_text(std::string name, std::string text, ShaderLibrary library = {});

  /// The same with lines of its own before all others, after #version: definitions, extensions.
  ShaderText with_lines(std::vector<std::string> lines) const;

  /// The same, whose includes must lie in this folder or below, by their names and by links: for GLSL that came with a
  /// file from somewhere else.
  ShaderText confined_to(std::string folder) const;

  /// A file as it is now: itself where it has not changed, and where it is no file. @throws Error "unreadable-file"
  ShaderText latest() const;

  bool is_file() const { return is_file_; }
  bool empty() const { return source_ == nullptr; }
  const std::shared_ptr<const SourceText>& source() const { return source_; }
  const std::string& folder() const { return folder_; }
  ShaderLibrary library() const { return library_; }
  const std::vector<std::string>& first_lines() const { return first_lines_; }
  const std::string& confinement() const { return confinement_; }  ///< empty: anywhere

 private:
  std::shared_ptr<const SourceText> source_;
  std::string folder_;  ///< where its includes are looked up first
  ShaderLibrary library_;
  std::vector<std::string> first_lines_;
  std::string confinement_;
  bool is_file_ = false;  ///< its source's name is a path
};

/// GLSL as the driver gets it: includes put in, each file once.
struct ExpandedShader {
  /// Where a line came from.
  struct Origin {
    std::shared_ptr<const SourceText> source;  ///< null for lines of our own
    int line = 0;
  };
  std::string text;
  std::vector<Origin> origins;  ///< by line of `text`, from 0. Kept here, as drivers lose the file numbers of #line
  std::vector<std::shared_ptr<const SourceText>> files = {};  ///< that it is made of, as they were read
};

/// Puts in `#include "name"`: a file beside the one that includes it, else a text in the library. A file that was
/// included already is not put in twice. Adds `#version 450 core` as the first line when the text has none. Includes
/// may be nested 64 deep, and the whole may have 16 MiB.
/// @throws Mistake "unknown-include", "path-outside", "include-depth", "shader-size", "misplaced-version", with the
/// place of the line
ExpandedShader expand(const ShaderText& shader);

/// The driver's log as diagnostics, with places in the files that were expanded. Understands `0:7(12): error: …`
/// (Mesa), `0(7) : error C1008: …` and `ERROR: 0:7: …`; a line in no such form becomes a diagnostic without a place.
/// @param what  `the fragment program of "finish"`
Diagnostics read_compile_log(std::string_view log, const ExpandedShader& shader, const std::string& what);

}  // namespace periscena::gl
