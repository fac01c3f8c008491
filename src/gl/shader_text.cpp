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
    if (shader.is_file()) result_.files.push_back(shader.source());
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

constexpr std::size_t most_bytes = 4u << 20;  ///< of a file

}  // namespace

ShaderText ShaderText::file(const std::string& path, ShaderLibrary library) {
  const std::filesystem::path folder = std::filesystem::path(path).parent_path();
  ShaderText shader;
  shader.source_ = read_text(path, most_bytes);
  shader.is_file_ = true;
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

ShaderText ShaderText::latest() const {
  ShaderText shader = *this;
  if (!is_file_) return shader;
  auto now = read_text(source_->name, most_bytes);
  if (now->text != source_->text) shader.source_ = std::move(now);
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

}  // namespace periscena::gl
