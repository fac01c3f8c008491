#include "gl/device.h"
#include "graph/frames.h"
#include "thrown.h"

#include <periscena/gl/frame_runner.h>
#include <periscena/gl/presenter.h>

#include <epoxy/egl.h>
#include <epoxy/gl.h>

using namespace periscena;

namespace {

/// A pass of plain GL calls that fills its first colour.
Pass fill(std::string name, TargetHandle target, float red, std::vector<std::string>* ran = nullptr) {
  Pass pass;
  pass.name = name;
  pass.kind = "raw";
  pass.writes.push_back({"color", target});
  pass.work = gl::raw_work([=](gl::PassContext& context) {
    if (ran) ran->push_back(name);
    const float color[] = {red, static_cast<float>(context.time().seconds), 0, 1};
    glClearNamedFramebufferfv(context.framebuffer(), GL_COLOR, 0, color);
    // What a careless pass leaves behind must not harm the next.
    glColorMask(GL_FALSE, GL_FALSE, GL_FALSE, GL_FALSE);
    glEnable(GL_SCISSOR_TEST);
    glScissor(0, 0, 1, 1);
    glBindTransformFeedback(GL_TRANSFORM_FEEDBACK, 0);
    glBindFramebuffer(GL_DRAW_FRAMEBUFFER, 0);
  });
  return pass;
}

}  // namespace

TEST_CASE_METHOD(TestDevice, "passes run in the planned order, at the time that was asked for") {
  FrameGraph frame;
  const TargetHandle a = frame.target("a", {.format = Format::rgba32f, .size = TargetSize::pixels(4, 3)});
  std::vector<std::string> ran;
  frame.keep(a);
  frame.add(fill("one", a, 0.25f, &ran));
  frame.add(fill("two", frame.output(), 1, &ran));
  gl::FrameRunner runner(device, frame.plan(8, 8, device.limits()).value());
  runner.run(2.5);
  REQUIRE(ran == std::vector<std::string>{"one", "two"});
  REQUIRE(runner.read("a").at(3, 2) == std::array<double, 4>{0.25f, 2.5f, 0, 1});
  REQUIRE(runner.read("a").width() == 4);
  REQUIRE(runner.read("output").at(7, 7)[0] == 255);
  REQUIRE_THAT(thrown_text([&] { runner.read("otput"); }), Catch::Contains("did you mean \"output\"?"));
  REQUIRE(thrown_slug([&] { runner.run(std::nan("")); }) == "not-finite");
}

TEST_CASE_METHOD(TestDevice,
                 "targets are cleared to their values at the first write of each frame, and kept after that") {
  FrameGraph frame;
  const TargetHandle color = frame.target("color", {.format = Format::rgba32f, .clear_color = {0.5f, 0.25f, 8, 1}});
  const TargetHandle depth = frame.target("depth", {.format = Format::depth32f, .clear_depth = 0.125f});
  frame.keep(color);
  frame.keep(depth);
  int run = 0;
  Pass first;
  first.name = "first";
  first.writes = {{"color", color}, {"depth", depth}};
  first.work = gl::raw_work([&](gl::PassContext& context) {
    if (run++ == 0) return;
    const float other[] = {9, 9, 9, 9};
    glClearNamedFramebufferfv(context.framebuffer(), GL_COLOR, 0, other);
    glDepthMask(GL_FALSE);
  });
  frame.add(std::move(first));
  Pass second;
  second.name = "second";
  second.writes = {{"color", color}};
  second.work = gl::raw_work([](gl::PassContext&) {});
  frame.add(std::move(second));
  gl::FrameRunner runner(device, frame.plan(4, 4).value());
  runner.run(0);
  REQUIRE(runner.read("color").at(0, 0) == std::array<double, 4>{0.5f, 0.25f, 8, 1});
  REQUIRE(runner.read("depth").at(3, 3)[0] == 0.125f);
  runner.run(0);
  REQUIRE(runner.read("color").at(0, 0)[0] == 9);
  REQUIRE(runner.read("depth").at(3, 3)[0] == 0.125f);
}

TEST_CASE_METHOD(TestDevice, "what a vertex program makes is captured into a part of a buffer, and no pixel changes") {
  const gl::Program program(device,
                            {"squares",
                             gl::ShaderText::from_text("squares",
                                                       "layout(xfb_buffer = 0, xfb_stride = 8) out;\n"
                                                       "layout(xfb_offset = 4) out float square;\n"
                                                       "void main() { square = float(gl_VertexID * gl_VertexID); }"),
                             {}});
  const std::vector<float> before(8, -1.0f);
  const gl::Buffer buffer = gl::Buffer::holding(std::as_bytes(std::span(before)), "squares");
  const gl::VertexCapture capture(buffer, 8, 16, "squares");
  REQUIRE(thrown_slug([&] { gl::VertexCapture(buffer, 24, 16, "outside"); }) == "outside-buffer");
  const gl::VertexArray nothing("nothing");
  FrameGraph frame;
  Pass pass = fill("captures", frame.output(), 0.5f);
  pass.work = gl::raw_work([&](gl::PassContext& context) {
    const float color[] = {0.5f, 0, 0, 1};
    glClearNamedFramebufferfv(context.framebuffer(), GL_COLOR, 0, color);
    program.use(context.state());
    context.capture(capture, nothing, 5, 2);
  });
  frame.add(std::move(pass));
  gl::FrameRunner runner(device, frame.plan(4, 4).value());
  runner.run(0);
  std::vector<float> after(8);
  buffer.read(0, std::as_writable_bytes(std::span(after)));
  REQUIRE(after == std::vector<float>{-1, -1, -1, 25, -1, 36, -1, -1});
  REQUIRE(runner.read("output").at(2, 2)[0] > 100);
}

TEST_CASE("each pass is a debug group of its name") {
  std::vector<std::string> groups;
  gl::Device device = gl::Device::headless({[&](const gl::DebugMessage& message) {
    if (message.kind == gl::DebugMessage::Kind::marker) groups.emplace_back(message.text);
  }});
  FrameGraph frame;
  frame.add(fill("canal", frame.output(), 1));
  gl::FrameRunner runner(device, frame.plan(4, 4).value());
  glDebugMessageControl(GL_DONT_CARE, GL_DONT_CARE, GL_DONT_CARE, 0, nullptr, GL_TRUE);
  runner.run(0);
  REQUIRE(std::count(groups.begin(), groups.end(), "canal") == 2);  // in and out
}

TEST_CASE_METHOD(TestDevice, "two runners on one device do not disturb each other, and objects go when they do") {
  const auto textures_alive = [] {
    int alive = 0;
    for (GLuint name = 1; name < 500; ++name) alive += glIsTexture(name);
    return alive;
  };
  const int before = textures_alive();
  {
    FrameGraph one, two;
    one.add(fill("one", one.output(), 0));
    two.add(fill("two", two.output(), 1));
    gl::FrameRunner first(device, one.plan(4, 4).value()), second(device, two.plan(9, 9).value());
    first.run(0);
    second.run(0);
    first.run(0);
    REQUIRE(first.read("output").at(0, 0)[0] == 0);
    REQUIRE(second.read("output").at(8, 8)[0] == 255);
    REQUIRE(textures_alive() == before + 2);
  }
  REQUIRE(textures_alive() == before);
}

TEST_CASE("a run leaves an adopted context's state as it found it") {
  const EGLDisplay display = eglGetPlatformDisplayEXT(EGL_PLATFORM_SURFACELESS_MESA, EGL_DEFAULT_DISPLAY, nullptr);
  eglInitialize(display, nullptr, nullptr);
  eglBindAPI(EGL_OPENGL_API);
  const EGLint attributes[] = {EGL_CONTEXT_MAJOR_VERSION, 4, EGL_CONTEXT_MINOR_VERSION, 5, EGL_NONE};
  const EGLContext context = eglCreateContext(display, EGL_NO_CONFIG_KHR, EGL_NO_CONTEXT, attributes);
  REQUIRE(eglMakeCurrent(display, EGL_NO_SURFACE, EGL_NO_SURFACE, context));
  {
    gl::Device device = gl::Device::adopt();
    FrameGraph frame;
    frame.add(fill("a pass", frame.output(), 1));
    gl::FrameRunner runner(device, frame.plan(4, 4).value());

    gl::Presenter presenter(device);
    const gl::Texture depth({.width = 4, .height = 4, .format = Format::depth32f}, "depth");
    const gl::Texture own_depth({.width = 8, .height = 8, .format = Format::depth24_stencil8}, "own depth");
    const gl::Texture own_color({.width = 8, .height = 8}, "own color");
    GLuint framebuffer = 0;
    glCreateFramebuffers(1, &framebuffer);
    glNamedFramebufferTexture(framebuffer, GL_COLOR_ATTACHMENT0, own_color.name(), 0);
    glNamedFramebufferTexture(framebuffer, GL_DEPTH_STENCIL_ATTACHMENT, own_depth.name(), 0);

    GLuint array = 0, buffer = 0, texture = 0, capture = 0;
    glGenTransformFeedbacks(1, &capture);
    glBindTransformFeedback(GL_TRANSFORM_FEEDBACK, capture);
    glGenVertexArrays(1, &array);
    glGenBuffers(1, &buffer);
    glGenTextures(1, &texture);
    glBindVertexArray(array);
    glBindBuffer(GL_UNIFORM_BUFFER, buffer);
    glBufferData(GL_UNIFORM_BUFFER, 1024, nullptr, GL_STATIC_DRAW);
    glBindBufferRange(GL_UNIFORM_BUFFER, 0, buffer, 256, 128);
    glActiveTexture(GL_TEXTURE2);
    glBindTexture(GL_TEXTURE_2D, texture);
    glViewport(1, 2, 30, 40);
    glClipControl(GL_UPPER_LEFT, GL_NEGATIVE_ONE_TO_ONE);
    glEnable(GL_CULL_FACE);
    glCullFace(GL_FRONT);
    glFrontFace(GL_CW);
    glDepthFunc(GL_GEQUAL);
    glDepthMask(GL_FALSE);
    glColorMask(GL_TRUE, GL_FALSE, GL_TRUE, GL_FALSE);
    glBlendFuncSeparate(GL_ONE, GL_SRC_ALPHA, GL_ZERO, GL_DST_COLOR);
    glStencilFuncSeparate(GL_BACK, GL_LESS, 3, 0x3F);
    glEnable(GL_SCISSOR_TEST);
    glPolygonOffset(2, 3);

    runner.run(1);
    presenter.present(runner.texture("output"), {framebuffer, 8, 8}, {0, 0, 8, 8});
    presenter.present_depth(depth, {framebuffer, 8, 8}, {2, 2, 4, 4});

    const auto integer = [](GLenum what) {
      GLint value = 0;
      glGetIntegerv(what, &value);
      return static_cast<GLenum>(value);
    };
    GLint viewport[4];
    glGetIntegerv(GL_VIEWPORT, viewport);
    GLint64 start = 0;
    glGetInteger64i_v(GL_UNIFORM_BUFFER_START, 0, &start);
    CHECK(integer(GL_VERTEX_ARRAY_BINDING) == array);
    CHECK(integer(GL_TRANSFORM_FEEDBACK_BINDING) == capture);
    CHECK(integer(GL_UNIFORM_BUFFER_BINDING) == buffer);
    CHECK(start == 256);
    CHECK(integer(GL_ACTIVE_TEXTURE) == GL_TEXTURE2);
    CHECK(integer(GL_TEXTURE_BINDING_2D) == texture);
    CHECK(viewport[0] == 1);
    CHECK(viewport[3] == 40);
    CHECK(integer(GL_CLIP_ORIGIN) == GL_UPPER_LEFT);
    CHECK(integer(GL_CLIP_DEPTH_MODE) == GL_NEGATIVE_ONE_TO_ONE);
    CHECK(glIsEnabled(GL_CULL_FACE));
    CHECK(integer(GL_CULL_FACE_MODE) == GL_FRONT);
    CHECK(integer(GL_FRONT_FACE) == GL_CW);
    CHECK(integer(GL_DEPTH_FUNC) == GL_GEQUAL);
    CHECK(integer(GL_DEPTH_WRITEMASK) == GL_FALSE);
    GLboolean mask[4];
    glGetBooleanv(GL_COLOR_WRITEMASK, mask);
    CHECK((mask[0] && !mask[1] && mask[2] && !mask[3]));
    CHECK(integer(GL_BLEND_SRC_RGB) == GL_ONE);
    CHECK(integer(GL_BLEND_DST_ALPHA) == GL_DST_COLOR);
    CHECK(integer(GL_STENCIL_BACK_FUNC) == GL_LESS);
    CHECK(integer(GL_STENCIL_BACK_VALUE_MASK) == 0x3F);
    CHECK(glIsEnabled(GL_SCISSOR_TEST));
    CHECK_FALSE(glIsEnabled(GL_FRAMEBUFFER_SRGB));
    CHECK(integer(GL_CURRENT_PROGRAM) == 0);
    GLfloat offset = 0;
    glGetFloatv(GL_POLYGON_OFFSET_FACTOR, &offset);
    CHECK(offset == 2);
    CHECK(glGetError() == GL_NO_ERROR);
    CHECK(runner.read("output").at(0, 0)[0] == 255);
  }
  REQUIRE(eglGetCurrentContext() == context);
  eglMakeCurrent(display, EGL_NO_SURFACE, EGL_NO_SURFACE, EGL_NO_CONTEXT);
  eglDestroyContext(display, context);
}

TEST_CASE_METHOD(TestDevice, "a frame too large for the device is refused before any call") {
  FrameGraph frame;
  frame.add(fill("a", frame.output(), 1));
  const PlanResult result = frame.plan(100000, 100000, device.limits());
  REQUIRE_FALSE(result.ok());
  REQUIRE(result.diagnostics()[0].slug == "over-device-limit");
}

TEST_CASE_METHOD(TestDevice, "a raw pass that says what it touches is taken at its word, and told when it lies") {
  const auto runner_with = [&](gl::Touched touches, std::function<void()> body) {
    FrameGraph frame;
    Pass pass;
    pass.name = "mine";
    pass.writes = {{"color", frame.output()}};
    pass.work = gl::raw_work([body](gl::PassContext&) { body(); }, touches);
    frame.add(std::move(pass));
    return std::make_unique<gl::FrameRunner>(device, frame.plan(4, 4).value());
  };
  const auto honest = runner_with(gl::Touched::viewport | gl::Touched::conventions, [] {
    glViewport(0, 0, 2, 2);
    glEnable(GL_SCISSOR_TEST);
    glScissor(0, 0, 1, 1);
  });
  honest->run(0);
  honest->run(1);
  REQUIRE_FALSE(glIsEnabled(GL_SCISSOR_TEST));
  const auto liar = runner_with(gl::Touched::viewport, [] { glEnable(GL_SCISSOR_TEST); });
  const std::string text = thrown_text([&] { liar->run(0); });
  REQUIRE_THAT(text, Catch::Contains("undeclared-state") && Catch::Contains("pass \"mine\"") &&
                         Catch::Contains("the scissor test is on"));
  liar->use(liar->plan());
  const auto program_left = runner_with(gl::Touched::nothing, [] { glBindFramebuffer(GL_DRAW_FRAMEBUFFER, 0); });
  REQUIRE_THAT(thrown_text([&] { program_left->run(0); }), Catch::Contains("the draw framebuffer is 0"));
}

TEST_CASE_METHOD(TestDevice, "calls between runs that changed state are told once, and then all is set again") {
  FrameGraph frame;
  frame.add(fill("one", frame.output(), 1));
  Pass calm;
  calm.name = "calm";
  calm.writes = {{"color", frame.output()}};
  calm.work = gl::raw_work([](gl::PassContext& context) { context.state().apply({}); }, gl::Touched::nothing);
  frame.add(std::move(calm));
  gl::FrameRunner runner(device, frame.plan(4, 4).value());
  runner.run(0);
  runner.run(0);
  glViewport(0, 0, 99, 1);
  REQUIRE_THAT(thrown_text([&] { runner.run(0); }),
               Catch::Contains("state-changed") && Catch::Contains("viewport is 99 x 1"));
  runner.run(0);
  glViewport(0, 0, 99, 1);
  device.state().forget(gl::Touched::viewport);
  runner.run(0);
}

TEST_CASE_METHOD(TestDevice,
                 "a program of your own whose output does not fit its target is refused when the pass is made") {
  FrameGraph frame;
  const TargetHandle ids = frame.target("ids", {.format = Format::r32ui});
  frame.keep(ids);
  Pass pass;
  pass.name = "mine";
  pass.writes = {{"color", ids}};
  pass.work = gl::work([](gl::PassSetup& setup) -> std::unique_ptr<gl::PassWork> {
    const gl::Program program(
        setup.device(), {"p", gl::ShaderText::from_text("v", "void main() { gl_Position = vec4(0.0); }\n"),
                         gl::ShaderText::from_text("f", "out vec4 color;\nvoid main() { color = vec4(1.0); }\n")});
    setup.match_outputs(program);
    return nullptr;
  });
  frame.add(std::move(pass));
  const FramePlan plan = frame.plan(4, 4).value();
  REQUIRE_THAT(
      thrown_text([&] { gl::FrameRunner(device, plan); }),
      Catch::Contains("output-type") && Catch::Contains("is float, but target \"ids\" is r32ui, which takes uint"));
}
