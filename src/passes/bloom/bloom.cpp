#include <periscena/passes/bloom.h>

#include "passes/blur/gaussian_blur.h"
#include "passes/filters/filter_steps.h"
#include "passes/shared_keys.h"

#include <fmt/format.h>

#include <cmath>

namespace periscena::passes {
namespace {

std::vector<std::string> bright_defines(const Bloom& options, std::initializer_list<const char*> more = {}) {
  std::vector<std::string> defines(more.begin(), more.end());
  if (options.threshold_nits > 0) defines.emplace_back("THRESHOLD");
  return defines;
}

class BloomWork final : public gl::PassWork {
 public:
  BloomWork(const Bloom& options, const FilterChain& after, gl::PassSetup& setup)
      : options_(options),
        filters_(options.name, after, setup),
        bright_(setup.device(), options.name, pass_shader("periscena/bloom_bright.frag"),
                options.method == BloomMethod::pyramid ? bright_defines(options, {"HALVE"}) : bright_defines(options)),
        smaller_(setup.device(), options.name, pass_shader("periscena/bloom_smaller.frag")),
        larger_(setup.device(), options.name, pass_shader("periscena/bloom_larger.frag")),
        last_(setup.device(), options.name,
              filters_.after(pass_shader("periscena/bloom.frag"), "with_glow()", Starts::finite),
              last_defines(options)),
        finite_(setup, "reads light that is no finite number") {
    setup.match_outputs(last_.program());
    filters_.put(last_);
    put_numbers();
    if (options.method == BloomMethod::gaussian) blur_.emplace(setup.device(), options.name, options.count, true);
  }

  bool take(const Pass& now) override {
    // Together with filters, they may have changed as well.
    const Bloom* wanted = options_in<Bloom>(now);
    const bool same_code = wanted && wanted->method == options_.method && wanted->count == options_.count &&
                           (wanted->threshold_nits > 0) == (options_.threshold_nits > 0);
    if (!same_code) return false;
    if (wanted->radius != options_.radius) width_ = height_ = 0;  // the next frame makes as many levels as it needs
    options_ = *wanted;
    put_numbers();
    return true;
  }

  void run(gl::PassContext& context) override {
    const gl::Texture& light = context.read(0);
    const gl::Texture& bright = options_.bright.empty() ? light : context.read(1);
    fit(light.width(), light.height(), draw::working_format(light.format()));
    finite_.bind(context.state());
    bright_.put("source", bright, halves_evenly() ? samplers_.linear : samplers_.nearest);
    levels_[0].draw_into(context.state());
    bright_.draw(context);
    if (blur_) {
      blur_->run(context, levels_[0].texture(), GaussianBlur::Into::own);
    } else {
      spread_by_levels(context);
    }
    last_.put("light", light, samplers_.nearest);
    last_.put("bright", bright, samplers_.nearest);
    last_.put("spread_light", blur_ ? blur_->result() : levels_[0].texture(), samplers_.linear);
    filters_.begin(context, last_);
    finite_.bind(context.state());  // one for all: what was made finite once stays so
    last_.draw_output(context);
    filters_.end(context);
  }

  std::vector<gl::Choice> choices() const override {
    if (levels_.empty()) return {};
    return {{"spread", blur_ ? blur_->way()
                             : fmt::format("{} levels, the last of {} x {}", levels_.size(),
                                           levels_.back().texture().width(), levels_.back().texture().height())}};
  }

  Diagnostics diagnostics() const override { return finite_.found(); }

 private:
  void put_numbers() {
    last_.set("strength", options_.strength);
    for (draw::ScreenProgram* program : {&bright_, &last_}) {
      program->set("threshold", options_.threshold_nits);
      program->set("knee", options_.softness * options_.threshold_nits);
    }
  }

  /// Is the first level made by fetches between pixels?
  bool halves_evenly() const { return options_.method == BloomMethod::pyramid && options_.threshold_nits <= 0; }

  /// For light of this size.
  void fit(int width, int height, Format format) {
    if (width_ == width && height_ == height) return;
    width_ = width;
    height_ = height;
    const float deviation = 0.5f * options_.radius * static_cast<float>(height);
    if (blur_) {
      levels_.resize(1);
      levels_[0].resize(width, height, format, options_.name + ": bright");
      blur_->resize(width, height, format, deviation);
      return;
    }
    // Level k, there and back, spreads a pixel by a standard deviation of 2^k / √2; the last may count in part.
    const float wanted = std::max(1.0f, std::log2(std::max(deviation, 0.1f) * std::sqrt(2.0f)));
    const int most = std::max(1, static_cast<int>(std::floor(std::log2(static_cast<float>(std::max(width, height))))));
    const int count = std::clamp(static_cast<int>(std::ceil(wanted)), 1, most);
    last_share_ = std::clamp(wanted - static_cast<float>(count - 1), 0.0f, 1.0f);
    levels_.resize(static_cast<std::size_t>(count));
    int level_width = width, level_height = height;
    for (std::size_t i = 0; i < levels_.size(); ++i) {
      level_width = (level_width + 1) / 2;
      level_height = (level_height + 1) / 2;
      levels_[i].resize(level_width, level_height, format, fmt::format("{}: level {}", options_.name, i + 1));
    }
    last_.set("spread_scale", 0.5f);
  }

  static std::vector<std::string> last_defines(const Bloom& options) {
    std::vector<std::string> defines = bright_defines(options);
    if (!options.bright.empty()) defines.emplace_back("READS_BRIGHT");
    if (!options.glow.empty()) defines.emplace_back("WRITES_GLOW");
    return defines;
  }

  void spread_by_levels(const gl::PassContext& context) {
    for (std::size_t i = 1; i < levels_.size(); ++i) {
      smaller_.put("source", levels_[i - 1].texture(), samplers_.linear);
      levels_[i].draw_into(context.state());
      smaller_.draw(context);
    }
    for (std::size_t i = levels_.size() - 1; i > 0; --i) {
      const bool last = i == levels_.size() - 1;
      larger_.put("source", levels_[i].texture(), samplers_.linear);
      larger_.set("share", options_.spread * (last ? last_share_ : 1.0f));
      levels_[i - 1].draw_into(context.state());
      larger_.draw(context, {.blend = {.on = true,
                                       .source = gl::BlendFactor::source_alpha,
                                       .destination = gl::BlendFactor::one_minus_source_alpha}});
    }
  }

  Bloom options_;
  FilterEnd filters_;
  draw::ScreenProgram bright_, smaller_, larger_, last_;
  std::optional<GaussianBlur> blur_;
  draw::FiniteCheck finite_;
  std::vector<draw::OwnTarget> levels_;
  int width_ = 0, height_ = 0;
  float last_share_ = 1;  ///< of the last level
  draw::ScreenSamplers samplers_;
};

void finish_bloom(const Bloom& options, Pass& pass) {
  pass.takes = pass.makes = LightRange::scene;
  let_filters_follow(pass, [options](const FilterChain& after) { return gl::work<BloomWork>(options, after); });
}

const Kind<Bloom>& bloom_said() {
  static const Kind<Bloom> kind{
      .name = "bloom",
      .sentence = "Spreads a share of what is bright, as light scatters in a lens; the picture's mean stays.",
      .example =
          "[[pass]]\nname     = \"bloom\"\nkind     = \"bloom\"\nstrength = 0.08\nreads    = { light = \"scene.color\" "
          "}\nwrites   = { color = "
          "\"scene.glowing\" }\n",
      .reads = {{{"light", Need::required, "Linear light, nits"}, &Bloom::light},
                {{"bright", Need::optional, "What is spread, when a pass before wrote it; left out, made of the light"},
                 &Bloom::bright}},
      .writes = {{{"color", Need::required, "Linear light, nits, of the size of what is read"},
                  &Bloom::color,
                  whole_picture()},
                 {{"glow", Need::optional, "What was spread, to look at"}, &Bloom::glow, whole_picture()}},
      .keys = Keys<Bloom>()
                  .key("method", &Bloom::method, {},
                       "pyramid: to smaller and smaller pictures and back, at the same cost for any radius; gaussian: "
                       "at full size, to and fro")
                  .key("strength", &Bloom::strength, {.minimum = 0, .maximum = 1},
                       "Share of the bright light that is spread")
                  .key("radius", &Bloom::radius, {.unit = "of the picture's height", .minimum = 0, .maximum = 1},
                       "Two standard deviations of the widest")
                  .key("spread", &Bloom::spread, {.minimum = 0, .maximum = 1},
                       "Of the pyramid: how much of the light goes on to the next wider level")
                  .key("threshold_nits", &Bloom::threshold_nits, {.unit = "nits", .minimum = 0},
                       "Light whose strongest channel is below is not spread; 0: all is")
                  .key("softness", &Bloom::softness, {.minimum = 0, .maximum = 1},
                       "The threshold begins at one less this of itself, and lets light in bit by bit")
                  .key("count", &Bloom::count, {.minimum = 1, .maximum = 16},
                       "Of gaussian: times; together they are as wide as the radius says"),
      .finish = finish_bloom};
  return kind;
}

}  // namespace

const std::vector<std::string>& choices_of(BloomMethod) {
  static const std::vector<std::string> names{"pyramid", "gaussian"};
  return names;
}

Pass bloom(const Bloom& options, Place place) {
  return bloom_said().make(options, std::move(place));
}

PassKind bloom_kind() {
  return bloom_said().kind();
}

}  // namespace periscena::passes
