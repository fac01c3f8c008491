#include <periscena/passes/particles.h>

#include "draw/lights/lighting.h"
#include "draw/scene/picture_array.h"
#include "draw/scene/view_camera.h"
#include "draw/surfaces/surface_program.h"
#include "passes/particles/births.h"
#include "passes/shared_keys.h"

#include <periscena/base/error.h>
#include <periscena/image/files.h>
#include <periscena/image/picture_reader.h>
#include <periscena/math/curve_keys.h>

#include <fmt/format.h>

#include <cmath>

namespace periscena::passes {
namespace {

/// The Cloud block of particle.glsl, std140.
struct CloudBlock {
  Vec3 from_low = Vec3::zero();
  float step_seconds = 1;
  Vec3 from_high = Vec3::zero();
  float drag_taken = 0;
  Vec3 start_velocity = Vec3::zero();
  float gust = 0;
  Vec3 velocity_spread = Vec3::zero();
  float gust_size = 1;
  Vec3 gravity = Vec3::zero();
  float size = 1;
  Vec3 wind = Vec3::zero();
  float size_spread = 0;
  Vec3 bounds_low = Vec3::zero();
  float spin = 0;
  Vec3 bounds_high = Vec3::zero();
  float fade_steps = 0;
  Vec4 tint = Vec4::ones();
  std::uint32_t count = 0, seed = 0, life_steps = 1, gust_steps = 1;
  std::uint32_t last_life = 0, last_into = 0, last_eddy = 0, steps = 0;
  float past_step = 0;
  std::uint32_t in_pixels = 0;
  std::uint32_t has_births = 0;
  float inherit_velocity = 0;

  CloudBlock() = default;
  explicit CloudBlock(const Particles& options);
  static gl::BlockLayout layout();
};

CloudBlock::CloudBlock(const Particles& options) {
  const ParticleCloud& cloud = options.cloud;
  from_low = cloud.from_low;
  from_high = cloud.from_high;
  step_seconds = 1 / cloud.steps_a_second;
  drag_taken = cloud.drag_taken();
  start_velocity = cloud.velocity;
  velocity_spread = cloud.velocity_spread;
  gust = cloud.gust;
  gust_size = cloud.gust_size;
  gravity = cloud.gravity;
  wind = cloud.wind;
  bounds_low = cloud.bounds_low;
  bounds_high = cloud.bounds_high;
  count = cloud.count;
  seed = cloud.seed;
  life_steps = cloud.life_steps();
  gust_steps = cloud.gust_steps();
  size = options.size;
  size_spread = options.size_spread;
  spin = options.spin;
  fade_steps = options.fade_seconds * cloud.steps_a_second;
  tint = options.tint.with(options.alpha);
  in_pixels = options.in_pixels;
  has_births = cloud.has_births();
  inherit_velocity = cloud.inherit_velocity;
}

gl::BlockLayout CloudBlock::layout() {
  return gl::describe_block<CloudBlock>("Cloud")
      .member("from_low", &CloudBlock::from_low)
      .member("step_seconds", &CloudBlock::step_seconds)
      .member("from_high", &CloudBlock::from_high)
      .member("drag_taken", &CloudBlock::drag_taken)
      .member("start_velocity", &CloudBlock::start_velocity)
      .member("gust", &CloudBlock::gust)
      .member("velocity_spread", &CloudBlock::velocity_spread)
      .member("gust_size", &CloudBlock::gust_size)
      .member("gravity", &CloudBlock::gravity)
      .member("size", &CloudBlock::size)
      .member("wind", &CloudBlock::wind)
      .member("size_spread", &CloudBlock::size_spread)
      .member("bounds_low", &CloudBlock::bounds_low)
      .member("spin", &CloudBlock::spin)
      .member("bounds_high", &CloudBlock::bounds_high)
      .member("fade_steps", &CloudBlock::fade_steps)
      .member("tint", &CloudBlock::tint)
      .member("count", &CloudBlock::count)
      .member("seed", &CloudBlock::seed)
      .member("life_steps", &CloudBlock::life_steps)
      .member("gust_steps", &CloudBlock::gust_steps)
      .member("last_life", &CloudBlock::last_life)
      .member("last_into", &CloudBlock::last_into)
      .member("last_eddy", &CloudBlock::last_eddy)
      .member("steps", &CloudBlock::steps)
      .member("past_step", &CloudBlock::past_step)
      .member("in_pixels", &CloudBlock::in_pixels)
      .member("has_births", &CloudBlock::has_births)
      .member("inherit_velocity", &CloudBlock::inherit_velocity);
}

constexpr std::uint32_t particle_group = 64;  // as particles.comp has it
constexpr std::size_t particle_bytes = 2 * sizeof(Vec4);

gl::ShaderText fragment_text(const Particles& options) {
  std::vector<std::string> defines;
  if (options.picture) defines.push_back("PICTURE");
  if (!options.surfaces.empty()) defines.push_back("NEAR_SURFACES");
  return draw::surface_text(pass_shader("periscena/particles.frag"), {}, {}, defines);
}

/// Are those equal that a change can't be taken over with?
bool same_making(const Particles& a, const Particles& b) {
  return a.scene == b.scene && a.view.name == b.view.name && a.picture == b.picture && a.cloud.count == b.cloud.count;
}

/// Do the particles of both go the same ways, where they begin at the same places?
bool same_ways(const ParticleCloud& a, const ParticleCloud& b) {
  return a.seed == b.seed && a.steps_a_second == b.steps_a_second && a.life == b.life && a.from_low == b.from_low &&
         a.from_high == b.from_high && a.velocity == b.velocity && a.velocity_spread == b.velocity_spread &&
         a.gravity == b.gravity && a.wind == b.wind && a.drag == b.drag && a.gust == b.gust &&
         a.gust_size == b.gust_size && a.gust_seconds == b.gust_seconds && a.bounds_low == b.bounds_low &&
         a.bounds_high == b.bounds_high && a.inherit_velocity == b.inherit_velocity;
}

class ParticlesWork final : public gl::PassWork {
 public:
  ParticlesWork(const Particles& options, gl::PassSetup& setup)
      : options_(options),
        view_(setup, options.scene, options.view),
        mover_(setup.device(), {.name = options.name + ", moving", .compute = pass_shader("periscena/particles.comp")}),
        program_(setup.device(), {options.name, pass_shader("periscena/particles.vert"), fragment_text(options)}),
        textures_(program_),
        nearest_(Filter::nearest, Wrap::clamp, "nearest"),
        block_(options),
        cloud_buffer_(gl::Buffer::writable(sizeof(CloudBlock), options.name)),
        particles_(gl::Buffer::writable(options.cloud.count * particle_bytes, options.name)),
        births_(options.name) {
    setup.match_outputs(program_);
    for (const gl::Program* program : {&mover_, &program_}) program->expect_block(CloudBlock::layout());
    program_.expect_block(draw::CameraBlock::layout());
    if (options.picture) {
      const Image* picture = options.picture.get();
      picture_ = draw::upload_pictures({&picture, 1}, options.name, true);
      picture_sampler_ = gl::Sampler(Filter::linear_levels, Wrap::clamp, options.name);
      textures_.put(program_, "picture", picture_.name(), picture_sampler_.name());
    }
    reads_surfaces_ = !options.surfaces.empty();
    put_uniforms();
    state_.blend = {.on = true};
    if (!options.depth.empty()) {
      const bool reversed = view_.camera().depth == DepthOrder::reversed;
      state_.depth = {true, false, reversed ? gl::Compare::greater : gl::Compare::less};
    }
  }

  void resize(gl::PassSetup& setup) override { view_.resize(setup); }
  const Camera* camera() const override { return &view_.camera(); }

  bool take(const Pass& now) override {
    const Particles* wanted = options_in<Particles>(now);
    if (!wanted || !same_making(*wanted, options_)) return false;
    // A curve that has gone on is another one; what has begun by it may be the same.
    const bool same_births = births_.take(wanted->cloud, step_);
    placed_ = placed_ && same_births && same_ways(wanted->cloud, options_.cloud);
    options_ = *wanted;
    block_ = CloudBlock(options_);
    changed_ = true;
    put_uniforms();
    return true;
  }

  void run(gl::PassContext& context) override {
    view_.update(context);
    gl::State& state = context.state();
    state.bind_storage_block(gl::binding::particle_storage, particles_.name());
    state.bind_uniform_block(gl::binding::cloud_block, cloud_buffer_.name(), 0, sizeof(CloudBlock));
    move(context);
    program_.use(state);
    state.apply(state_);
    view_.bind(state);
    if (reads_surfaces_) textures_.put(program_, "surfaces", context.read(0).name(), nearest_.name());
    textures_.bind(state);
    context.draw_generated(static_cast<int>(6 * options_.cloud.count));
  }

  std::vector<gl::Batch> batches() const override {
    return {{fmt::format("{} particles", options_.cloud.count),
             {.draw_calls = 1, .commands = 1, .instances = 1, .triangles = 2 * std::uint64_t{options_.cloud.count}},
             {}}};
  }

 private:
  void put_uniforms() {
    program_.set(program_.uniform<bool>("adds"), options_.adds);
    if (reads_surfaces_) program_.set(program_.uniform<float>("fade_near"), options_.fade_near);
  }

  /// To the last whole step: on from where they are when that is less than a life away, else from their beginnings.
  void move(gl::PassContext& context) {
    const double seconds = context.time().seconds;
    if (placed_ && !changed_ && seconds == seconds_) return;
    const std::int64_t step = options_.cloud.step_at(seconds), lasts = block_.life_steps;
    const bool stays = placed_ && step == step_;
    const bool goes_on = placed_ && step > step_ && step - step_ < lasts;
    block_.last_into = wrapped_step(step, block_.life_steps);
    block_.last_life = static_cast<std::uint32_t>((step - block_.last_into) / lasts);
    block_.last_eddy = wrapped_step(step, block_.gust_steps);
    block_.steps = goes_on ? static_cast<std::uint32_t>(step - step_) : 0;
    births_.follow(context, options_.cloud, step);
    block_.past_step = static_cast<float>(seconds - static_cast<double>(step) / options_.cloud.steps_a_second);
    context.write(cloud_buffer_, 0, std::as_bytes(std::span(&block_, 1)));
    if (!stays) {
      births_.bind(context.state());
      mover_.use(context.state());
      context.compute((options_.cloud.count + particle_group - 1) / particle_group);
    }
    placed_ = true;
    changed_ = false;
    seconds_ = seconds;
    step_ = step;
  }

  Particles options_;
  draw::ViewCamera view_;
  gl::Program mover_, program_;
  draw::BoundTextures textures_;
  gl::Texture picture_;
  gl::Sampler picture_sampler_, nearest_;
  CloudBlock block_;
  gl::Buffer cloud_buffer_, particles_;
  BirthTable births_;
  gl::PipelineState state_;
  bool reads_surfaces_ = false;
  bool placed_ = false;   ///< do the particles stand anywhere yet?
  bool changed_ = false;  ///< has anything else of them?
  double seconds_ = 0;
  std::int64_t step_ = 0;  ///< that they stand at
};

void expect_sound(const Particles& options, const Place& place, Diagnostics& problems) {
  try {
    options.cloud.expect_sound(place);
  } catch (const Error& error) {
    problems.append(error.diagnostics());
  }
  if (options.picture && options.picture->format() != Format::rgba8_srgb &&
      options.picture->format() != Format::rgba8) {
    problems.error("image-format", place, fmt::format("pass \"{}\" has a picture that is not 8-bit RGBA", options.name),
                   "convert it");
  }
}

Keys<ParticleCloud> cloud_keys() {
  Keys<ParticleCloud> keys;
  keys.key("count", &ParticleCloud::count, {.minimum = 1, .maximum = ParticleCloud::most}, "How many")
      .key("seed", &ParticleCloud::seed, {.minimum = 0}, "Another seed, another cloud")
      .key("life", &ParticleCloud::life, {.unit = "seconds", .minimum = 0, .above_minimum = true},
           "After which each begins anew")
      .key("from_low", &ParticleCloud::from_low, {.unit = "metres"}, "The box that they begin in: its low corner")
      .key("from_high", &ParticleCloud::from_high, {.unit = "metres"}, "And its high one")
      .key("bounds_low", &ParticleCloud::bounds_low, {.unit = "metres"},
           "They begin anew where they leave this box; left out, none")
      .key("bounds_high", &ParticleCloud::bounds_high, {.unit = "metres"}, "Its high corner")
      .key("velocity", &ParticleCloud::velocity, {.unit = "m/s"}, "At the beginning")
      .key("velocity_spread", &ParticleCloud::velocity_spread, {.unit = "m/s", .minimum = 0},
           "By which it varies either way")
      .key("gravity", &ParticleCloud::gravity, {.unit = "m/s²"}, "What pulls them")
      .key("wind", &ParticleCloud::wind, {.unit = "m/s"}, "The air's velocity")
      .key("drag", &ParticleCloud::drag, {.unit = "1/s", .minimum = 0},
           "How fast they become as fast as the air; 0: no air")
      .key("gust", &ParticleCloud::gust, {.unit = "m/s", .minimum = 0}, "By which the wind varies, in eddies")
      .key("gust_size", &ParticleCloud::gust_size, {.unit = "metres", .minimum = 0, .above_minimum = true},
           "From one eddy to the next")
      .key("gust_seconds", &ParticleCloud::gust_seconds, {.unit = "seconds", .minimum = 0, .above_minimum = true},
           "Until the eddies are as they were")
      .key("steps_a_second", &ParticleCloud::steps_a_second, {.minimum = 0, .above_minimum = true},
           "In which they move; between steps they go straight on")
      .key(
          "path", &ParticleCloud::path,
          {.unit = "metres", .minimum = -ParticleCloud::longest_path, .maximum = ParticleCloud::longest_path},
          "The path of the emitter: the box that they begin in is moved by it. What is in the air already stays behind")
      .key("emission", &ParticleCloud::emission, {.minimum = 0, .maximum = 1},
           "Share of the particles that begin; 0: the emitter has stopped, and what is in the air lives on")
      .key("inherit_velocity", &ParticleCloud::inherit_velocity, {.minimum = 0, .maximum = 1},
           "Share of the emitter's velocity along its path that is added to `velocity`");
  return keys;
}

Keys<Particles> particles_keys() {
  Keys<Particles> keys;
  keys.key("view", &Particles::view, {.required = true}, view_sentence)
      .part(&Particles::cloud, cloud_keys())
      .elsewhere("picture", "text", {}, "Path of a PNG, from this file's folder; left out, a soft round spot")
      .key("size", &Particles::size, {.unit = "metres", .minimum = 0, .above_minimum = true}, "Of each; see in_pixels")
      .key("in_pixels", &Particles::in_pixels, {}, "Is size in pixels of the frame?")
      .key("size_spread", &Particles::size_spread, {.minimum = 0, .maximum = 1}, "Share by which sizes vary either way")
      .degrees("spin_degrees", &Particles::spin, {.unit = "degrees a second"}, "At most, either way")
      .key("fade_seconds", &Particles::fade_seconds, {.unit = "seconds", .minimum = 0}, "In which each comes and goes")
      .key("tint", &Particles::tint, {.minimum = 0}, "Linear, multiplied: nits where the target is light")
      .key("alpha", &Particles::alpha, {.minimum = 0, .maximum = 1}, "Multiplied")
      .key("adds", &Particles::adds, {}, "Light is added, and nothing hidden")
      .key("fade_near", &Particles::fade_near, {.unit = "metres", .minimum = 0},
           "Before what `surfaces` reads, where they fade out; 0: cut off there");
  return keys;
}

void finish_particles(const Particles& options, Pass& pass) {
  // Numbers out of their ranges were told: in files, they have not come this far.
  Diagnostics ranges;
  cloud_keys().check(options.cloud, "", pass.place, ranges);
  if (!ranges.has_errors()) expect_sound(options, pass.place, pass.problems);
  pass.work = gl::work<ParticlesWork>(options);
}

const Kind<Particles>& particles_said() {
  static const Kind<Particles> kind{
      .name = "particles",
      .sentence =
          "Draws small things that drift or fall, any number in one call: they move on the device, by steps of a fixed "
          "length, and a time always gives the same picture.",
      .example =
          "[[pass]]\nname      = \"willow down\"\nkind      = \"particles\"\nview      = \"towpath\"\ncount     = "
          "2000\n"
          "from_low  = [-8, 0, -20]\nfrom_high = [8, 5, 4]\ngravity   = [0, -0.1, 0]\nwind      = [0.4, 0, 0.1]\n"
          "drag      = 3\ngust      = 0.3\nsize      = 0.03\nreads     = { surfaces = \"scene.depth\" }\n"
          "writes    = { color = \"scene.color\" }\n",
      .reads = {{{"surfaces", Need::optional, "Depth of the objects before which they fade out"},
                 &Particles::surfaces}},
      .writes = {{{"color", Need::required, "What is drawn over"}, &Particles::color},
                 {{"depth", Need::optional, "Instead of `surfaces`: hides them, pixel by pixel; it stays as it is"},
                  &Particles::depth}},
      .keys = particles_keys(),
      .finish = finish_particles,
      .read_more = [](const PassSource& source, Particles& options, Diagnostics& problems) {
        const Reference path = text_of(source, "picture", problems);
        if (path.empty()) return;
        collect_mistakes(path.place, problems,
                         [&] { options.picture = source.pictures->read((source.folder / path.name).string()); });
      }};
  return kind;
}

}  // namespace

Pass particles(const Particles& options, Place place) {
  return particles_said().make(options, std::move(place));
}

Pass particles(const Defaults& defaults, Particles options, Place place) {
  return particles_said().make(defaults, std::move(options), std::move(place));
}

PassKind particles_kind() {
  return particles_said().kind();
}

}  // namespace periscena::passes
