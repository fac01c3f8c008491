#include "gl/glsl_tokens.h"

#include <algorithm>
#include <cctype>

namespace periscena::gl {
namespace {

bool is_space(char c) {
  return std::isspace(static_cast<unsigned char>(c)) != 0;
}

bool is_word_part(char c) {
  return std::isalnum(static_cast<unsigned char>(c)) || c == '_';
}

/// Where the token that starts here ends.
std::size_t end_of_token(std::string_view text, std::size_t from) {
  std::size_t end = from + 1;
  const bool number = std::isdigit(static_cast<unsigned char>(text[from])) ||
                      (text[from] == '.' && end < text.size() && std::isdigit(static_cast<unsigned char>(text[end])));
  if (!number && !is_word_part(text[from])) return end;
  while (end < text.size()) {
    const bool sign_of_exponent = number && (text[end] == '+' || text[end] == '-') &&
                                  (text[end - 1] == 'e' || text[end - 1] == 'E') && text[from + 1] != 'x';
    if (!is_word_part(text[end]) && !(number && text[end] == '.') && !sign_of_exponent) break;
    ++end;
  }
  return end;
}

}  // namespace

std::vector<GlslToken> glsl_tokens(std::string_view text) {
  std::vector<GlslToken> tokens;
  std::uint32_t line = 0;
  std::size_t line_start = 0;
  bool first = true;
  const auto next_line = [&](std::size_t at) {
    ++line;
    line_start = at + 1;
    first = true;
  };
  for (std::size_t i = 0; i < text.size();) {
    if (text[i] == '\n') {
      next_line(i++);
    } else if (is_space(text[i])) {
      ++i;
    } else if (text.substr(i, 2) == "//") {
      i = std::min(text.find('\n', i), text.size());
    } else if (text.substr(i, 2) == "/*") {
      const std::size_t end = std::min(text.find("*/", i + 2), text.size() - 2) + 2;
      for (; i < end; ++i) {
        if (text[i] == '\n') next_line(i);
      }
    } else {
      const std::size_t end = end_of_token(text, i);
      tokens.push_back({text.substr(i, end - i), line, static_cast<std::uint32_t>(i - line_start + 1), first});
      first = false;
      i = end;
    }
  }
  return tokens;
}

bool is_word(std::string_view token) {
  return !token.empty() && (std::isalpha(static_cast<unsigned char>(token[0])) || token[0] == '_');
}

std::string_view directive_of(std::string_view line) {
  const auto skip_space = [&](std::size_t at) {
    while (at < line.size() && is_space(line[at])) ++at;
    return at;
  };
  std::size_t at = skip_space(0);
  if (at == line.size() || line[at] != '#') return {};
  at = skip_space(at + 1);
  std::size_t end = at;
  while (end < line.size() && is_word_part(line[end])) ++end;
  return line.substr(at, end - at);
}

}  // namespace periscena::gl
