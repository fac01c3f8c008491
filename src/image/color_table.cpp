#include <periscena/base/diagnostic.h>
#include <periscena/base/error.h>
#include <periscena/base/file.h>
#include <periscena/image/color_table.h>

#include <fmt/format.h>

#include <algorithm>
#include <cctype>
#include <charconv>
#include <cmath>
#include <memory>

namespace periscena {
namespace {

std::vector<std::string_view> words_of(std::string_view line) {
  std::vector<std::string_view> words;
  const char* spaces = " \t\r";
  for (std::size_t from = line.find_first_not_of(spaces); from != std::string_view::npos;) {
    const std::size_t to = std::min(line.find_first_of(spaces, from), line.size());
    words.push_back(line.substr(from, to - from));
    from = line.find_first_not_of(spaces, to);
  }
  return words;
}

class CubeReader {
 public:
  explicit CubeReader(std::shared_ptr<const SourceText> source) : source_(std::move(source)) {}

  ColorTable read() {
    const std::string_view text = source_->text;
    for (std::size_t from = 0; from < text.size();) {
      const std::size_t to = std::min(text.find('\n', from), text.size());
      ++line_;
      read_line(text.substr(from, to - from));
      from = to + 1;
    }
    if (table_.size == 0)
      refuse("it says no LUT_3D_SIZE or LUT_1D_SIZE", "it is no .cube file, or its beginning is lost");
    if (table_.entries.size() != wanted()) {
      refuse(fmt::format("it holds {} colours, and its size asks for {}", table_.entries.size(), wanted()),
             "it may be cut short: write it again");
    }
    return std::move(table_);
  }

 private:
  [[noreturn]] void refuse(const std::string& what, const std::string& mend) const {
    throw Mistake("bad-table", Place{source_, nullptr, std::max(1, line_), 1, 1},
                  fmt::format("the colour table can't be read: {}", what), mend);
  }

  std::size_t wanted() const {
    const auto size = static_cast<std::size_t>(table_.size);
    return table_.dimensions == 3 ? size * size * size : size;
  }

  float number(std::string_view word) const {
    float value = 0;
    const auto [end, problem] = std::from_chars(word.data(), word.data() + word.size(), value);
    if (problem != std::errc() || end != word.data() + word.size() || !std::isfinite(value)) {
      refuse(fmt::format("\"{}\" is no finite number", word.substr(0, 40)), "write numbers such as 0.25");
    }
    return value;
  }

  void read_size(const std::vector<std::string_view>& words, int dimensions) {
    const float size = words.size() == 2 ? number(words[1]) : 0;
    const float most = dimensions == 3 ? 256 : 65536;
    if (table_.size != 0) refuse("it says its size twice", "one table in a file");
    if (size != std::floor(size) || size < 2 || size > most) {
      refuse(fmt::format("its size is {}", words.size() == 2 ? words[1] : "missing"),
             fmt::format("a whole number of 2 to {}", most));
    }
    table_.dimensions = dimensions;
    table_.size = static_cast<int>(size);
  }

  std::array<float, 3> three(const std::vector<std::string_view>& words, std::size_t first) const {
    if (words.size() != first + 3)
      refuse(fmt::format("there are {} numbers where three belong", words.size() - first), "write red, green and blue");
    return {number(words[first]), number(words[first + 1]), number(words[first + 2])};
  }

  void expect_domain() const {
    for (std::size_t i = 0; i < 3; ++i) {
      if (!(table_.lowest[i] < table_.highest[i]))
        refuse("its domain has no extent", "let DOMAIN_MIN be less than DOMAIN_MAX");
    }
  }

  void read_line(std::string_view line) {
    const std::vector<std::string_view> words = words_of(line);
    if (words.empty() || words[0].starts_with('#')) return;
    if (words[0] == "TITLE") {
      const std::size_t from = line.find('"'), to = line.rfind('"');
      if (from != std::string_view::npos && to > from) table_.title = line.substr(from + 1, to - from - 1);
    } else if (words[0] == "LUT_3D_SIZE" || words[0] == "LUT_1D_SIZE") {
      read_size(words, words[0] == "LUT_3D_SIZE" ? 3 : 1);
    } else if (words[0] == "DOMAIN_MIN") {
      table_.lowest = three(words, 1);
    } else if (words[0] == "DOMAIN_MAX") {
      table_.highest = three(words, 1);
      expect_domain();
    } else if (std::isdigit(static_cast<unsigned char>(words[0][0])) || words[0][0] == '-' || words[0][0] == '.' ||
               words[0][0] == '+') {
      if (table_.size == 0) refuse("colours come before its size", "say LUT_3D_SIZE or LUT_1D_SIZE first");
      if (table_.entries.size() == wanted())
        refuse(fmt::format("it holds more colours than its size asks for, {}", wanted()), "say its right size");
      expect_domain();
      table_.entries.push_back(three(words, 0));
    } else {
      refuse(fmt::format("\"{}\" is nothing that a .cube file says", words[0].substr(0, 40)),
             "TITLE, LUT_1D_SIZE, LUT_3D_SIZE, DOMAIN_MIN, DOMAIN_MAX or three numbers");
    }
  }

  std::shared_ptr<const SourceText> source_;
  ColorTable table_;
  int line_ = 0;
};

}  // namespace

std::array<float, 3> ColorTable::at(const std::array<float, 3>& color) const {
  std::array<int, 3> low{};
  std::array<float, 3> share{};
  for (std::size_t i = 0; i < 3; ++i) {
    const float place =
        std::clamp((color[i] - lowest[i]) / (highest[i] - lowest[i]), 0.0f, 1.0f) * static_cast<float>(size - 1);
    low[i] = std::min(static_cast<int>(place), size - 2);
    share[i] = place - static_cast<float>(low[i]);
  }
  std::array<float, 3> sum{};
  if (dimensions == 1) {
    for (std::size_t i = 0; i < 3; ++i) {
      const auto at = static_cast<std::size_t>(low[i]);
      sum[i] = entries[at][i] + share[i] * (entries[at + 1][i] - entries[at][i]);
    }
    return sum;
  }
  for (int corner = 0; corner < 8; ++corner) {
    float weight = 1;
    std::size_t index = 0;
    for (int i = 2; i >= 0; --i) {
      const int up = (corner >> i) & 1;
      const auto axis = static_cast<std::size_t>(i);
      weight *= up ? share[axis] : 1 - share[axis];
      index = index * static_cast<std::size_t>(size) + static_cast<std::size_t>(low[axis] + up);
    }
    for (std::size_t i = 0; i < 3; ++i) sum[i] += weight * entries[index][i];
  }
  return sum;
}

ColorTable read_color_table(const std::filesystem::path& path) {
  return CubeReader(read_text(path)).read();
}

ColorTable parse_color_table(const std::string& text, const std::string& name) {
  return CubeReader(std::make_shared<const SourceText>(SourceText{name, text})).read();
}

}  // namespace periscena
