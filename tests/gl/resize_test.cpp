#include "gl/draws.h"
#include "held_memory.h"

#include <epoxy/gl.h>

#include <random>

using namespace periscena;

namespace {

/// Names in use, of every kind of object that a size can change.
struct ObjectCount {
  int textures = 0, renderbuffers = 0, framebuffers = 0, buffers = 0, programs = 0;

  static ObjectCount now() {
    ObjectCount count;
    // Drivers go on counting: a new name of each kind tells how far they are.
    GLuint last = 0, name_of_kind = 0;
    const auto next = [&](auto generate, auto remove) {
      generate(1, &name_of_kind);
      last = std::max(last, name_of_kind);
      remove(1, &name_of_kind);
    };
    next(glGenTextures, glDeleteTextures);
    next(glGenRenderbuffers, glDeleteRenderbuffers);
    next(glGenFramebuffers, glDeleteFramebuffers);
    next(glGenBuffers, glDeleteBuffers);
    for (GLuint name = 1; name < last + 200; ++name) {
      count.textures += glIsTexture(name);
      count.renderbuffers += glIsRenderbuffer(name);
      count.framebuffers += glIsFramebuffer(name);
      count.buffers += glIsBuffer(name);
      count.programs += glIsProgram(name);
    }
    return count;
  }
  bool operator==(const ObjectCount&) const = default;
};

/// Targets that follow the frame and one that does not, samples, history, a renderbuffer, a view and a copy.
struct Everything {
  FrameGraph frame;
  TargetHandle fixed = frame.target("fixed", {.format = Format::r32f, .size = TargetSize::pixels(16, 16)});

  Everything() {
    const TargetHandle samples = frame.target("samples", {.format = Format::rgba16f, .samples = 4});
    const TargetHandle trail = frame.target("trail", {.format = Format::rgba16f});
    const TargetHandle half =
        frame.target("half", {.format = Format::rg32f, .size = TargetSize::of_frame(0.5f), .levels = 0});
    frame.keep(fixed);
    frame.add(fill("fixed", "vec4(3.0)", {.target = fixed}));
    frame.add(fill("samples", "vec4(uv, 0.0, 1.0)", {.target = samples}));
    frame.add(fill("trail", "0.5 * texture(last, uv) + texture(now, uv)", {.target = trail}, "vec4",
                   {{.slot = "last", .target = trail, .history = 1}, {"now", samples}},
                   "uniform sampler2D last, now_;\nuniform sampler2D now;\n"));
    frame.add(
        fill("half", "texture(trail, uv)", {.target = half}, "vec4", {{"trail", trail}}, "uniform sampler2D trail;\n"));
    frame.add(passes::mip_chain({.levels = half}));
    frame.add(fill("end", "vec4(textureLod(half_, uv, 1.0).r, texture(fixed_, uv).r, 0.0, 1.0)",
                   {.target = frame.output()}, "vec4", {{"half_", half}, {"fixed_", fixed}},
                   "uniform sampler2D half_;\nuniform sampler2D fixed_;\n"));
  }
};

/// What the driver itself does not give back when textures of the same kinds are made, viewed, cleared, resolved and
/// deleted by plain calls.
std::size_t growth_of_plain_calls(int rounds) {
  std::mt19937 random(4);
  const std::size_t before = held_bytes();
  for (int i = 0; i < rounds; ++i) {
    const auto size = [&] { return static_cast<GLsizei>(4 + random() % 60); };
    const GLsizei width = size(), height = size();
    GLuint samples = 0, view = 0;
    GLuint textures[6] = {}, framebuffers[7] = {};
    glCreateTextures(GL_TEXTURE_2D, 6, textures);
    glCreateFramebuffers(7, framebuffers);
    for (int k = 0; k < 6; ++k) {
      glTextureStorage2D(textures[k], k == 5 ? 3 : 1, k == 5 ? GL_RG32F : GL_RGBA16F, width, height);
      glNamedFramebufferTexture(framebuffers[k], GL_COLOR_ATTACHMENT0, textures[k], 0);
      const float black[4] = {};
      glClearNamedFramebufferfv(framebuffers[k], GL_COLOR, 0, black);
    }
    glCreateTextures(GL_TEXTURE_2D_MULTISAMPLE, 1, &samples);
    glTextureStorage2DMultisample(samples, 4, GL_RGBA16F, width, height, GL_TRUE);
    glNamedFramebufferTexture(framebuffers[6], GL_COLOR_ATTACHMENT0, samples, 0);
    glBlitNamedFramebuffer(framebuffers[6], framebuffers[0], 0, 0, width, height, 0, 0, width, height,
                           GL_COLOR_BUFFER_BIT, GL_NEAREST);
    glGenTextures(1, &view);
    glTextureView(view, GL_TEXTURE_2D, textures[5], GL_RG32F, 0, 1, 0, 1);
    glDeleteTextures(1, &view);
    glDeleteTextures(1, &samples);
    glDeleteFramebuffers(7, framebuffers);
    glDeleteTextures(6, textures);
  }
  const std::size_t after = held_bytes();
  return after > before ? after - before : 0;
}

}  // namespace

TEST_CASE_METHOD(TestDevice,
                 "a storm of 10,000 sizes leaves GL objects and memory as they were, and the picture right") {
  Everything everything;
  std::mt19937 random(3);
  const auto size = [&] { return 4 + static_cast<int>(random() % 60); };
  gl::FrameRunner runner(device, planned(everything.frame, device, 32, 24));
  const GLuint fixed = runner.texture("fixed").name();
  runner.run(0);
  const Image before = runner.read("output");
  ObjectCount objects;
  std::size_t bytes = 0;
  for (int i = 0; i < 10000; ++i) {
    const PlanResult result = everything.frame.plan(size(), size(), device.limits());
    runner.use(result.value());
    if (i % 100 == 0) runner.run(0);
    if (i == 999) {
      // By now the driver has filled its own pools.
      runner.use(planned(everything.frame, device, 32, 24));
      objects = ObjectCount::now();
      bytes = held_bytes();
    }
  }
  runner.use(planned(everything.frame, device, 32, 24));
  const ObjectCount after = ObjectCount::now();
  INFO(after.textures << " " << after.renderbuffers << " " << after.framebuffers << " " << after.buffers << " "
                      << after.programs);
  INFO(objects.textures << " " << objects.renderbuffers << " " << objects.framebuffers << " " << objects.buffers << " "
                        << objects.programs);
  CHECK(after == objects);
  CHECK(runner.texture("fixed").name() == fixed);  // what does not follow the frame was never made again
  // 9,000 more sizes: a leak of one target each, of 8 KiB in the mean, would show as 70 MiB. The driver's pools grow by
  // up to 7 MiB and then no more, however many sizes follow.
  const std::size_t grown = held_bytes() > bytes ? held_bytes() - bytes : 0;
  const std::size_t plain = growth_of_plain_calls(9000);
  INFO("grown by " << grown << ", plain calls by " << plain);
  CHECK(grown < (std::size_t{16} << 20) + 3 * plain);
  runner.run(0);
  CHECK(runner.read("output") == before);
  CHECK(runner.read("fixed").at(1, 1)[0] == 3);
}

TEST_CASE_METHOD(TestDevice, "another size makes anew only what follows the frame, programs stay") {
  Everything everything;
  gl::FrameRunner runner(device, planned(everything.frame, device, 32, 24));
  const ObjectCount before = ObjectCount::now();
  std::vector<bool> programs;
  for (GLuint name = 1; name < 200; ++name) programs.push_back(glIsProgram(name));
  const GLuint fixed = runner.texture("fixed").name();
  runner.use(planned(everything.frame, device, 48, 20));
  REQUIRE(ObjectCount::now() == before);
  for (GLuint name = 1; name < 200; ++name) REQUIRE(glIsProgram(name) == programs[name - 1]);
  REQUIRE(runner.texture("fixed").name() == fixed);
  REQUIRE(runner.texture("output").width() == 48);
}

TEST_CASE_METHOD(TestDevice, "a plan that can't be used leaves the runner with the one before") {
  FrameGraph frame;
  frame.add(fill("end", "vec4(1.0)", {.target = frame.output()}));
  gl::FrameRunner runner(device, planned(frame, device));
  runner.run(0);
  FrameGraph broken;
  broken.add(fill("end", "no_such(1.0)", {.target = broken.output()}));
  REQUIRE(thrown_slug([&] { runner.use(planned(broken, device)); }) == "shader");
  runner.run(0);
  REQUIRE(runner.read("output").at(0, 0)[0] == 255);
  runner.use(planned(frame, device));
  runner.run(0);
  REQUIRE(runner.read("output").at(0, 0)[0] == 255);
}
