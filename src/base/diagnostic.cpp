#include <periscena/base/diagnostic.h>
#include <periscena/base/error.h>
#include <periscena/base/utf8.h>

#include <fmt/format.h>

#include <algorithm>
#include <array>

namespace periscena {
namespace {

/// Tabs would shift the marks below the line, so they are shown as one space each.
std::string shown_line(std::string_view line) {
  std::string shown(line);
  std::replace(shown.begin(), shown.end(), '\t', ' ');
  return printable(shown);
}

/// Characters, not bytes: continuation bytes of UTF-8 take no column.
std::size_t characters(std::string_view text) {
  return static_cast<std::size_t>(
      std::count_if(text.begin(), text.end(), [](char c) { return (static_cast<unsigned char>(c) & 0xC0) != 0x80; }));
}

std::string excerpt(const Place& place) {
  if (!place.source || place.line <= 0) return {};
  constexpr std::size_t widest = 160, longest = 4 * widest;  // characters, bytes
  const std::string_view written = place.source->line(place.line);
  if (written.empty() || written.size() > longest) return {};
  const std::string line = shown_line(written);
  const auto column = static_cast<std::size_t>(std::max(1, place.column));
  const std::size_t total = characters(line);
  if (total > widest || column > total + 1) return {};
  const std::size_t left = total - std::min(total, column - 1);
  const std::size_t marks =
      std::clamp(static_cast<std::size_t>(std::max(1, place.length)), std::size_t{1}, std::max<std::size_t>(1, left));
  const std::string number = std::to_string(place.line);
  std::string text = fmt::format("  {} | {}\n", number, line);
  if (place.column > 0) {
    text += fmt::format("  {:>{}} | {:>{}}{:^>{}}\n", "", number.size(), "", column - 1, "", marks);
  }
  return text;
}

}  // namespace

std::string_view SourceText::line(int number) const {
  std::string_view rest = text;
  for (int i = 1; i < number; ++i) {
    const auto end = rest.find('\n');
    if (end == std::string_view::npos) return {};
    rest.remove_prefix(end + 1);
  }
  rest = rest.substr(0, rest.find('\n'));
  if (!rest.empty() && rest.back() == '\r') rest.remove_suffix(1);
  return rest;
}

Place Place::here(std::source_location location) {
  Place place;
  place.cpp_file = location.file_name();
  place.line = static_cast<std::int32_t>(location.line());
  place.column = static_cast<std::int32_t>(location.column());
  return place;
}

Place Place::file(std::string name) {
  Place place;
  place.source = std::make_shared<SourceText>(SourceText{std::move(name), {}});
  return place;
}

std::string_view Place::file_name() const {
  if (source) return source->name;
  return cpp_file ? std::string_view(cpp_file) : std::string_view{};
}

void Diagnostics::add(Diagnostic diagnostic) {
  std::size_t& count = diagnostic.severity == Severity::error ? errors_ : remarks_;
  if (count++ < most) entries_.push_back(std::move(diagnostic));
}

void Diagnostics::error(std::string slug, Place place, std::string message, std::string mend) {
  add({Severity::error, std::move(slug), std::move(place), std::move(message), std::move(mend)});
}

void Diagnostics::warning(std::string slug, Place place, std::string message, std::string mend) {
  add({Severity::warning, std::move(slug), std::move(place), std::move(message), std::move(mend)});
}

void Diagnostics::note(std::string slug, Place place, std::string message, std::string mend) {
  add({Severity::note, std::move(slug), std::move(place), std::move(message), std::move(mend)});
}

void Diagnostics::sort_by_place() {
  std::vector<std::string> files;  // in the order in which they first appear
  std::vector<std::pair<std::array<std::ptrdiff_t, 3>, std::size_t>> order;
  for (std::size_t i = 0; i < entries_.size(); ++i) {
    const Place& place = entries_[i].place;
    auto file = std::find(files.begin(), files.end(), place.file_name());
    if (file == files.end()) file = files.insert(files.end(), std::string(place.file_name()));
    order.push_back({{file - files.begin(), place.line, place.column}, i});
  }
  std::sort(order.begin(), order.end());
  std::vector<Diagnostic> sorted;
  for (const auto& [key, index] : order) sorted.push_back(std::move(entries_[index]));
  entries_ = std::move(sorted);
}

std::string_view to_string(Severity severity) {
  switch (severity) {
    case Severity::error: return "error";
    case Severity::warning: return "warning";
    case Severity::note: break;
  }
  return "note";
}

std::string to_text(const Diagnostic& diagnostic) {
  std::string text;
  if (diagnostic.place.known()) {
    text += printable(diagnostic.place.file_name());
    if (diagnostic.place.line > 0) text += fmt::format(":{}", diagnostic.place.line);
    if (diagnostic.place.line > 0 && diagnostic.place.column > 0) text += fmt::format(":{}", diagnostic.place.column);
    text += ": ";
  }
  text += fmt::format("{}[{}]: {}\n", to_string(diagnostic.severity), diagnostic.slug, printable(diagnostic.message));
  text += excerpt(diagnostic.place);
  if (!diagnostic.mend.empty()) text += fmt::format("mend: {}\n", printable(diagnostic.mend));
  return text;
}

std::string to_text(const Diagnostics& diagnostics) {
  std::string text;
  for (const Diagnostic& diagnostic : diagnostics) {
    if (!text.empty()) text += '\n';
    text += to_text(diagnostic);
  }
  if (diagnostics.omitted() > 0) text += fmt::format("\n… and {} more\n", diagnostics.omitted());
  return text;
}

namespace {

/// what() without the trailing line feed, as exceptions' texts have none.
std::string exception_text(const Diagnostics& diagnostics) {
  std::string text = to_text(diagnostics);
  while (!text.empty() && text.back() == '\n') text.pop_back();
  return text;
}

Diagnostics just(Diagnostic diagnostic) {
  Diagnostics diagnostics;
  diagnostics.add(std::move(diagnostic));
  return diagnostics;
}

}  // namespace

Error::Error(Diagnostics diagnostics)
    : std::runtime_error(exception_text(diagnostics)), diagnostics_(std::move(diagnostics)) {}

Error::Error(Diagnostic diagnostic) : Error(just(std::move(diagnostic))) {}

Mistake::Mistake(std::string slug, Place place, std::string message, std::string mend)
    : Error(Diagnostic{Severity::error, std::move(slug), std::move(place), std::move(message), std::move(mend)}) {}

void fail(std::string slug, Place place, std::string message, std::string mend) {
  throw Error(Diagnostic{Severity::error, std::move(slug), std::move(place), std::move(message), std::move(mend)});
}

}  // namespace periscena
