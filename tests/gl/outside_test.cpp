#include "gl/draws.h"

#include <periscena/gl/presenter.h>

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

namespace {

/// Depth, and stencil in the formats that have it, of a framebuffer that another renderer might have made.
struct TheirDepth {
  static constexpr int width = 16, height = 12;
  gl::Texture texture;
  GLuint framebuffer = 0;

  explicit TheirDepth(Format format) : texture({.width = width, .height = height, .format = format}, "their depth") {
    glCreateFramebuffers(1, &framebuffer);
    glNamedFramebufferTexture(
        framebuffer, format == Format::depth32f ? GL_DEPTH_ATTACHMENT : GL_DEPTH_STENCIL_ATTACHMENT, texture.name(), 0);
    const float depth = 0.125f;
    if (format == Format::depth32f)
      glClearNamedFramebufferfv(framebuffer, GL_DEPTH, 0, &depth);
    else
      glClearNamedFramebufferfi(framebuffer, GL_DEPTH_STENCIL, 0, depth, 77);
  }
  ~TheirDepth() { glDeleteFramebuffers(1, &framebuffer); }

  gl::OutsideFramebuffer outside() const { return {framebuffer, width, height}; }

  template <class T>
  std::vector<T> read(GLenum what, GLenum type) const {
    std::vector<T> values(width * height);
    glBindFramebuffer(GL_READ_FRAMEBUFFER, framebuffer);
    glPixelStorei(GL_PACK_ALIGNMENT, 1);
    glReadPixels(0, 0, width, height, what, type, values.data());
    glPixelStorei(GL_PACK_ALIGNMENT, 4);
    glBindFramebuffer(GL_READ_FRAMEBUFFER, 0);
    return values;
  }
};

}  // namespace

TEST_CASE_METHOD(TestDevice, "depth is copied into a part of a framebuffer that was made outside") {
  // 4 x 4 depths, each another.
  FrameGraph frame;
  const TargetHandle depth = frame.target("depth", {.format = Format::depth32f});
  frame.add(draw("depths",
                 "void main() { gl_FragDepth = (floor(gl_FragCoord.x) + 4.0 * floor(gl_FragCoord.y)) / 16.0; }\n", {},
                 {{"depth", depth}}));
  frame.keep(depth);
  gl::FrameRunner runner(device, frame.plan(4, 4, device.limits()).value());
  runner.run(0);
  gl::Presenter presenter(device);
  const auto copied = [&](const TheirDepth& theirs, const PixelRect& part) {
    presenter.present_depth(runner.texture("depth"), theirs.outside(), part);
    return theirs.read<float>(GL_DEPTH_COMPONENT, GL_FLOAT);
  };
  for (const Format format : {Format::depth32f, Format::depth24_stencil8}) {
    const TheirDepth theirs(format);
    // Scaled by 2 along x and by 1.5 along y; the part is told from the upper left, rows of GL go up.
    const PixelRect part{3, 1, 8, 6};
    const std::vector<float> found = copied(theirs, part);
    for (int y = 0; y < theirs.height; ++y) {
      for (int x = 0; x < theirs.width; ++x) {
        CAPTURE(x, y);
        const int column = x - part.x, row = y - (theirs.height - part.y - part.height);
        const bool inside = column >= 0 && column < part.width && row >= 0 && row < part.height;
        const auto step = [](int at, int from, int to) { return static_cast<int>((at + 0.5) * from / to); };
        const double wanted = inside ? (step(column, 4, part.width) + 4 * step(row, 4, part.height)) / 16.0 : 0.125;
        REQUIRE(found[static_cast<std::size_t>(y * theirs.width + x)] == Approx(wanted).margin(1e-6));
      }
    }
    if (format == Format::depth32f) continue;
    for (const std::uint8_t one : theirs.read<std::uint8_t>(GL_STENCIL_INDEX, GL_UNSIGNED_BYTE)) REQUIRE(one == 77);
  }
  // A part that reaches over the edge is cut off there.
  const std::vector<float> found = copied(TheirDepth(Format::depth32f), {-2, -2, 4, 4});
  REQUIRE(found[(TheirDepth::height - 1) * TheirDepth::width] == Approx(6 / 16.0));
  for (const PixelRect& nothing : {PixelRect{2, 2, 0, 0}, PixelRect{2, 2, -3, 4}}) {
    for (const float one : copied(TheirDepth(Format::depth32f), nothing)) REQUIRE(one == 0.125f);
  }
  // The runner's next frame is as before.
  runner.run(0);
  REQUIRE(runner.read("depth").at(3, 0)[0] == Approx(15 / 16.0));
}

TEST_CASE_METHOD(TestDevice, "depth that can't be copied is refused") {
  gl::Presenter presenter(device);
  const TheirDepth theirs(Format::depth32f);
  const Theirs colors;
  const auto refusal = [&](const gl::TextureDescription& of, const gl::OutsideFramebuffer& into) {
    const gl::Texture texture(of, "shown");
    return thrown_text([&] { presenter.present_depth(texture, into, {0, 0, 8, 8}); });
  };
  const gl::TextureDescription good{.width = 8, .height = 8, .format = Format::depth32f};
  CHECK(refusal(good, theirs.outside()).empty());
  CHECK_THAT(refusal({.width = 8, .height = 8}, theirs.outside()),
             Catch::Contains("not-presentable") && Catch::Contains("no depth"));
  gl::TextureDescription sampled = good;
  sampled.samples = 4;
  CHECK_THAT(refusal(sampled, theirs.outside()), Catch::Contains("several samples"));
  CHECK_THAT(refusal(good, {colors.framebuffer, 8, 8}),
             Catch::Contains("the framebuffer has no depth") && Catch::Contains("renderbuffer of depth"));
}
