#include "passes/filters/filter_steps.h"

#include "draw/screen/screen_program.h"

#include <periscena/image/color_table.h>
#include <periscena/passes/fullscreen.h>

#include <fmt/format.h>

#include <algorithm>

namespace periscena::passes {
namespace {

constexpr int table_row = 4096;  ///< as color_table.glsl has it

std::string prefix_of(std::size_t step) {
  return fmt::format("s{}_", step);
}

/// Could what the last step gives be written as it is? The target would encode what was turned back to light.
bool ends_encoded(const FilterChain& chain, const gl::PassSetup& setup) {
  const TargetDescription& target = setup.plan().targets()[setup.pass().writes[0].target].description;
  return chain.steps.back().encoded && target.origin == Origin::ours && info(target.format).numbers == NumberKind::srgb;
}

gl::Texture table_texture(const ColorTable& table, const std::string& name) {
  const int count = static_cast<int>(table.entries.size()), rows = (count + table_row - 1) / table_row;
  Image image(std::min(count, table_row), rows, Format::rgba32f);
  for (int i = 0; i < count; ++i) {
    const auto& entry = table.entries[static_cast<std::size_t>(i)];
    // The first row lies lowest.
    image.set(i % table_row, rows - 1 - i / table_row, {entry[0], entry[1], entry[2], 1});
  }
  gl::Texture texture(image.width(), rows, Format::rgba32f, name);
  texture.upload(image);
  return texture;
}

/// The text of a filter's step, by its own prefix.
std::string text_of(const FilterStep& step, const std::string& prefix, const gl::ShaderLibrary& library) {
  const std::string file = fmt::format("periscena/{}.filter", step.kind);
  const auto found =
      std::find_if(library.begin(), library.end(), [&](const gl::EmbeddedText& one) { return file == one.name; });
  std::string text;
  for (const std::string& define : step.defines) text += fmt::format("#define {}{}\n", prefix, define);
  for (const char* c = found->text; *c != '\0'; ++c) {
    if (*c == '$')
      text += prefix;
    else
      text += *c;
  }
  return text;
}

class FiltersWork final : public gl::PassWork {
 public:
  FiltersWork(const std::string& name, const FilterChain& chain, gl::PassSetup& setup)
      : smooth_(chain.steps[0].reach == FilterReach::around),
        filters_(name, chain, setup),
        program_(setup.device(), name, filters_.alone()) {
    setup.match_outputs(program_.program());
    filters_.put(program_);
  }

  void run(gl::PassContext& context) override {
    program_.put("from", context.read(0),
                 smooth_ ? samplers_.linear : samplers_.fitting(context.read(0), context.pass()));
    filters_.begin(context, program_);
    program_.draw(context);
    filters_.end(context);
  }

  bool take(const Pass& now) override {
    const auto* chain = std::get_if<FilterChain>(&now.facts);
    if (!chain || !filters_.take(*chain)) return false;
    filters_.put(program_);
    return true;
  }

  Diagnostics diagnostics() const override { return filters_.found(); }

 private:
  bool smooth_;
  FilterEnd filters_;
  draw::ScreenProgram program_;
  draw::ScreenSamplers samplers_;
};

void give_work(Pass& pass, FilterChain chain) {
  pass.work = gl::work<FiltersWork>(pass.name, chain);
  pass.facts = std::move(chain);
}

/// Light is bent once; twice is told of, and stays as it is said.
bool bends(const FilterChain& chain) {
  return std::any_of(chain.steps.begin(), chain.steps.end(),
                     [](const FilterStep& step) { return step.kind == "tone_map"; });
}

/// The one, and after it the other.
std::optional<FilterChain> joined(FilterChain chain, const FilterChain& more) {
  if (bends(chain) && bends(more)) return std::nullopt;
  chain.steps.insert(chain.steps.end(), more.steps.begin(), more.steps.end());
  return chain;
}

std::optional<Pass> both(const Pass& before, const Pass& own) {
  const auto *first = std::get_if<FilterChain>(&before.facts), *second = std::get_if<FilterChain>(&own.facts);
  if (!second || (!first && !before.take_filters)) return std::nullopt;
  Pass pass = before;
  pass.name = before.name + " + " + own.name;
  pass.writes = own.writes;
  pass.reads.insert(pass.reads.end(), own.reads.begin() + 1, own.reads.end());
  if (own.makes != LightRange::same) pass.makes = own.makes;
  if (!first) return pass.take_filters(pass, *second) ? std::optional(pass) : std::nullopt;
  std::optional<FilterChain> chain = joined(*first, *second);
  if (!chain) return std::nullopt;
  pass.kind = "filters";
  give_work(pass, std::move(*chain));
  return pass;
}

/// The same, of a pass that ends with some already.
void let_more_follow(Pass& pass, const FilterChain& there, const std::function<Work(const FilterChain&)>& work) {
  pass.take_filters = [there, work](Pass& with, const FilterChain& more) {
    const std::optional<FilterChain> chain = joined(there, more);
    if (!chain) return false;
    with.work = work(*chain);
    let_more_follow(with, *chain, work);
    return true;
  };
}

}  // namespace

FilterEnd::FilterEnd(std::string name, FilterChain chain, const gl::PassSetup& setup)
    : name_(std::move(name)), chain_(std::move(chain)), nearest_(Filter::nearest, Wrap::clamp, "nearest") {
  if (chain_.steps.empty()) return;
  stays_encoded_ = ends_encoded(chain_, setup);
  for (std::size_t i = 0; i < chain_.steps.size(); ++i) {
    const FilterStep& step = chain_.steps[i];
    for (const std::string& read : step.more_reads) more_reads_.push_back(prefix_of(i) + read);
    if (!step.strange.empty()) finite_.emplace(setup, step.strange);
    if (step.table) tables_.push_back(table_texture(*step.table, name_));
  }
}

bool FilterEnd::take(const FilterChain& now) {
  const auto same_code = [](const FilterStep& a, const FilterStep& b) {
    return a.kind == b.kind && a.reach == b.reach && a.encoded == b.encoded && a.defines == b.defines &&
           a.table == b.table && a.more_reads == b.more_reads && a.strange == b.strange;
  };
  if (!std::equal(chain_.steps.begin(), chain_.steps.end(), now.steps.begin(), now.steps.end(), same_code))
    return false;
  chain_ = now;
  return true;
}

/// The functions of all steps, and a main program that does one after the other. @param start  what it begins with
std::string FilterEnd::steps(std::string start) const {
  const gl::ShaderLibrary library = pass_shaders();
  std::string text;
  bool encoded = false;
  const auto turn = [&](bool wanted) {
    if (wanted != encoded)
      start +=
          wanted ? "  color.rgb = encoded_of(clamp(color.rgb, 0.0, 1.0));\n" : "  color.rgb = light_of(color.rgb);\n";
    encoded = wanted;
  };
  for (std::size_t i = 0; i < chain_.steps.size(); ++i) {
    const FilterStep& step = chain_.steps[i];
    text += text_of(step, prefix_of(i), library);
    turn(step.encoded);
    start += fmt::format("  color = {}step({});\n", prefix_of(i), step.reach != FilterReach::pixel ? "from" : "color");
  }
  turn(stays_encoded_);
  return text + "\nvoid main() {\n" + start + "}\n";
}

gl::ShaderText FilterEnd::alone() const {
  const FilterReach reach = chain_.steps[0].reach;
  const std::string head = fmt::format(
      "#include \"periscena/fullscreen.glsl\"\n#include \"periscena/encode.glsl\"\n\nuniform {} from;\n"
      "layout(location = 0) out vec4 color;\n\n",
      reach == FilterReach::samples ? "sampler2DMS" : "sampler2D");
  return gl::ShaderText::from_text(
      name_, head + steps(reach == FilterReach::pixel ? "  color = texture(from, uv);\n" : ""), pass_shaders());
}

gl::ShaderText FilterEnd::after(const gl::ShaderText& fragment, const char* start, Starts starts) const {
  if (chain_.steps.empty()) return fragment;
  // The first one need not check again.
  const auto checks = std::count_if(chain_.steps.begin(), chain_.steps.end(),
                                    [](const FilterStep& step) { return !step.strange.empty(); });
  const bool checked = starts == Starts::finite && checks == 1 && !chain_.steps[0].strange.empty();
  const std::string head =
      fmt::format("{}#define FILTERS_AFTER\n#include \"{}\"\n#include \"periscena/encode.glsl\"\n\n",
                  checked ? "#define STARTS_FINITE\n" : "", fragment.source()->name);
  return gl::ShaderText::from_text(name_, head + steps(fmt::format("  color = {};\n", start)), pass_shaders())
      .with_lines(fragment.first_lines());
}

void FilterEnd::put(draw::ScreenProgram& program) {
  put(program.textures(), program.program());
}

void FilterEnd::put(draw::BoundTextures& into, gl::Program& program) {
  std::size_t table = 0;
  for (std::size_t i = 0; i < chain_.steps.size(); ++i) {
    for (const UniformValue& value : chain_.steps[i].uniforms) {
      const std::string uniform = prefix_of(i) + value.name.name;
      // One that has no effect the driver leaves out.
      if (program.interface().find_uniform(uniform))
        set_uniform(program, {Reference(uniform, value.name.place), value.numbers});
    }
    if (chain_.steps[i].table) into.put(program, prefix_of(i) + "table", tables_[table++].name(), nearest_.name());
  }
}

void FilterEnd::begin(const gl::PassContext& context, draw::ScreenProgram& program) const {
  begin(context, program.textures(), program.program());
}

void FilterEnd::begin(const gl::PassContext& context, draw::BoundTextures& into, const gl::Program& program) const {
  const std::size_t first = context.read_count() - more_reads_.size();
  for (std::size_t i = 0; i < more_reads_.size(); ++i)
    into.put(program, more_reads_[i], context.read(first + i).name(), nearest_.name());
  if (finite_) finite_->bind(context.state());
  if (stays_encoded_) context.state().encode_srgb(false);
}

void FilterEnd::end(const gl::PassContext& context) const {
  if (stays_encoded_) context.state().encode_srgb(true);
}

void let_filters_follow(Pass& pass, std::function<Work(const FilterChain&)> work) {
  pass.work = work({});
  let_more_follow(pass, {}, work);
}

void make_filter(Pass& pass, FilterStep step) {
  pass.takes = step.kind == "pixelate" || step.kind == "fringe" || step.kind == "sharpen" ? LightRange::unknown
                                                                                          : LightRange::screen;
  pass.makes = pass.takes == LightRange::screen ? LightRange::screen : LightRange::same;
  if (step.reach == FilterReach::pixel) pass.fuse = both;
  give_work(pass, {{std::move(step)}});
}

}  // namespace periscena::passes
