#include <periscena/inspect/variation.h>

#include <periscena/base/error.h>
#include <periscena/base/names.h>
#include <periscena/gl/frame_runner.h>
#include <periscena/image/statistics.h>
#include <periscena/inspect/costs.h>

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <cmath>
#include <deque>
#include <limits>

namespace periscena::inspect {
namespace {

constexpr double nothing = std::numeric_limits<double>::quiet_NaN();
constexpr std::size_t most_variations = 64;
constexpr double leak_limit = 0.005, stripe_limit = 0.001, detachment_limit = 1.5;

constexpr Measure all_measures[] = {
    {"time", "ms", 1, 1},
    {"memory", "MiB", 1, 1.0 / (1 << 20)},
    {"leaks", "%", 3, 100},
    {"stripes", "%", 3, 100},
    {"detachment", "texels", 2, 1},
    {"jaggedness", "%", 2, 100},
    {"rmse", "", 4, 1},
    {"edges", "", 4, 1},
    {"flicker", "", 4, 1},
};

std::size_t index_of(std::string_view name) {
  const auto at = std::find_if(std::begin(all_measures), std::end(all_measures),
                               [&](const Measure& one) { return one.name == name; });
  return static_cast<std::size_t>(at - std::begin(all_measures));
}

/// "a,[b,c],\"d,e\"" in three.
std::vector<std::string> split_values(const std::string& text) {
  std::vector<std::string> values(1);
  int depth = 0;
  char quote = 0;
  for (const char c : text) {
    if (quote) {
      if (c == quote) quote = 0;
    } else if (c == '"' || c == '\'') {
      quote = c;
    } else {
      depth += (c == '[' || c == '{') - (c == ']' || c == '}');
    }
    if (c == ',' && depth == 0 && !quote) {
      values.emplace_back();
    } else {
      values.back() += c;
    }
  }
  return values;
}

/// The pictures of a frame from a moment on, with no history before `file.history_steps`.
std::vector<Image> take_series(gl::FrameRunner& runner, const FrameFile& file, const VariationOptions& options) {
  if (!runner.plan().output())
    throw Mistake("no-output", Place::file(file.path), "the frame makes no picture", "let a pass write \"output\"");
  std::vector<Image> series;
  runner.run_settled(options.seconds, file.history_steps, file.history_rate);
  series.push_back(runner.read("output"));
  for (int i = 1; i <= options.moving; ++i) {
    runner.run(options.seconds + i / static_cast<double>(file.history_rate));
    series.push_back(runner.read("output"));
  }
  return series;
}

void compare_series(const std::vector<Image>& reference, const std::vector<Image>& series,
                    const std::function<void(std::string_view, double)>& set) {
  double rmse = 0, edges = 0, flickers = 0;
  for (std::size_t i = 0; i < series.size(); ++i) {
    rmse += compare(reference[i], series[i]).rmse;
    edges += edge_difference(reference[i], series[i]);
    if (i > 0) flickers += std::pow(flicker({&reference[i - 1], &reference[i]}, {&series[i - 1], &series[i]}), 2);
  }
  const auto count = static_cast<double>(series.size());
  set("rmse", rmse / count);
  set("edges", edges / count);
  if (series.size() > 1) set("flicker", std::sqrt(flickers / (count - 1)));
}

/// @param reference  as many as are taken of the frame, or none
Variation try_out(gl::Device& device, const FrameFile& file, const VariationOptions& options,
                  const std::vector<Image>& reference) {
  Variation tried;
  tried.measures.assign(std::size(all_measures), nothing);
  const auto set = [&](std::string_view name, double value) { tried.measures[index_of(name)] = value; };
  const PlanResult planned = file.plan(device.limits());
  {
    gl::FrameRunner runner(device, planned.value());
    const std::vector<Image> series = take_series(runner, file, options);
    tried.picture = series.front();
    if (!reference.empty()) compare_series(reference, series, set);
    set("memory", static_cast<double>(runner.plan().bytes()));
    set("time", frame_milliseconds(runner, options.seconds, options.rounds));
  }
  // A light that is asked for by name is looked for in any frame.
  if (takes_shadows(file.graph) || !options.shadows.lights.empty()) {
    ShadowMeasuring measuring = options.shadows;
    measuring.seconds = options.seconds;
    tried.shadows = measure_shadows(device, file.graph, file.width, file.height, measuring);
    for (const auto& [name, value] :
         std::initializer_list<std::pair<std::string_view, double (*)(const ShadowErrors&)>>{
             {"leaks", [](const ShadowErrors& errors) { return errors.leaks; }},
             {"stripes", [](const ShadowErrors& errors) { return errors.stripes; }},
             {"detachment", [](const ShadowErrors& errors) { return static_cast<double>(errors.detachment_texels); }},
             {"jaggedness", [](const ShadowErrors& errors) { return errors.jaggedness; }}}) {
      double worst = 0;
      for (const MeasuredShadows& one : tried.shadows) worst = std::max(worst, value(one.errors));
      set(name, worst);
    }
  }
  return tried;
}

/// What settings are compared with, taken once for all that share it.
class References {
 public:
  References(gl::Device& device, const std::filesystem::path& file, const VariationOptions& options)
      : device_(device), file_(file), options_(options) {
    if (!options.reference_overrides.empty() && options.reference) {
      throw Mistake("two-references", {}, "there is a picture to compare with, and settings to compare with, too",
                    "give one of them");
    }
    if (options.reference && options.moving > 0) {
      throw Mistake("still-reference", {}, "a picture is no reference for frames that follow each other",
                    "give the settings of the reference instead");
    }
    if (options.reference_overrides.empty() && options.moving > 0) {
      throw Mistake("no-reference", {},
                    "frames that follow each other are measured against a reference, and there is none",
                    "give settings that make it, such as --reference-set choice.antialias=large");
    }
  }

  /// @param read  the setting
  const std::vector<Image>& of(FrameFileOptions read) {
    if (options_.reference_overrides.empty()) {
      if (options_.reference && known_.empty()) known_.push_back({{}, {*options_.reference}});
      return known_.empty() ? none_ : known_.front().series;
    }
    const auto key = [](const std::string& text) { return text.substr(0, text.find('=')); };
    std::erase_if(read.overrides, [&](const std::string& one) {
      return std::any_of(options_.reference_overrides.begin(), options_.reference_overrides.end(),
                         [&](const std::string& other) { return key(one) == key(other); });
    });
    read.overrides.insert(read.overrides.end(), options_.reference_overrides.begin(),
                          options_.reference_overrides.end());
    for (const Known& one : known_) {
      if (one.overrides == read.overrides) return one.series;
    }
    const FrameFile file = read_frame_file(file_, read);
    gl::FrameRunner runner(device_, file.plan(device_.limits()).value());
    return known_.emplace_back(Known{read.overrides, take_series(runner, file, options_)}).series;
  }

 private:
  struct Known {
    std::vector<std::string> overrides;
    std::vector<Image> series;
  };

  gl::Device& device_;
  const std::filesystem::path& file_;
  const VariationOptions& options_;
  std::deque<Known> known_;
  const std::vector<Image> none_ = {};
};

std::size_t least(const std::vector<Variation>& all, const std::function<double(const Variation&)>& of) {
  const auto best =
      std::min_element(all.begin(), all.end(), [&](const Variation& a, const Variation& b) { return of(a) < of(b); });
  return static_cast<std::size_t>(best - all.begin());
}

void choose_best(Variations& variations, const VariationOptions& options) {
  const std::vector<Variation>& all = variations.all;
  const auto by = [&](const std::string& name) {
    variations.best = least(all, [&](const Variation& one) { return one.measure(name); });
    variations.rule = fmt::format("the least {}", name);
  };
  if (!options.by.empty()) return by(options.by);
  if (std::isnan(all[0].measure("leaks"))) return by(std::isnan(all[0].measure("rmse")) ? "time" : "rmse");
  double smoothest = std::numeric_limits<double>::infinity();
  const auto holds = [](const Variation& one) {
    return one.measure("leaks") < leak_limit && one.measure("stripes") < stripe_limit &&
           one.measure("detachment") < detachment_limit;
  };
  for (const Variation& one : all) {
    if (holds(one)) smoothest = std::min(smoothest, one.measure("jaggedness"));
  }
  if (!std::isfinite(smoothest)) {
    variations.best = least(all, [](const Variation& one) { return one.measure("leaks") + one.measure("stripes"); });
    variations.rule = "the fewest leaks and stripes, as none stays below 0.5 %, 0.1 % and 1.5 texels";
    return;
  }
  const auto rank = [&](const Variation& one) {
    const bool counts = holds(one) && one.measure("jaggedness") <= 1.1 * smoothest;
    return std::tuple(!counts, one.measure("memory"), one.measure("time"));
  };
  variations.best = static_cast<std::size_t>(
      std::min_element(all.begin(), all.end(),
                       [&](const Variation& a, const Variation& b) { return rank(a) < rank(b); }) -
      all.begin());
  variations.rule =
      "the least memory, then time, of those with leaks below 0.5 %, stripes below 0.1 %, detachment below 1.5 texels, "
      "and jaggedness within a tenth of the least";
}

void expect_measure(const VariationOptions& options) {
  if (options.by.empty() || index_of(options.by) < std::size(all_measures)) return;
  std::vector<std::string> names;
  for (const Measure& measure : all_measures) names.push_back(measure.name);
  throw Mistake("unknown-measure", {}, fmt::format("there is no measure \"{}\"", options.by),
                name_hint(options.by, names));
}

/// Can what was asked for decide?
void expect_measured(const Variations& variations, const VariationOptions& options) {
  if (options.by.empty() || !std::isnan(variations.all.back().measure(options.by))) return;
  throw Mistake("unknown-measure", {}, fmt::format("there is nothing to say of the frame's {}", options.by),
                options.by == "rmse" || options.by == "edges" ? "give a reference to compare with"
                : options.by == "flicker" ? "give settings of a reference, and how many frames are moving"
                                          : "the frame takes no shadows");
}

/// What is wrong with one setting of several is told with the setting.
template <class Action>
Variation naming_setting(const std::vector<std::string>& overrides, Action action) {
  try {
    return action();
  } catch (const Mistake& mistake) {
    if (overrides.empty()) throw;
    Diagnostics named;
    named.append(mistake.diagnostics(), [&](Diagnostic& one) {
      one.message = fmt::format("with {}: {}", fmt::join(overrides, ", "), one.message);
    });
    throw Mistake(std::move(named));
  }
}

}  // namespace

VariedKey VariedKey::parse(const std::string& text) {
  const auto source = std::make_shared<SourceText>(SourceText{"--set", text});
  const Place whole{source, nullptr, 1, 1, static_cast<std::int32_t>(text.size())};
  const std::size_t equals = text.find('=');
  VariedKey key;
  if (equals != text.npos) {
    key.key = text.substr(0, equals);
    key.values = split_values(text.substr(equals + 1));
  }
  const bool sound = !key.key.empty() && std::none_of(key.values.begin(), key.values.end(),
                                                      [](const std::string& value) { return value.empty(); });
  if (!sound) {
    throw Mistake("bad-override", whole, "this is no KEY=VALUE,VALUE,…",
                  "write SECTION.NAME.KEY=VALUE,VALUE, such as pass.sun.radius=1,2,4");
  }
  return key;
}

std::span<const Measure> measures() {
  return all_measures;
}

double Variation::measure(std::string_view name) const {
  const std::size_t at = index_of(name);
  return at < measures.size() ? measures[at] : nothing;
}

Variations vary(gl::Device& device, const std::filesystem::path& file, const VariationOptions& options,
                const std::function<void(const Variation&)>& tell) {
  expect_measure(options);
  std::size_t count = 1;
  for (const VariedKey& key : options.keys) count = std::min(count * key.values.size(), most_variations + 1);
  if (count > most_variations) {
    throw Mistake("too-many-variations", {}, fmt::format("the values make more than {} settings", most_variations),
                  "try fewer values at once");
  }
  Variations variations{.keys = options.keys, .all = {}, .best = 0, .rule = {}};
  References references(device, file, options);
  for (std::size_t i = 0; i < count; ++i) {
    FrameFileOptions read;
    read.size = options.size;
    std::vector<std::string> values(options.keys.size());
    std::size_t left = i;
    for (std::size_t k = options.keys.size(); k-- > 0;) {
      const VariedKey& key = options.keys[k];
      values[k] = key.values[left % key.values.size()];
      left /= key.values.size();
      read.overrides.insert(read.overrides.begin(), key.key + "=" + values[k]);
    }
    variations.all.push_back(naming_setting(read.overrides, [&] {
      const FrameFile frame = read_frame_file(file, read);
      return try_out(device, frame, options, references.of(read));
    }));
    variations.all.back().values = std::move(values);
    if (tell) tell(variations.all.back());
  }
  expect_measured(variations, options);
  choose_best(variations, options);
  return variations;
}

Variations vary_frames(gl::Device& device, std::span<const FrameFile> files, const VariationOptions& options) {
  expect_measure(options);
  Variations variations{.keys = {{"frame", {}}}, .all = {}, .best = 0, .rule = {}};
  std::vector<Image> reference;
  if (options.reference) reference.push_back(*options.reference);
  for (const FrameFile& file : files) {
    variations.keys[0].values.push_back(file.path.string());
    Variation tried = try_out(device, file, options, reference);
    if (reference.empty()) {
      reference.push_back(tried.picture);
      tried.measures[index_of("rmse")] = tried.measures[index_of("edges")] = 0;
    }
    tried.values = {file.path.string()};
    variations.all.push_back(std::move(tried));
  }
  expect_measured(variations, options);
  choose_best(variations, options);
  return variations;
}

}  // namespace periscena::inspect
