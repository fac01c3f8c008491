#include "gl/device.h"
#include "thrown.h"

#include <epoxy/egl.h>
#include <epoxy/gl.h>

#include <cstdlib>

using namespace periscena;

namespace {

/// A context that somebody else made, as an engine would.
class ForeignContext {
 public:
  explicit ForeignContext(EGLint major = 4, EGLint minor = 5) {
    display_ = eglGetPlatformDisplayEXT(EGL_PLATFORM_SURFACELESS_MESA, EGL_DEFAULT_DISPLAY, nullptr);
    eglInitialize(display_, nullptr, nullptr);
    eglBindAPI(EGL_OPENGL_API);
    const EGLint attributes[] = {
        EGL_CONTEXT_MAJOR_VERSION,           major,   EGL_CONTEXT_MINOR_VERSION, minor, EGL_CONTEXT_OPENGL_PROFILE_MASK,
        EGL_CONTEXT_OPENGL_CORE_PROFILE_BIT, EGL_NONE};
    context_ = eglCreateContext(display_, EGL_NO_CONFIG_KHR, EGL_NO_CONTEXT, attributes);
    eglMakeCurrent(display_, EGL_NO_SURFACE, EGL_NO_SURFACE, context_);
  }
  ~ForeignContext() {
    eglMakeCurrent(display_, EGL_NO_SURFACE, EGL_NO_SURFACE, EGL_NO_CONTEXT);
    eglDestroyContext(display_, context_);
  }
  bool current() const { return eglGetCurrentContext() == context_; }

 private:
  EGLDisplay display_;
  EGLContext context_;
};

}  // namespace

TEST_CASE_METHOD(TestDevice,
                 "a headless device is OpenGL 4.5 or later, and its limits keep what the standard guarantees") {
  const gl::Capabilities& found = device.capabilities();
  REQUIRE(found.major * 10 + found.minor >= 45);
  REQUIRE_FALSE(found.renderer.empty());
  REQUIRE_FALSE(device.adopted());
  REQUIRE(found.limit("MAX_TEXTURE_SIZE") >= 16384);
  REQUIRE(found.limit("MAX_COLOR_ATTACHMENTS") >= 8);
  REQUIRE(found.limit("MAX_UNIFORM_BLOCK_SIZE") >= 16384);
  REQUIRE(found.limit("no such limit") == 0);
  REQUIRE(device.limits().asked);
  REQUIRE(device.limits().largest_size == found.limit("MAX_TEXTURE_SIZE"));
}

TEST_CASE_METHOD(TestDevice,
                 "formats that the standard requires can be drawn into, what is asked is what the driver says") {
  // OpenGL 4.5, 8.5.1: required renderable formats.
  for (const Format format : {Format::r8, Format::rgba8, Format::rgba8_srgb, Format::rgba16f, Format::r11g11b10f,
                              Format::rgb10a2, Format::depth32f, Format::depth24}) {
    INFO(to_string(format));
    REQUIRE(device.capabilities().format(format).renderable);
    // OpenGL 4.5, 8.14.1: all of these filter linearly.
    REQUIRE(device.capabilities().format(format).filterable);
  }
  GLint samples = 0;
  glGetIntegerv(GL_MAX_SAMPLES, &samples);
  const auto& counts = device.capabilities().format(Format::rgba8).sample_counts;
  REQUIRE_FALSE(counts.empty());
  REQUIRE(counts.back() <= samples);
  REQUIRE(std::is_sorted(counts.begin(), counts.end()));
}

TEST_CASE("driver messages reach the caller's callback") {
  std::vector<gl::DebugMessage::Kind> kinds;
  gl::Device device = gl::Device::headless({[&](const gl::DebugMessage& message) { kinds.push_back(message.kind); }});
  glEnable(0xBAD);
  REQUIRE(std::count(kinds.begin(), kinds.end(), gl::DebugMessage::Kind::error) == 1);
  REQUIRE(gl::to_string(kinds.back()) == "error");
}

TEST_CASE("two devices live side by side, each with its own objects") {
  gl::Device one = gl::Device::headless();
  gl::Device two = gl::Device::headless();
  one.make_current();
  glViewport(0, 0, 7, 7);
  two.make_current();
  glViewport(0, 0, 9, 9);
  one.make_current();
  GLint viewport[4];
  glGetIntegerv(GL_VIEWPORT, viewport);
  REQUIRE(viewport[2] == 7);
}

TEST_CASE("an adopted context is used, not owned") {
  REQUIRE(thrown_slug([] { gl::Device::adopt(); }) == "no-current-context");
  const ForeignContext foreign;
  {
    const gl::Device device = gl::Device::adopt({[](const gl::DebugMessage&) {}});
    REQUIRE(device.adopted());
    REQUIRE(glIsEnabled(GL_DEBUG_OUTPUT_SYNCHRONOUS));
  }
  REQUIRE(foreign.current());
  void* callback = &callback;
  glGetPointerv(GL_DEBUG_CALLBACK_FUNCTION, &callback);
  REQUIRE(callback == nullptr);
  REQUIRE_FALSE(glIsEnabled(GL_DEBUG_OUTPUT_SYNCHRONOUS));
}

TEST_CASE("an adopted context that is too old is refused, and stays as it was") {
  ::setenv("MESA_GL_VERSION_OVERRIDE", "4.4", 1);
  const ForeignContext foreign(4, 4);
  ::unsetenv("MESA_GL_VERSION_OVERRIDE");
  REQUIRE(foreign.current());
  // Mesa reads the override once a process: under ctest, which runs each test in its own, it holds.
  if (!std::string(reinterpret_cast<const char*>(glGetString(GL_VERSION))).starts_with("4.4")) return;
  REQUIRE(thrown_slug([] { gl::Device::adopt(); }) == "old-device");
  REQUIRE(foreign.current());
}
