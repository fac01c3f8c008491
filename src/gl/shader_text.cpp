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

/// The bindings table as GLSL.
const std::string& bindings_text() {
  static const std::string text = [] {
    std::string lines = "// Written from the table in periscena/gl/bindings.h.\n";
    for (const NamedBinding& binding : named_bindings())
      lines += fmt::format("#define {} {}\n", binding.name, binding.value);
    return lines;
  }();
  return text;
}

constexpr const char* bindings_name = "periscena/bindings.glsl";

std::vector<EmbeddedText> includable(ShaderLibrary library) {
  std::vector<EmbeddedText> texts{{bindings_name, bindings_text().c_str()}};
  texts.insert(texts.end(), gl_texts().begin(), gl_texts().end());
  texts.insert(texts.end(), library.begin(), library.end());
  return texts;
}

const char* find_text(const std::string& name, ShaderLibrary library) {
  for (const EmbeddedText& text : includable(library)) {
    if (name == text.name) return text.text;
  }
  return nullptr;
}

/// Names that an include in `from` could have meant.
std::vector<std::string> includable_names(const ShaderText& from) {
  std::vector<std::string> names;
  for (const EmbeddedText& text : includable(from.library())) names.emplace_back(text.name);
  std::error_code code;
  if (from.folder().empty()) return names;
  for (const auto& entry : std::filesystem::directory_iterator(from.folder(), code)) {
    names.push_back(entry.path().filename().string());
  }
  return names;
}

/// Copies a shader line by line, following its includes.
class Expander {
 public:
  ExpandedShader expand(const ShaderText& shader) {
    first_lines_ = shader.first_lines();
    confinement_ = shader.confinement();
    if (!has_version(shader)) {
      put("#version 450 core", {});
      put_first_lines();
    }
    add(shader);
    return std::move(result_);
  }

 private:
  static constexpr std::size_t deepest = 64;
  static constexpr std::size_t longest = 16u << 20;

  void put(std::string_view line, ExpandedShader::Origin origin) {
    if (result_.text.size() + line.size() > longest) {
      throw Mistake("shader-size", {origin.source, nullptr, origin.line, 1, 1},
                    fmt::format("with its includes, this shader has over {} bytes", longest), "include less");
    }
    result_.text += line;
    result_.text += '\n';
    result_.origins.push_back(std::move(origin));
  }

  void put_first_lines() {
    for (const std::string& line : first_lines_) put(line, {});
    first_lines_.clear();
  }

  void add(const ShaderText& shader) {
    const bool first = included_.empty();
    included_.insert(shader.source()->name);
    ++depth_;
    const std::string& text = shader.source()->text;
    bool in_comment = false;
    int line_number = 0;
    for (std::size_t start = 0; start < text.size();) {
      const std::size_t end = std::min(text.find('\n', start), text.size());
      const std::string line = text.substr(start, end - start);
      start = end + 1;
      ++line_number;
      if (in_comment || !follow_include(shader, line, line_number, first)) put(line, {shader.source(), line_number});
      in_comment = comment_goes_on(line, in_comment);
      if (!in_comment && directive_of(line) == "version") put_first_lines();
    }
    --depth_;
  }

  /// Before #version there may be nothing but comments (GLSL 4.50, 3.3).
  static bool has_version(const ShaderText& shader) {
    const std::vector<GlslToken> tokens = glsl_tokens(shader.source()->text);
    for (std::size_t i = 0; i + 1 < tokens.size(); ++i) {
      if (!tokens[i].first_of_line || !tokens[i].is("#") || !tokens[i + 1].is("version")) continue;
      if (i == 0) return true;
      throw Mistake("misplaced-version",
                    {shader.source(), nullptr, static_cast<std::int32_t>(tokens[i].line) + 1,
                     static_cast<std::int32_t>(tokens[i].column), 8},
                    "#version must come before everything but comments", "make it the file's first line");
    }
    return false;
  }

  /// @return whether the line was an include
  bool follow_include(const ShaderText& shader, const std::string& line, int line_number, bool first) {
    const std::string_view directive = directive_of(line);
    Place place{shader.source(), nullptr, line_number, 1, static_cast<std::int32_t>(line.size())};
    if (!first && directive == "version") {
      throw Mistake("misplaced-version", place, "an included file has a #version line",
                    "remove it: the first file has the only one");
    }
    if (directive != "include") return false;
    const std::size_t open = line.find_first_of("\"<", line.find(directive));
    const std::size_t close = open == line.npos ? open : line.find_first_of("\">", open + 1);
    if (close == line.npos) {
      throw Mistake("unknown-include", place, "this #include names no file", "write #include \"name.glsl\"");
    }
    place.column = static_cast<std::int32_t>(open) + 2;
    place.length = static_cast<std::int32_t>(close - open) - 1;
    include_file(shader, line.substr(open + 1, close - open - 1), place);
    return true;
  }

  void include_file(const ShaderText& from, const std::string& name, const Place& place) {
    if (depth_ >= deepest) {
      throw Mistake("include-depth", place, fmt::format("includes are nested over {} deep here", deepest),
                    "include these files from the first one");
    }
    ShaderText included;
    std::error_code code;
    if (const auto beside = std::filesystem::path(from.folder()) / name;
        (!from.folder().empty() || beside.is_absolute()) && std::filesystem::exists(beside, code)) {
      if (included_.contains(beside.lexically_normal().string())) return;
      expect_within(beside, place);
      included = ShaderText::file(beside, from.library());
    } else if (const char* text = find_text(name, from.library())) {
      if (included_.contains(name)) return;
      included = ShaderText::from_text(name, text, from.library());
    } else {
      throw Mistake("unknown-include", place,
                    fmt::format("there is no \"{}\" beside this file, and none in the library", name),
                    name_hint(name, includable_names(from)));
    }
    add(included);
  }

  void expect_within(const std::filesystem::path& file, const Place& place) const {
    if (confinement_.empty()) return;
    std::error_code code;
    const auto relative = std::filesystem::relative(file, confinement_, code);
    if (!code && path_within(confinement_, relative.string())) return;
    throw Mistake("path-outside", place,
                  fmt::format("\"{}\" is not in \"{}\", which this GLSL must not leave",
                              file.lexically_normal().string(), confinement_.lexically_normal().string()),
                  "GLSL that a model names includes files of its own folder and below; copy the file there");
  }

  static bool comment_goes_on(const std::string& line, bool in_comment) {
    for (std::size_t i = 0; i + 1 < line.size(); ++i) {
      if (in_comment && line[i] == '*' && line[i + 1] == '/') {
        in_comment = false;
        ++i;
      } else if (!in_comment && line[i] == '/' && line[i + 1] == '/') {
        return false;
      } else if (!in_comment && line[i] == '/' && line[i + 1] == '*') {
        in_comment = true;
        ++i;
      }
    }
    return in_comment;
  }

  ExpandedShader result_;
  std::vector<std::string> first_lines_;  ///< that are not in yet
  std::set<std::string> included_;        ///< names of files that are in already
  std::filesystem::path confinement_;
  std::size_t depth_ = 0;
};

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

ShaderText ShaderText::file(const std::string& path, ShaderLibrary library) {
  const std::filesystem::path folder = std::filesystem::path(path).parent_path();
  ShaderText shader;
  shader.source_ = read_text(path, 4u << 20);
  shader.folder_ = folder.empty() ? "." : folder.string();
  shader.library_ = library;
  return shader;
}

ShaderText ShaderText::embedded(const std::string& name, ShaderLibrary library) {
  const char* text = find_text(name, library);
  ShaderText shader = from_text(name, text ? text : "", library);
  if (!text) {
    throw Mistake("unknown-include", {}, fmt::format("the library has no \"{}\"", name),
                  name_hint(name, includable_names(shader)));
  }
  return shader;
}

ShaderText ShaderText::from_text(std::string name, std::string text, ShaderLibrary library) {
  ShaderText shader;
  shader.source_ = std::make_shared<SourceText>(SourceText{std::move(name), std::move(text)});
  shader.library_ = library;
  return shader;
}

ShaderText ShaderText::with_lines(std::vector<std::string> lines) const {
  ShaderText shader = *this;
  shader.first_lines_.insert(shader.first_lines_.end(), lines.begin(), lines.end());
  return shader;
}

ShaderText ShaderText::confined_to(std::string folder) const {
  ShaderText shader = *this;
  shader.confinement_ = std::move(folder);
  return shader;
}

ExpandedShader expand(const ShaderText& shader) {
  return Expander().expand(shader);
}

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
