#include "gl/draws.h"

#include <epoxy/gl.h>

using namespace periscena;

namespace {

/// A texture and a framebuffer as another renderer might have made them.
struct Theirs {
  GLuint texture = 0, framebuffer = 0;

  explicit Theirs(GLenum format = GL_RGBA16F, int levels = 1) {
    glCreateTextures(GL_TEXTURE_2D, 1, &texture);
    glTextureStorage2D(texture, levels, format, 8, 8);
    glCreateFramebuffers(1, &framebuffer);
    glNamedFramebufferTexture(framebuffer, GL_COLOR_ATTACHMENT0, texture, 0);
    const float grey[] = {0.5f, 0.5f, 0.5f, 1};
    glClearNamedFramebufferfv(framebuffer, GL_COLOR, 0, grey);
  }
  ~Theirs() {
    glDeleteFramebuffers(1, &framebuffer);
    glDeleteTextures(1, &texture);
  }
};

}  // namespace

TEST_CASE_METHOD(TestDevice,
                 "a texture that was made outside is read with what is in it, and drawn over without a clear") {
  Theirs theirs;
  FrameGraph frame;
  const TargetHandle outside = frame.target("theirs", {.format = Format::rgba16f, .origin = Origin::outside_texture});
  const TargetHandle copy = frame.target("copy", {.format = Format::rgba16f});
  frame.keep(copy);
  frame.add(fill("read", "texture(theirs, uv)", {.target = copy}, "vec4", {{"theirs", outside}},
                 "uniform sampler2D theirs;\n"));
  frame.add(draw("write", "out vec4 color;\nvoid main() { if (uv.x < 0.5) discard; color = vec4(2.0); }\n", {},
                 {{"color", outside}}));
  frame.keep(outside);
  gl::FrameRunner runner(device, planned(frame, device), {{"theirs", theirs.texture}});
  runner.run(0);
  REQUIRE(runner.read("copy").at(1, 1)[0] == 0.5);
  REQUIRE(runner.read("theirs").at(1, 1)[0] == 0.5);
  REQUIRE(runner.read("theirs").at(6, 1)[0] == 2);
  REQUIRE(runner.texture("theirs").name() == theirs.texture);
}

TEST_CASE_METHOD(TestDevice, "a framebuffer that was made outside takes the picture, and nothing is copied") {
  Theirs theirs(GL_SRGB8_ALPHA8);
  FrameGraph frame;
  frame.set_output_origin(Origin::outside_framebuffer);
  frame.add(fill("end", "vec4(0.25)", {.target = frame.output()}));
  const FramePlan plan = planned(frame, device);
  REQUIRE(plan.passes().size() == 1);
  REQUIRE(plan.bytes() == 0);
  gl::FrameRunner runner(device, plan, {{"output", theirs.framebuffer}});
  runner.run(0);
  REQUIRE(gl::Texture::adopt(theirs.texture).read().at(3, 3)[0] == Approx(137).margin(1));
  REQUIRE(thrown_slug([&] { runner.read("output"); }) == "not-kept");
}

TEST_CASE_METHOD(TestDevice, "what was handed over and does not fit is told with both sides") {
  Theirs theirs;
  const auto refusal = [&](const TargetDescription& description, const std::vector<gl::Outside>& outside) {
    FrameGraph frame;
    const TargetHandle target = frame.target("theirs", description);
    frame.add(fill("end", "texture(theirs, uv)", {.target = frame.output()}, "vec4", {{"theirs", target}},
                   "uniform sampler2D theirs;\n"));
    const FramePlan plan = planned(frame, device);
    return thrown_text([&] { gl::FrameRunner(device, plan, outside); });
  };
  TargetDescription as_is{.format = Format::rgba16f, .origin = Origin::outside_texture};
  REQUIRE_THAT(refusal(as_is, {}), Catch::Contains("outside-missing"));
  REQUIRE_THAT(refusal(as_is, {{"their", theirs.texture}}), Catch::Contains("did you mean \"their\"?"));
  REQUIRE_THAT(refusal(as_is, {{"theirs", 4711}}), Catch::Contains("not-a-texture"));
  as_is.format = Format::rgba8;
  REQUIRE_THAT(refusal(as_is, {{"theirs", theirs.texture}}),
               Catch::Contains("declared rgba8 of 8 x 8") && Catch::Contains("is rgba16f of 8 x 8"));
  Theirs exotic(GL_RGB10);
  as_is.format = Format::rgba16f;
  REQUIRE_THAT(refusal(as_is, {{"theirs", exotic.texture}}), Catch::Contains("unknown-format"));
  FrameGraph frame;
  const TargetHandle window = frame.target("window", {.origin = Origin::outside_framebuffer});
  frame.add(fill("end", "texture(window, uv)", {.target = frame.output()}, "vec4", {{"window", window}},
                 "uniform sampler2D window;\n"));
  REQUIRE(frame.plan(8, 8).diagnostics()[0].slug == "outside-framebuffer");
}
