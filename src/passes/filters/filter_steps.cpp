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

gl::ShaderText text_of(const std::string& name, const FilterChain& chain, bool stays_encoded) {
  const FilterStep& first = chain.steps[0];
  std::string text = fmt::format(
      "#include \"periscena/fullscreen.glsl\"\n#include \"periscena/encode.glsl\"\n\nuniform {} from;\n"
      "layout(location = 0) out vec4 color;\n\n",
      first.reach == FilterReach::samples ? "sampler2DMS" : "sampler2D");
  std::string steps = first.reach != FilterReach::pixel ? "" : "  color = texture(from, uv);\n";
  const gl::ShaderLibrary library = pass_shaders();
  bool encoded = false;
  const auto turn = [&](bool wanted) {
    if (wanted != encoded)
      steps +=
          wanted ? "  color.rgb = encoded_of(clamp(color.rgb, 0.0, 1.0));\n" : "  color.rgb = light_of(color.rgb);\n";
    encoded = wanted;
  };
  for (std::size_t i = 0; i < chain.steps.size(); ++i) {
    const std::string file = fmt::format("periscena/{}.filter", chain.steps[i].kind);
    const auto found =
        std::find_if(library.begin(), library.end(), [&](const gl::EmbeddedText& one) { return file == one.name; });
    for (const std::string& define : chain.steps[i].defines)
      text += fmt::format("#define {}{}\n", prefix_of(i), define);
    for (const char* c = found->text; *c != '\0'; ++c) {
      if (*c == '$')
        text += prefix_of(i);
      else
        text += *c;
    }
    turn(chain.steps[i].encoded);
    steps += fmt::format("  color = {}step({});\n", prefix_of(i),
                         chain.steps[i].reach != FilterReach::pixel ? "from" : "color");
  }
  turn(stays_encoded);
  return gl::ShaderText::from_text(name, text + "\nvoid main() {\n" + steps + "}\n", library);
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

class FiltersWork final : public gl::PassWork {
 public:
  FiltersWork(const std::string& name, const FilterChain& chain, gl::PassSetup& setup)
      : smooth_(chain.steps[0].reach == FilterReach::around),
        stays_encoded_(ends_encoded(chain, setup)),
        program_(name, text_of(name, chain, stays_encoded_)) {
    setup.match_outputs(program_.program());
    for (std::size_t i = 0; i < chain.steps.size(); ++i) {
      const FilterStep& step = chain.steps[i];
      for (const UniformValue& value : step.uniforms) {
        const std::string uniform = prefix_of(i) + value.name.name;
        // One that has no effect the driver leaves out.
        if (program_.program().interface().find_uniform(uniform))
          set_uniform(program_.program(), {Reference(uniform, value.name.place), value.numbers});
      }
      for (const std::string& read : step.more_reads) more_reads_.push_back(prefix_of(i) + read);
      if (!step.strange.empty()) finite_.emplace(setup, step.strange);
      if (!step.table) continue;
      tables_.push_back(table_texture(*step.table, name));
      program_.put(prefix_of(i) + "table", tables_.back(), samplers_.nearest);
    }
  }

  void run(gl::PassContext& context) override {
    program_.put("from", context.read(0),
                 smooth_ ? samplers_.linear : samplers_.fitting(context.read(0), context.pass()));
    for (std::size_t i = 0; i < more_reads_.size(); ++i)
      program_.put(more_reads_[i], context.read(i + 1), samplers_.nearest);
    if (finite_) finite_->bind(context.state());
    if (stays_encoded_) context.state().encode_srgb(false);
    program_.draw(context);
    if (stays_encoded_) context.state().encode_srgb(true);
  }

  Diagnostics diagnostics() const override { return finite_ ? finite_->found() : Diagnostics(); }

 private:
  bool smooth_, stays_encoded_;
  draw::ScreenProgram program_;
  std::optional<draw::FiniteCheck> finite_;
  std::vector<std::string> more_reads_;
  std::vector<gl::Texture> tables_;
  draw::ScreenSamplers samplers_;
};

void give_work(Pass& pass, FilterChain chain) {
  pass.work = gl::work<FiltersWork>(pass.name, chain);
  pass.facts = std::move(chain);
}

std::optional<Pass> both(const Pass& before, const Pass& own) {
  const auto *first = std::get_if<FilterChain>(&before.facts), *second = std::get_if<FilterChain>(&own.facts);
  if (!first || !second) return std::nullopt;
  // Light is bent once; twice is told of, and stays as it is said.
  const auto bends = [](const FilterChain& chain) {
    return std::any_of(chain.steps.begin(), chain.steps.end(),
                       [](const FilterStep& step) { return step.kind == "tone_map"; });
  };
  if (bends(*first) && bends(*second)) return std::nullopt;
  Pass pass = before;
  pass.name = before.name + " + " + own.name;
  pass.kind = "filters";
  pass.writes = own.writes;
  pass.reads.insert(pass.reads.end(), own.reads.begin() + 1, own.reads.end());
  if (own.makes != LightRange::same) pass.makes = own.makes;
  FilterChain chain = *first;
  chain.steps.insert(chain.steps.end(), second->steps.begin(), second->steps.end());
  give_work(pass, std::move(chain));
  return pass;
}

}  // namespace

void make_filter(Pass& pass, FilterStep step) {
  pass.takes = step.kind == "pixelate" || step.kind == "fringe" || step.kind == "sharpen" ? LightRange::unknown
                                                                                          : LightRange::screen;
  pass.makes = pass.takes == LightRange::screen ? LightRange::screen : LightRange::same;
  if (step.reach == FilterReach::pixel) pass.fuse = both;
  give_work(pass, {{std::move(step)}});
}

}  // namespace periscena::passes
