#include "gl/api.h"
#include "gl/capabilities.h"
#include "gl/egl_context.h"

#include <periscena/base/error.h>

#include <fmt/format.h>

#include <dlfcn.h>

namespace periscena::gl {
namespace {

DebugMessage::Kind kind_of(GLenum type) {
  switch (type) {
    case GL_DEBUG_TYPE_ERROR: return DebugMessage::Kind::error;
    case GL_DEBUG_TYPE_DEPRECATED_BEHAVIOR: return DebugMessage::Kind::deprecated;
    case GL_DEBUG_TYPE_UNDEFINED_BEHAVIOR: return DebugMessage::Kind::undefined;
    case GL_DEBUG_TYPE_PORTABILITY: return DebugMessage::Kind::portability;
    case GL_DEBUG_TYPE_PERFORMANCE: return DebugMessage::Kind::performance;
    case GL_DEBUG_TYPE_MARKER:
    case GL_DEBUG_TYPE_PUSH_GROUP:
    case GL_DEBUG_TYPE_POP_GROUP: return DebugMessage::Kind::marker;
    default: return DebugMessage::Kind::other;
  }
}

DebugMessage::Weight weight_of(GLenum severity) {
  switch (severity) {
    case GL_DEBUG_SEVERITY_HIGH: return DebugMessage::Weight::high;
    case GL_DEBUG_SEVERITY_MEDIUM: return DebugMessage::Weight::medium;
    case GL_DEBUG_SEVERITY_LOW: return DebugMessage::Weight::low;
    default: return DebugMessage::Weight::notification;
  }
}

void GLAPIENTRY hear(GLenum source, GLenum type, GLuint id, GLenum severity, GLsizei length, const GLchar* text,
                     const void* options) {
  const std::string_view words =
      length >= 0 ? std::string_view(text, static_cast<std::size_t>(length)) : std::string_view(text);
  static_cast<const DeviceOptions*>(options)->on_message(
      {kind_of(type), weight_of(severity), source == GL_DEBUG_SOURCE_SHADER_COMPILER, id, words});
}

/// GLX may be in use without our linking it: a window library brought it along.
bool glx_context_is_current() {
  using GetCurrent = void* (*)();
  // A window library may have loaded it for itself alone.
  for (const char* library : {static_cast<const char*>(nullptr), "libGLX.so.0", "libGL.so.1"}) {
    void* const loaded = dlopen(library, RTLD_LAZY | RTLD_NOLOAD);
    if (!loaded) continue;
    const auto get_current = reinterpret_cast<GetCurrent>(dlsym(loaded, "glXGetCurrentContext"));
    const bool current = get_current && get_current();
    dlclose(loaded);
    if (current) return true;
  }
  return false;
}

void expect_current_is_modern() {
  const bool egl = epoxy_has_egl() && eglGetCurrentContext() != EGL_NO_CONTEXT;
  if (!egl && !glx_context_is_current()) {
    fail("no-current-context", {}, "no OpenGL context is current in this thread",
         "make your context current before Device::adopt(), or use Device::headless()");
  }
  GLint major = 0, minor = 0;
  glGetIntegerv(GL_MAJOR_VERSION, &major);
  glGetIntegerv(GL_MINOR_VERSION, &minor);
  if (major > 4 || (major == 4 && minor >= 5)) return;
  fail("old-device", {},
       fmt::format("OpenGL 4.5 core is needed, but the current context is {}",
                   reinterpret_cast<const char*>(glGetString(GL_VERSION))),
       "ask for 4.5 core when the context is made");
}

}  // namespace

std::string_view to_string(DebugMessage::Kind kind) {
  switch (kind) {
    case DebugMessage::Kind::error: return "error";
    case DebugMessage::Kind::deprecated: return "deprecated";
    case DebugMessage::Kind::undefined: return "undefined";
    case DebugMessage::Kind::portability: return "portability";
    case DebugMessage::Kind::performance: return "performance";
    case DebugMessage::Kind::marker: return "marker";
    case DebugMessage::Kind::other: break;
  }
  return "other";
}

Device Device::headless(DeviceOptions options) {
  auto context = std::make_unique<Context>(static_cast<bool>(options.on_message));
  return Device(std::move(context), std::move(options));
}

Device Device::adopt(DeviceOptions options) {
  expect_current_is_modern();
  return Device(nullptr, std::move(options));
}

Device::Device(std::unique_ptr<Context> context, DeviceOptions options)
    : context_(std::move(context)), options_(std::move(options)), capabilities_(ask_capabilities(options_)) {
  programs_ = std::make_unique<ProgramCache>(fmt::format("{}\n{}\n{}\n{}", capabilities_.vendor, capabilities_.renderer,
                                                         capabilities_.version, capabilities_.shading_language),
                                             options_.program_folder);
  debugger_attached_ = epoxy_has_gl_extension("GL_EXT_debug_tool");
  listen();
}

Device::~Device() {
  if (adopted() && options_.on_message) {
    glDebugMessageCallback(reinterpret_cast<GLDEBUGPROC>(earlier_callback_), earlier_parameter_);
    if (!earlier_debug_) glDisable(GL_DEBUG_OUTPUT);
    if (!earlier_synchronous_) glDisable(GL_DEBUG_OUTPUT_SYNCHRONOUS);
  }
}

bool Device::adopted() const {
  return context_ == nullptr;
}

void Device::make_current() {
  if (context_) context_->make_current();
}

void Device::listen() {
  if (!options_.on_message) return;
  glGetPointerv(GL_DEBUG_CALLBACK_FUNCTION, &earlier_callback_);
  glGetPointerv(GL_DEBUG_CALLBACK_USER_PARAM, &earlier_parameter_);
  earlier_debug_ = glIsEnabled(GL_DEBUG_OUTPUT);
  earlier_synchronous_ = glIsEnabled(GL_DEBUG_OUTPUT_SYNCHRONOUS);
  glEnable(GL_DEBUG_OUTPUT);
  glEnable(GL_DEBUG_OUTPUT_SYNCHRONOUS);
  glDebugMessageCallback(hear, &options_);
}

}  // namespace periscena::gl
