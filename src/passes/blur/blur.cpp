#include <periscena/passes/blur.h>

#include "passes/blur/gaussian_blur.h"
#include "passes/shared_keys.h"

#include <fmt/format.h>

#include <cmath>

namespace periscena::passes {
namespace {

constexpr float cut_off = 3;  ///< standard deviations

class BlurWork final : public gl::PassWork {
 public:
  BlurWork(const Blur& options, gl::PassSetup& setup)
      : radius_(options.radius), blur_(setup.device(), options.name, options.count, options.paired) {
    resize(setup);
  }

  void resize(gl::PassSetup& setup) override {
    const int height = setup.pass().height;
    const Format format = setup.plan().targets()[setup.pass().reads[0].target].description.format;
    blur_.resize(setup.pass().width, height, format, 0.5f * radius_ * static_cast<float>(height));
  }

  void run(gl::PassContext& context) override { blur_.run(context, context.read(0), GaussianBlur::Into::output); }

  std::vector<gl::Choice> choices() const override { return {{"taps", blur_.way()}}; }

 private:
  float radius_;
  GaussianBlur blur_;
};

void finish_blur(const Blur& options, Pass& pass) {
  pass.makes = LightRange::same;
  pass.work = gl::work<BlurWork>(options);
}

const Kind<Blur>& blur_said() {
  static const Kind<Blur> kind{
      .name = "blur",
      .sentence = "Blurs a picture by a Gaussian, along rows and then along columns.",
      .example =
          "[[pass]]\nname   = \"soft\"\nkind   = \"blur\"\nradius = 0.02\nreads  = { from = \"scene.color\" }\nwrites "
          "= { color = \"soft.color\" }\n",
      .reads = {{{"from", Need::required, "Linear light"}, &Blur::from}},
      .writes = {{{"color", Need::required, "Linear light; a floating format keeps it all"},
                  &Blur::color,
                  whole_picture()}},
      .keys = Keys<Blur>()
                  .key("radius", &Blur::radius, {.unit = "of the picture's height", .minimum = 0, .maximum = 1},
                       "Two standard deviations")
                  .key("count", &Blur::count, {.minimum = 1, .maximum = 16},
                       "Times that it is blurred; together they are as wide as the radius says")
                  .key("paired", &Blur::paired, {},
                       "Two pixels are taken by one linear fetch; false: pixel by pixel, for comparison"),
      .finish = finish_blur};
  return kind;
}

}  // namespace

std::vector<BlurTap> gaussian_taps(float deviation, bool paired) {
  const auto weight = [&](int i) {
    const double x = i / static_cast<double>(deviation);
    return std::exp(-0.5 * x * x);
  };
  const int reach = static_cast<int>(std::ceil(cut_off * deviation));
  std::vector<std::pair<double, double>> taps{{0.0, 1.0}};
  double total = 1;
  for (int i = 1; i <= reach; ++i) {
    double offset = i, sum = weight(i);
    if (paired && i < reach) {
      const double next = weight(i + 1);
      // So that what a linear fetch gives the two is in proportion to their weights.
      offset = i + next / (sum + next);
      sum += next;
      ++i;
    }
    taps.emplace_back(offset, sum);
    total += 2 * sum;
  }
  std::vector<BlurTap> result;
  for (const auto& [offset, sum] : taps)
    result.push_back({static_cast<float>(offset), static_cast<float>(sum / total)});
  return result;
}

GaussianBlur::GaussianBlur(gl::Device& device, const std::string& name, int count, bool paired)
    : name_(name),
      count_(count),
      paired_(paired),
      first_(device, name, pass_shader("periscena/blur.frag"), {"FIRST"}),
      program_(device, name, pass_shader("periscena/blur.frag")) {}

void GaussianBlur::resize(int width, int height, Format format, float deviation) {
  half_.resize(width, height, draw::working_format(format), name_ + ": along rows");
  second_.resize(width, height, draw::working_format(format), name_ + ": blurred");
  const std::vector<BlurTap> taps = gaussian_taps(deviation / std::sqrt(static_cast<float>(count_)), paired_);
  tap_count_ = static_cast<int>(taps.size());
  Image row(tap_count_, 1, Format::rg32f);
  for (int i = 0; i < tap_count_; ++i)
    row.set(i, 0, {taps[static_cast<std::size_t>(i)].offset, taps[static_cast<std::size_t>(i)].weight, 0, 0});
  taps_ = gl::Texture(tap_count_, 1, Format::rg32f, name_ + ": taps");
  taps_.upload(row);
  for (draw::ScreenProgram* program : {&first_, &program_}) {
    program->set("tap_count", tap_count_);
    program->put("taps", taps_, samplers_.nearest);
  }
}

void GaussianBlur::run(const gl::PassContext& context, const gl::Texture& source, Into last) {
  const gl::Texture* from = &source;
  // The middle alone needs no filter, which would round.
  const bool same_size = source.width() == half_.texture().width() && source.height() == half_.texture().height();
  const gl::Sampler& how = tap_count_ == 1 && same_size ? samplers_.nearest : samplers_.linear;
  for (int i = 0; i < count_; ++i) {
    draw::ScreenProgram& across = i == 0 ? first_ : program_;
    across.set("along", Vec2(1, 0));
    across.put("source", *from, how);
    half_.draw_into(context.state());
    across.draw(context);
    program_.set("along", Vec2(0, 1));
    program_.put("source", half_.texture(), tap_count_ == 1 ? samplers_.nearest : samplers_.linear);
    if (i + 1 == count_ && last == Into::output) return program_.draw_output(context);
    second_.draw_into(context.state());
    program_.draw(context);
    from = &second_.texture();
  }
}

std::string GaussianBlur::way() const {
  return fmt::format("{} of {} a pixel, along rows and along columns, {} time{}", 2 * tap_count_ - 1,
                     paired_ ? "pairs of pixels" : "single pixels", count_, count_ == 1 ? "" : "s");
}

Pass blur(const Blur& options, Place place) {
  return blur_said().make(options, std::move(place));
}

PassKind blur_kind() {
  return blur_said().kind();
}

}  // namespace periscena::passes
