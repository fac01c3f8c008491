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

}  // namespace

std::optional<Value> parse_toml(const std::shared_ptr<const SourceText>& source, Diagnostics& diagnostics) {
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
