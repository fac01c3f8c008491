#include "gl/color_coding.h"

#include <algorithm>
#include <cmath>
#include <map>
#include <set>
#include <string>

namespace periscena::gl {
namespace {

using Tokens = std::span<const GlslToken>;

/// Index behind the bracket that closes the one at `open`, or the end.
std::size_t behind_brackets(Tokens tokens, std::size_t open, std::string_view opening, std::string_view closing) {
  int depth = 0;
  for (std::size_t i = open; i < tokens.size(); ++i) {
    if (tokens[i].is(opening)) ++depth;
    if (tokens[i].is(closing) && --depth == 0) return i + 1;
  }
  return tokens.size();
}

constexpr double srgb_encoding_knee = 0.0031308, srgb_decoding_knee = 0.04045;

struct Range {
  std::size_t first = 0, end = 0;
};

/// A number that the text alone gives, and whether it stands for several channels.
struct Constant {
  double value = 0;
  bool vector = false;
};

class Finder {
 public:
  explicit Finder(Tokens tokens) : tokens_(tokens) {}

  ColorCodingSteps find(std::string_view function) {
    read_globals();
    follow(function, 0);
    for (const Range& body : reached_) look_at(body);
    return steps_;
  }

 private:
  static constexpr int deepest = 64;
  static constexpr std::size_t longest_call = 512;  // tokens
  static constexpr int most_factors = 256;          // of one constant, with those of the constants it names

  bool is(std::size_t i, std::string_view text) const { return i < tokens_.size() && tokens_[i].is(text); }

  /// Functions by name, and what #define and const give names to.
  void read_globals() {
    for (std::size_t i = 0; i < tokens_.size(); ++i) {
      if (is(i, "#") && is(i + 1, "define") && i + 3 < tokens_.size()) {
        std::size_t end = i + 3;
        while (end < tokens_.size() && tokens_[end].line == tokens_[i].line) ++end;
        named_[tokens_[i + 2].text] = {i + 3, end};
        i = end - 1;
      } else if (is(i, "const") && is(i + 3, "=")) {
        std::size_t end = i + 4;
        while (end < tokens_.size() && !is(end, ";")) ++end;
        named_[tokens_[i + 2].text] = {i + 4, end};
      } else if (is_word(tokens_[i].text) && is(i + 1, "(")) {
        const std::size_t body = behind_brackets(tokens_, i + 1, "(", ")");
        const std::size_t end = is(body, "{") ? behind_brackets(tokens_, body, "{", "}") : body;
        if (end != body) functions_.emplace(tokens_[i].text, Range{body, end});
        read_constants({body, end});
        i = end - 1;
      }
    }
  }

  void read_constants(const Range& body) {
    for (std::size_t i = body.first; i + 4 < body.end; ++i) {
      if (!is(i, "const") || !is(i + 3, "=")) continue;
      std::size_t end = i + 4;
      while (end < body.end && !is(end, ";")) ++end;
      named_[tokens_[i + 2].text] = {i + 4, end};
    }
  }

  void follow(std::string_view name, int depth) {
    if (depth > deepest || !seen_.insert(name).second) return;
    const auto [first, end] = functions_.equal_range(name);
    for (auto body = first; body != end; ++body) {
      reached_.push_back(body->second);
      for (std::size_t i = body->second.first; i < body->second.end; ++i) {
        if (is(i + 1, "(") && is_word(tokens_[i].text)) follow(tokens_[i].text, depth + 1);
      }
    }
  }

  void look_at(const Range& body) {
    for (std::size_t i = body.first; i < body.end; ++i) {
      if (is(i, "pow") && is(i + 1, "(")) look_at_power(i);
      const auto constant = named_.find(tokens_[i].text);
      const auto value = constant == named_.end() ? number_at(i) : number_of(constant->second);
      if (!value) continue;
      if (std::abs(*value - srgb_encoding_knee) < 2e-7) note(steps_.encodes, i);
      if (std::abs(*value - srgb_decoding_knee) < 2e-6) note(steps_.decodes, i);
    }
  }

  void look_at_power(std::size_t at) {
    const std::size_t end =
        behind_brackets(tokens_.first(std::min(tokens_.size(), at + longest_call)), at + 1, "(", ")");
    std::size_t comma = 0;
    int depth = 0;
    for (std::size_t i = at + 1; i < end; ++i) {
      if (is(i, "(")) ++depth;
      if (is(i, ")")) --depth;
      if (is(i, ",") && depth == 1) comma = i;
    }
    if (comma == 0) return;
    const auto exponent = evaluate({comma + 1, end - 1});
    if (!exponent) return;
    // Of a single number, 0.45 may be anybody's falloff; of three channels it hardly is.
    const double slack = exponent->vector ? 0.005 : 0.0006;
    const auto near = [&](double value) { return std::abs(exponent->value - value) < slack; };
    if (near(1 / 2.2) || near(1 / 2.4)) note(steps_.encodes, at);
    if (near(2.2) || near(2.4)) note(steps_.decodes, at);
  }

  static void note(std::optional<std::size_t>& step, std::size_t token) {
    if (!step) step = token;
  }

  std::optional<double> number_at(std::size_t i) const {
    const std::string_view text = tokens_[i].text;
    const bool digit = text[0] >= '0' && text[0] <= '9';
    if (!digit && !(text[0] == '.' && text.size() > 1)) return std::nullopt;
    try {
      return std::stod(std::string(text));
    } catch (const std::exception&) {
      return std::nullopt;
    }
  }

  std::optional<double> number_of(const Range& range) {
    const auto constant = evaluate(range);
    return constant ? std::optional(constant->value) : std::nullopt;
  }

  std::optional<Constant> evaluate(const Range& range) {
    factors_left_ = most_factors;
    return expression(range, 0);
  }

  std::optional<Constant> expression(const Range& range, int depth) {
    std::size_t at = range.first;
    const auto value = sum(at, range.end, depth);
    return at == range.end ? value : std::nullopt;
  }

  std::optional<Constant> sum(std::size_t& at, std::size_t end, int depth) {
    auto left = product(at, end, depth);
    while (left && at < end && (is(at, "+") || is(at, "-"))) {
      const double sign = is(at++, "+") ? 1 : -1;
      const auto right = product(at, end, depth);
      if (!right) return std::nullopt;
      left = Constant{left->value + sign * right->value, left->vector || right->vector};
    }
    return left;
  }

  std::optional<Constant> product(std::size_t& at, std::size_t end, int depth) {
    auto left = factor(at, end, depth);
    while (left && at < end && (is(at, "*") || is(at, "/"))) {
      const bool times = is(at++, "*");
      const auto right = factor(at, end, depth);
      if (!right) return std::nullopt;
      left = Constant{times ? left->value * right->value : left->value / right->value, left->vector || right->vector};
    }
    return left;
  }

  std::optional<Constant> factor(std::size_t& at, std::size_t end, int depth) {
    if (at >= end || depth > deepest || --factors_left_ < 0) return std::nullopt;
    const std::size_t start = at++;
    if (const auto number = number_at(start)) return Constant{*number};
    const std::string_view word = tokens_[start].text;
    if (const auto constant = named_.find(word); constant != named_.end())
      return expression(constant->second, depth + 1);
    const bool vector = word == "vec2" || word == "vec3" || word == "vec4";
    if (vector && !is(at, "(")) return std::nullopt;
    if (vector) ++at;
    if (!vector && word != "(" && word != "float") return std::nullopt;
    if (word == "float" && !is(at++, "(")) return std::nullopt;
    auto inside = sum(at, end, depth + 1);
    // A vector of several numbers is told by its first.
    if (vector && inside) {
      while (at < end && !is(at, ")")) ++at;
      inside->vector = true;
    }
    if (!is(at, ")")) return std::nullopt;
    ++at;
    return inside;
  }

  Tokens tokens_;
  std::multimap<std::string_view, Range> functions_;
  std::map<std::string_view, Range> named_;
  std::set<std::string_view> seen_;
  std::vector<Range> reached_;
  int factors_left_ = 0;
  ColorCodingSteps steps_;
};

}  // namespace

ColorCodingSteps find_color_coding(std::span<const GlslToken> tokens, std::string_view function) {
  return Finder(tokens).find(function);
}

}  // namespace periscena::gl
