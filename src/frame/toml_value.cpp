#include "frame/toml_value.h"

#include <fmt/format.h>
#include <toml++/toml.h>

#include <algorithm>
#include <sstream>

namespace periscena {
namespace {

class Converter {
 public:
  explicit Converter(const std::shared_ptr<const SourceText>& source) : source_(source) {}

  Place place(const toml::source_region& region) const {
    Place place{source_, nullptr, static_cast<std::int32_t>(region.begin.line),
                static_cast<std::int32_t>(region.begin.column), 1};
    if (region.end.line == region.begin.line) {
      place.length = std::max(1, static_cast<std::int32_t>(region.end.column) - place.column);
    }
    return place;
  }

  Value convert(const toml::node& node) const {
    Value value;
    value.place = place(node.source());
    if (const auto* table = node.as_table()) {
      // toml++ sorts keys; the text's order is the one to keep.
      Value::Table members;
      for (const auto& [key, child] : *table)
        members.push_back({std::string(key.str()), place(key.source()), convert(child)});
      std::stable_sort(members.begin(), members.end(), [](const ValueMember& a, const ValueMember& b) {
        return std::pair(a.place.line, a.place.column) < std::pair(b.place.line, b.place.column);
      });
      value.data = std::move(members);
    } else if (const auto* array = node.as_array()) {
      Value::Array items;
      for (const auto& child : *array) items.push_back(convert(child));
      value.data = std::move(items);
    } else if (const auto* text = node.as_string()) {
      value.data = text->get();
    } else if (const auto* whole = node.as_integer()) {
      value.data = whole->get();
    } else if (const auto* real = node.as_floating_point()) {
      value.data = real->get();
    } else if (const auto* yes = node.as_boolean()) {
      value.data = yes->get();
    } else {  // dates and times mean nothing in a frame
      std::ostringstream shown;
      shown << toml::node_view<const toml::node>(node);
      value.data = shown.str();
    }
    return value;
  }

 private:
  const std::shared_ptr<const SourceText>& source_;
};

/// Finds where brackets and dotted keys nest too deep, before a parser that calls itself for each level sees the text.
/// Goes over the text once. What is no TOML may be misjudged here, and is refused by the parser.
class DepthCheck {
 public:
  DepthCheck(const std::shared_ptr<const SourceText>& source) : source_(source), text_(source->text) {}

  /// The first place that is too deep.
  std::optional<Place> find() {
    while (at_ < text_.size()) {
      const char c = text_[at_];
      if (c == '"' || c == '\'') {
        skip_text(c);
        continue;
      }
      if (c == '#') {
        at_ = std::min(text_.find('\n', at_), text_.size());
        continue;
      }
      if (c == '\n') next_line();
      step(c);
      if (depth_ > deepest_value) return place();
      ++at_;
    }
    return std::nullopt;
  }

 private:
  void step(char c) {
    // A dot goes one deeper until its key is over; a number's one dot does no harm.
    if (c == '.') {
      ++dots_.back();
      ++depth_;
    } else if (c == '[' || c == '{') {
      dots_.push_back(0);
      ++depth_;
    } else if ((c == ']' || c == '}') && dots_.size() > 1) {
      depth_ -= static_cast<std::size_t>(dots_.back()) + 1;
      dots_.pop_back();
    } else if (c == ',' || (c == '\n' && dots_.size() == 1)) {
      depth_ -= static_cast<std::size_t>(dots_.back());
      dots_.back() = 0;
    }
  }

  void next_line() {
    ++line_;
    line_start_ = at_ + 1;
  }

  /// From a quote to the one that closes it; in texts of one line, to the line's end at most.
  void skip_text(char quote) {
    const std::string three(3, quote);
    const bool long_text = text_.substr(at_, 3) == three;
    at_ += long_text ? 3 : 1;
    while (at_ < text_.size()) {
      if (long_text ? text_.substr(at_, 3) == three : text_[at_] == quote) {
        at_ += long_text ? 3 : 1;
        return;
      }
      if (text_[at_] == '\n') {
        if (!long_text) return;
        next_line();
      }
      at_ += quote == '"' && text_[at_] == '\\' && at_ + 1 < text_.size() && text_[at_ + 1] != '\n' ? 2 : 1;
    }
  }

  Place place() const {
    return {source_, nullptr, line_, static_cast<std::int32_t>(std::min<std::size_t>(at_ - line_start_ + 1, 1 << 30)),
            1};
  }

  const std::shared_ptr<const SourceText>& source_;
  std::string_view text_;
  std::size_t at_ = 0, line_start_ = 0, depth_ = 0;
  std::int32_t line_ = 1;
  std::vector<int> dots_{0};  ///< of the key that is being read, for each open bracket
};

}  // namespace

std::optional<Value> parse_toml(const std::shared_ptr<const SourceText>& source, Diagnostics& diagnostics) {
  if (const std::optional<Place> place = DepthCheck(source).find()) {
    diagnostics.error("toml-syntax", *place,
                      fmt::format("lists, tables and dotted keys nest over {} deep here", deepest_value),
                      "no key of a frame file lies that deep");
    return std::nullopt;
  }
  const Converter converter(source);
  try {
    const toml::table table = toml::parse(source->text, source->name);
    Value root = converter.convert(table);
    root.place = {source, nullptr, 0, 0, 1};
    return root;
  } catch (const toml::parse_error& error) {
    const Place place = converter.place(error.source());
    const std::string words(error.description());
    // The library's words for a text that runs into the end of its line speak of control characters.
    const bool unclosed = words.find("control characters") != words.npos &&
                          place.column > static_cast<int>(source->line(place.line).size());
    diagnostics.error("toml-syntax", place,
                      unclosed ? "a text is not closed: the line ends before its second quote" : words,
                      unclosed ? "add the quote" : "the file must be TOML 1.0; look at this line and the one above it");
    return std::nullopt;
  }
}

}  // namespace periscena
