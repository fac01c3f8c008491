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
#include <regex>

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
    if (!has_version(shader.source()->text)) {
      put("#version 450 core", {});
      put_first_lines();
    }
    add(shader);
    return std::move(result_);
  }

 private:
  void put(std::string_view line, ExpandedShader::Origin origin) {
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
    included_.push_back(shader.source()->name);
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
  }

  static bool has_version(const std::string& text) {
    const std::vector<GlslToken> tokens = glsl_tokens(text);
    for (std::size_t i = 0; i + 1 < tokens.size(); ++i) {
      if (tokens[i].first_of_line && tokens[i].is("#") && tokens[i + 1].is("version")) return true;
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
    ShaderText included;
    std::error_code code;
    if (const auto beside = from.folder() / name;
        (!from.folder().empty() || beside.is_absolute()) && std::filesystem::is_regular_file(beside, code)) {
      included = ShaderText::file(beside, from.library());
    } else if (const char* text = find_text(name, from.library())) {
      included = ShaderText::from_text(name, text, from.library());
    } else {
      throw Mistake("unknown-include", place,
                    fmt::format("there is no \"{}\" beside this file, and none in the library", name),
                    name_hint(name, includable_names(from)));
    }
    if (std::find(included_.begin(), included_.end(), included.source()->name) == included_.end()) add(included);
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
  std::vector<std::string> included_;     ///< names of files that are in already
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

/// A hint for what compilers say most.
std::string mend_for(const std::string& words) {
  if (words.find("undeclared") != words.npos) return "declare it, or #include the file that does";
  if (words.find("syntax error") != words.npos) return "look for a missing ; or bracket here or on the line above";
  return {};
}

}  // namespace

ShaderText ShaderText::file(const std::filesystem::path& path, ShaderLibrary library) {
  ShaderText shader;
  shader.source_ = read_text(path, 4u << 20);
  shader.folder_ = path.has_parent_path() ? path.parent_path() : std::filesystem::path(".");
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

ExpandedShader expand(const ShaderText& shader) {
  return Expander().expand(shader);
}

Diagnostics read_compile_log(std::string_view log, const ExpandedShader& shader, const std::string& what) {
  static const std::regex mesa(R"(^\d+:(\d{1,9})\((\d{1,9})\): (error|warning|note): ?(.*)$)");
  static const std::regex in_brackets(R"(^\d+\((\d{1,9})\) ?: (error|warning)( [A-Z]\d+)?: ?(.*)$)");
  static const std::regex shouted(R"(^(ERROR|WARNING): \d+:(\d{1,9}): ?(.*)$)");
  Diagnostics diagnostics;
  for (std::size_t start = 0; start < log.size();) {
    const std::size_t end = std::min(log.find('\n', start), log.size());
    const std::string line(trimmed(log.substr(start, end - start)));
    start = end + 1;
    if (line.empty()) continue;
    std::smatch m;
    std::string number = "0", column = "0", weight = "error", words = line;
    if (std::regex_match(line, m, mesa)) {
      number = m[1], column = m[2], weight = m[3], words = m[4];
    } else if (std::regex_match(line, m, in_brackets)) {
      number = m[1], weight = m[2], words = m[4];
    } else if (std::regex_match(line, m, shouted)) {
      number = m[2], weight = m[1] == "ERROR" ? "error" : "warning", words = m[3];
    }
    Diagnostic found;
    found.severity = weight == "error" ? Severity::error : Severity::warning;
    found.slug = "shader";
    found.message = fmt::format("{}: {}", what, words);
    found.mend = mend_for(words);
    if (const auto at = std::stoul(number); at >= 1 && at <= shader.origins.size() && shader.origins[at - 1].source) {
      const ExpandedShader::Origin& origin = shader.origins[at - 1];
      const std::string_view written = origin.source->line(origin.line);
      found.place = {origin.source, nullptr, origin.line, std::stoi(column), 1};
      if (found.place.column > 0) {
        found.place.column = column_as_written(written, found.place.column);
        found.place.length = word_length(written, found.place.column);
      }
    }
    diagnostics.add(std::move(found));
  }
  return diagnostics;
}

}  // namespace periscena::gl
