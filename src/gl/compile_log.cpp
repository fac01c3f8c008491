// What compilers say of GLSL, with the places where it was written.

#include "gl/embedded.h"
#include "gl/glsl_tokens.h"

#include <periscena/base/error.h>
#include <periscena/base/file.h>
#include <periscena/base/names.h>
#include <periscena/gl/bindings.h>
#include <periscena/gl/shader_text.h>

#include <fmt/format.h>

#include <algorithm>
#include <cctype>
#include <charconv>
#include <filesystem>
#include <set>

namespace periscena::gl {
namespace {

std::string_view trimmed(std::string_view text) {
  const auto from = text.find_first_not_of(" \t\r\n");
  if (from == text.npos) return {};
  return text.substr(from, text.find_last_not_of(" \t\r\n") - from + 1);
}

/// Mesa's preprocessor makes one space of a run of white space, and counts columns after that: back to the line as
/// written.
int column_as_written(std::string_view line, int column) {
  int collapsed = 0;
  for (std::size_t i = 0; i < line.size(); ++i) {
    const bool continues_a_run =
        i > 0 && (line[i] == ' ' || line[i] == '\t') && (line[i - 1] == ' ' || line[i - 1] == '\t');
    if (!continues_a_run && ++collapsed == column) return static_cast<int>(i) + 1;
  }
  return column;
}

/// The whole word at a column is what to underline.
int word_length(std::string_view line, int column) {
  const auto from = static_cast<std::size_t>(column - 1);
  std::size_t to = from;
  while (to < line.size() && (std::isalnum(static_cast<unsigned char>(line[to])) || line[to] == '_')) ++to;
  return std::max(1, static_cast<int>(to - from));
}

/// Compilers quote names of any length.
std::string shortened(std::string_view words) {
  constexpr std::size_t longest = 400;
  if (words.size() <= longest) return std::string(words);
  return fmt::format("{} … {}", words.substr(0, longest / 2), words.substr(words.size() - longest / 2));
}

/// A line of a compiler's log, taken apart.
struct CompilerLine {
  Severity severity = Severity::error;
  std::size_t line = 0;  ///< of the expanded text, from 1; 0 unknown
  int column = 0;        ///< 0 unknown
  std::string_view words;
};

/// Takes what is expected off the front of a text; once something else was there, nothing fits any more.
class Cursor {
 public:
  explicit Cursor(std::string_view text) : rest_(text) {}

  Cursor& text(std::string_view wanted) {
    fits_ = fits_ && rest_.starts_with(wanted);
    if (fits_) rest_.remove_prefix(wanted.size());
    return *this;
  }

  /// May be there, or not.
  Cursor& maybe(std::string_view wanted) {
    if (fits_ && rest_.starts_with(wanted)) rest_.remove_prefix(wanted.size());
    return *this;
  }

  template <class Number>
  Cursor& number(Number& into) {
    const auto read = std::from_chars(rest_.data(), rest_.data() + rest_.size(), into);
    fits_ = fits_ && read.ec == std::errc() && std::isdigit(static_cast<unsigned char>(rest_[0]));
    if (fits_) rest_.remove_prefix(static_cast<std::size_t>(read.ptr - rest_.data()));
    return *this;
  }

  Cursor& severity(Severity& into) {
    const auto is = [&](std::string_view word) { return fits_ && rest_.starts_with(word); };
    if (is("error") || is("ERROR")) {
      into = Severity::error;
      return text(rest_.substr(0, 5));
    }
    into = Severity::warning;
    return is("warning") || is("WARNING") ? text(rest_.substr(0, 7)) : text("note");
  }

  /// " C1008": a letter and digits.
  Cursor& code() {
    std::size_t end = 2;
    while (end < rest_.size() && std::isdigit(static_cast<unsigned char>(rest_[end]))) ++end;
    if (fits_ && end > 2 && rest_[0] == ' ') rest_.remove_prefix(end);
    return *this;
  }

  bool fits() const { return fits_; }
  std::string_view rest() const { return rest_; }

 private:
  std::string_view rest_;
  bool fits_ = true;
};

CompilerLine read_compiler_line(std::string_view line) {
  CompilerLine said;
  int file = 0;
  // "0:7(12): error: …", as Mesa writes it
  Cursor mesa(line);
  mesa.number(file).text(":").number(said.line).text("(").number(said.column).text("): ").severity(said.severity);
  if (mesa.text(":").maybe(" ").fits()) {
    said.words = mesa.rest();
    return said;
  }
  said = {};
  // "0(7) : error C1008: …"
  Cursor in_brackets(line);
  in_brackets.number(file).text("(").number(said.line).text(")").maybe(" ").text(": ").severity(said.severity);
  if (in_brackets.code().text(":").maybe(" ").fits()) {
    said.words = in_brackets.rest();
    return said;
  }
  said = {};
  // "ERROR: 0:7: …"
  Cursor severity_first(line);
  severity_first.severity(said.severity).text(": ").number(file).text(":").number(said.line).text(":");
  if (severity_first.maybe(" ").fits()) {
    said.words = severity_first.rest();
    return said;
  }
  said = {};
  said.words = line;
  return said;
}

/// A hint for what compilers say most.
std::string mend_for(const std::string& words) {
  if (words.find("recursion") != words.npos) return "GLSL has no recursion: write a loop";
  if (words.find("undeclared") != words.npos) return "declare it, or #include the file that does";
  if (words.find("syntax error") != words.npos) return "look for a missing ; or bracket here or on the line above";
  return {};
}

}  // namespace

Place find_quoted_function(std::string_view words, const ExpandedShader& shader) {
  const std::size_t open = words.find('`'), close = words.find('\'', open == words.npos ? words.size() : open + 1);
  if (close == words.npos) return {};
  std::string_view name = words.substr(open + 1, close - open - 1);
  name = name.substr(0, name.find('('));
  if (const std::size_t space = name.rfind(' '); space != name.npos) name.remove_prefix(space + 1);
  const std::vector<GlslToken> tokens = glsl_tokens(shader.text);
  for (std::size_t i = 1; i + 1 < tokens.size(); ++i) {
    if (!tokens[i].is(name) || !tokens[i + 1].is("(") || !is_word(tokens[i - 1].text)) continue;
    const ExpandedShader::Origin& origin = shader.origins.at(tokens[i].line);
    if (!origin.source) continue;
    return {origin.source, nullptr, origin.line, static_cast<std::int32_t>(tokens[i].column),
            static_cast<std::int32_t>(name.size())};
  }
  return {};
}

Diagnostics read_compile_log(std::string_view log, const ExpandedShader& shader, const std::string& what) {
  Diagnostics diagnostics;
  for (std::size_t start = 0; start < log.size();) {
    const std::size_t end = std::min(log.find('\n', start), log.size());
    const std::string_view line = trimmed(log.substr(start, end - start));
    start = end + 1;
    if (line.empty()) continue;
    const CompilerLine said = read_compiler_line(line);
    if (diagnostics.full()) {
      diagnostics.add({said.severity, "shader", {}, {}, {}});  // only counted
      continue;
    }
    Diagnostic found;
    found.severity = said.severity;
    found.slug = "shader";
    found.message = fmt::format("{}: {}", what, shortened(said.words));
    found.mend = mend_for(found.message);
    if (const std::size_t at = said.line; at >= 1 && at <= shader.origins.size() && shader.origins[at - 1].source) {
      const ExpandedShader::Origin& origin = shader.origins[at - 1];
      const std::string_view written = origin.source->line(origin.line);
      found.place = {origin.source, nullptr, origin.line, said.column, 1};
      if (found.place.column > 0) {
        found.place.column = column_as_written(written, found.place.column);
        found.place.length = word_length(written, found.place.column);
      }
    } else if (at == 0) {
      found.place = find_quoted_function(said.words, shader);
    }
    diagnostics.add(std::move(found));
  }
  return diagnostics;
}

}  // namespace periscena::gl
