// Frames that are changed as people change them: a value for another of its kind, a key that the section has, a section
// twice, left out or elsewhere. Most stay valid; each is checked, and what passes is drawn at 32 x 18 on a device.
#include "reader.h"

#include <periscena/frame/frame_file.h>
#include <periscena/gl/frame_runner.h>
#include <periscena/passes/pass_kind.h>

#include <algorithm>
#include <random>
#include <vector>

using namespace periscena;
namespace fs = std::filesystem;

extern "C" std::size_t LLVMFuzzerMutate(std::uint8_t* data, std::size_t size, std::size_t max_size);

namespace {

using Lines = std::vector<std::string>;

Lines split(std::string_view text) {
  Lines lines;
  for (std::size_t at = 0; at < text.size();) {
    const std::size_t end = std::min(text.find('\n', at), text.size());
    lines.emplace_back(text.substr(at, end - at));
    at = end + 1;
  }
  return lines;
}

std::string joined(const Lines& lines) {
  std::string text;
  for (const std::string& line : lines) text += line + "\n";
  return text;
}

class Mutation {
 public:
  Mutation(Lines lines, unsigned seed) : lines_(std::move(lines)), random_(seed) {}

  Lines run() {
    if (lines_.empty()) lines_ = {"[frame]"};
    const std::size_t steps = 1 + pick(3);
    for (std::size_t i = 0; i < steps; ++i) {
      switch (pick(8)) {
        case 0: add_key(); break;
        case 1: add_pass_key(); break;
        case 2: move_section(); break;
        case 3: lines_.erase(lines_.begin() + static_cast<std::ptrdiff_t>(pick(lines_.size()))); break;
        case 4: swap_names(); break;
        default: change_number(); break;
      }
      if (lines_.empty()) lines_ = {"[frame]"};
    }
    return std::move(lines_);
  }

 private:
  std::size_t pick(std::size_t count) { return count == 0 ? 0 : random_() % count; }

  static bool is_header(const std::string& line) { return line.starts_with("["); }

  std::size_t header_before(std::size_t line) const {
    while (line > 0 && !is_header(lines_[line])) --line;
    return line;
  }

  /// A number in some line for another one.
  void change_number() {
    static const std::vector<std::string> numbers{"0",   "1",  "2",  "3",   "-1",    "0.5",  "1e-6", "1e6",
                                                  "4",   "16", "64", "255", "-0.0",  "0.1",  "1000", "nan",
                                                  "inf", "8",  "90", "180", "1e-30", "1e30", "7",    "0.999"};
    std::string& line = lines_[pick(lines_.size())];
    const std::size_t equals = line.find('=');
    if (is_header(line) || equals == line.npos) return;
    std::vector<std::pair<std::size_t, std::size_t>> places;
    for (std::size_t i = equals + 1; i < line.size(); ++i) {
      if (!std::isdigit(static_cast<unsigned char>(line[i])) && line[i] != '-') continue;
      std::size_t end = i + 1;
      while (end < line.size() && (std::isalnum(static_cast<unsigned char>(line[end])) || line[end] == '.')) ++end;
      places.emplace_back(i, end - i);
      i = end;
    }
    if (places.empty()) return;
    const auto [at, length] = places[pick(places.size())];
    line.replace(at, length, numbers[pick(numbers.size())]);
  }

  /// A text in quotes for one that stands elsewhere: another target, view, light, choice.
  void swap_names() {
    std::vector<std::string> texts;
    for (const std::string& line : lines_) {
      for (std::size_t open = line.find('"'); open != line.npos;) {
        const std::size_t close = line.find('"', open + 1);
        if (close == line.npos) break;
        texts.push_back(line.substr(open, close - open + 1));
        open = line.find('"', close + 1);
      }
    }
    std::string& line = lines_[pick(lines_.size())];
    const std::size_t open = line.find('"'), close = open == line.npos ? open : line.find('"', open + 1);
    if (close == line.npos || texts.empty()) return;
    line.replace(open, close - open + 1, texts[pick(texts.size())]);
  }

  void move_section() {
    const std::size_t from = header_before(pick(lines_.size()));
    std::size_t end = from + 1;
    while (end < lines_.size() && !is_header(lines_[end])) ++end;
    const Lines section(lines_.begin() + static_cast<std::ptrdiff_t>(from),
                        lines_.begin() + static_cast<std::ptrdiff_t>(end));
    const std::size_t what = pick(3);  // moved, doubled, left out
    if (what != 1) {
      lines_.erase(lines_.begin() + static_cast<std::ptrdiff_t>(from),
                   lines_.begin() + static_cast<std::ptrdiff_t>(end));
    }
    if (what == 2) return;
    std::size_t to = pick(lines_.size() + 1);
    while (to < lines_.size() && !is_header(lines_[to])) ++to;
    lines_.insert(lines_.begin() + static_cast<std::ptrdiff_t>(to), section.begin(), section.end());
  }

  std::string value_for(const KeyInfo& key) {
    if (!key.rules.choices.empty()) return "\"" + key.rules.choices[pick(key.rules.choices.size())] + "\"";
    const double low = std::max(key.rules.minimum, -10.0), high = std::min(key.rules.maximum, low + 20);
    const auto number = [&](bool whole) {
      const double value = low + (high - low) * static_cast<double>(pick(1001)) / 1000;
      return whole ? std::to_string(static_cast<int>(value)) : std::to_string(value);
    };
    const bool whole = key.type.find("whole") != key.type.npos;
    const int count = std::atoi(key.type.c_str());
    if (key.type == "true or false") return pick(2) ? "true" : "false";
    if (count > 1 && count < 17) {
      std::string list = "[";
      for (int i = 0; i < count; ++i) list += (i ? ", " : "") + number(whole);
      return list + "]";
    }
    if (key.type.find("number") != key.type.npos) return number(whole);
    return key.default_text.empty() ? "true" : key.default_text;
  }

  /// A key that this kind of pass has.
  void add_pass_key() {
    const std::size_t line = pick(lines_.size()), header = header_before(line);
    if (!lines_[header].starts_with("[[pass]]")) return;
    for (std::size_t i = header; i < lines_.size() && (i == header || !is_header(lines_[i])); ++i) {
      if (!lines_[i].starts_with("kind")) continue;
      const std::size_t open = lines_[i].find('"'),
                        close = open == lines_[i].npos ? open : lines_[i].find('"', open + 1);
      if (close == lines_[i].npos) return;
      const passes::PassKind* kind = passes::pass_kinds().find(lines_[i].substr(open + 1, close - open - 1));
      if (!kind || kind->keys.empty()) return;
      const KeyInfo& key = kind->keys[pick(kind->keys.size())];
      // Instead of one that is there.
      for (std::size_t k = header + 1; k < lines_.size() && !is_header(lines_[k]); ++k) {
        if (lines_[k].starts_with(key.name + " ") || lines_[k].starts_with(key.name + "=")) {
          lines_[k] = key.name + " = " + value_for(key);
          return;
        }
      }
      lines_.insert(lines_.begin() + static_cast<std::ptrdiff_t>(i + 1), key.name + " = " + value_for(key));
      return;
    }
  }

  /// A line of another section.
  void add_key() {
    const std::string line = lines_[pick(lines_.size())];
    lines_.insert(lines_.begin() + static_cast<std::ptrdiff_t>(pick(lines_.size() + 1)), line);
  }

  Lines lines_;
  std::mt19937 random_;
};

/// A folder in which paths lead where those of the examples lead.
const fs::path& frames_folder() {
  static const fs::path folder = [] {
    const fs::path made = fuzz_folder() / "examples";
    fs::create_directories(made);
    for (const auto& entry : fs::directory_iterator(PERISCENA_SOURCE_FOLDER "/examples"))
      fs::create_symlink(entry.path(), made / entry.path().filename());
    fs::create_directory_symlink(PERISCENA_SOURCE_FOLDER "/demo", fuzz_folder() / "demo");
    return made;
  }();
  return folder;
}

gl::Device& device() {
  static gl::Device* const one = new gl::Device(gl::Device::headless({}));  // outlives what the driver does at the end
  return *one;
}

}  // namespace

extern "C" std::size_t LLVMFuzzerCustomMutator(std::uint8_t* data, std::size_t size, std::size_t max_size,
                                               unsigned seed) {
  if (seed % 20 == 0) return LLVMFuzzerMutate(data, size, max_size);
  const std::string text =
      joined(Mutation(split({reinterpret_cast<const char*>(data), size}), seed).run()).substr(0, max_size);
  std::copy(text.begin(), text.end(), data);
  return text.size();
}

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  const fs::path path = frames_folder() / "fuzzed.toml";
  std::ofstream(path, std::ios::binary).write(reinterpret_cast<const char*>(data), static_cast<std::streamsize>(size));
  return expect_read_or_refused([&] {
    const FrameFile outlines = read_frame_file(path, {.size = {{32, 18}}, .contents = Contents::outlines});
    if (!outlines.plan().ok()) return;
    const FrameFile frame = read_frame_file(path, {.size = {{32, 18}}});
    const PlanResult planned = frame.plan(device().limits());
    if (!planned.ok()) return;
    gl::FrameRunner runner(device(), planned.value());
    runner.run_settled(1, std::min(frame.history_steps, 2), frame.history_rate);
    if (runner.plan().output()) runner.read("output");
  });
}
