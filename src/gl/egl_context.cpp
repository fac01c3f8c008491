#include "gl/egl_context.h"

#include "gl/api.h"

#include <periscena/base/error.h>

#include <fmt/format.h>

#include <cstdlib>

namespace periscena::gl {
namespace {

std::string egl_error() {
  switch (const EGLint code = eglGetError()) {
    case EGL_SUCCESS: return "no error code";
    case EGL_NOT_INITIALIZED: return "EGL_NOT_INITIALIZED";
    case EGL_BAD_ALLOC: return "EGL_BAD_ALLOC";
    case EGL_BAD_ATTRIBUTE: return "EGL_BAD_ATTRIBUTE";
    case EGL_BAD_CONFIG: return "EGL_BAD_CONFIG";
    case EGL_BAD_MATCH: return "EGL_BAD_MATCH";
    case EGL_BAD_DISPLAY: return "EGL_BAD_DISPLAY";
    case EGL_BAD_PARAMETER: return "EGL_BAD_PARAMETER";
    default: return fmt::format("EGL error {:#x}", code);
  }
}

/// Variables that choose drivers, when they are set: the usual reason why there is none.
std::string driver_variables() {
  std::string set;
  for (const char* name :
       {"EGL_PLATFORM", "GALLIUM_DRIVER", "MESA_LOADER_DRIVER_OVERRIDE", "LIBGL_DRIVERS_PATH", "LIBGL_ALWAYS_SOFTWARE",
        "MESA_GL_VERSION_OVERRIDE", "MESA_GLSL_VERSION_OVERRIDE", "MESA_EXTENSION_OVERRIDE",
        "__EGL_VENDOR_LIBRARY_FILENAMES", "__EGL_VENDOR_LIBRARY_DIRS", "VK_ICD_FILENAMES"}) {
    if (const char* value = std::getenv(name)) set += fmt::format("{}{}={}", set.empty() ? "" : ", ", name, value);
  }
  return set;
}

[[noreturn]] void no_device(const std::string& tried) {
  const std::string variables = driver_variables();
  fail("no-device", {}, fmt::format("no OpenGL device could be opened: {}", tried),
       variables.empty() ? "install a driver (Debian: libgl1-mesa-dri libegl-mesa0)"
                         : fmt::format("these variables choose drivers, try without them: {}", variables));
}

}  // namespace

Device::Context::Context(bool debug) {
  if (!epoxy_has_egl()) no_device("there is no libEGL on this machine");
  if (!open_surfaceless() && !open_with_pbuffer()) no_device(tried_);
  if (!create(config_, debug)) {
    const std::string cause = egl_error();
    const std::string found = version_of_any_context(config_);
    eglTerminate(display_);
    if (found.empty()) no_device(fmt::format("{}no context: {}", tried_, cause));
    const std::string variables = driver_variables();
    fail("old-device", {}, fmt::format("OpenGL 4.5 core is needed, but this driver offers {}", found),
         variables.empty() ? "update the driver, or use Mesa's software driver: LIBGL_ALWAYS_SOFTWARE=1"
                           : fmt::format("these variables choose drivers, try without them: {}", variables));
  }
  make_current();
}

Device::Context::~Context() {
  eglMakeCurrent(display_, EGL_NO_SURFACE, EGL_NO_SURFACE, EGL_NO_CONTEXT);
  if (surface_ != EGL_NO_SURFACE) eglDestroySurface(display_, surface_);
  eglDestroyContext(display_, context_);
  // The display is shared by the whole process (EGL 1.5, 3.2), so it is not ours to terminate.
}

bool Device::Context::open_surfaceless() {
  const char* extensions = eglQueryString(EGL_NO_DISPLAY, EGL_EXTENSIONS);
  const std::string_view known = extensions ? extensions : "";
  if (known.find("EGL_EXT_platform_base") == known.npos || known.find("EGL_MESA_platform_surfaceless") == known.npos) {
    tried_ += "surfaceless EGL: not offered; ";
    return false;
  }
  display_ = eglGetPlatformDisplayEXT(EGL_PLATFORM_SURFACELESS_MESA, EGL_DEFAULT_DISPLAY, nullptr);
  if (display_ == EGL_NO_DISPLAY || !eglInitialize(display_, nullptr, nullptr)) {
    tried_ += fmt::format("surfaceless EGL: {}; ", egl_error());
    return false;
  }
  const bool without_surface = epoxy_has_egl_extension(display_, "EGL_KHR_surfaceless_context") &&
                               epoxy_has_egl_extension(display_, "EGL_KHR_no_config_context");
  if (!without_surface) {
    tried_ += "surfaceless EGL: contexts need a surface; ";
    eglTerminate(display_);
  }
  return without_surface;
}

bool Device::Context::open_with_pbuffer() {
  display_ = eglGetDisplay(EGL_DEFAULT_DISPLAY);
  if (display_ == EGL_NO_DISPLAY || !eglInitialize(display_, nullptr, nullptr)) {
    tried_ += fmt::format("EGL with a pbuffer: {}", egl_error());
    return false;
  }
  const EGLint wanted[] = {EGL_SURFACE_TYPE, EGL_PBUFFER_BIT, EGL_RENDERABLE_TYPE, EGL_OPENGL_BIT, EGL_NONE};
  EGLint count = 0;
  const EGLint size[] = {EGL_WIDTH, 1, EGL_HEIGHT, 1, EGL_NONE};
  if (!eglChooseConfig(display_, wanted, &config_, 1, &count) || count == 0) {
    tried_ += "EGL with a pbuffer: no configuration has one";
    return false;
  }
  surface_ = eglCreatePbufferSurface(display_, config_, size);
  if (surface_ == EGL_NO_SURFACE) tried_ += fmt::format("EGL with a pbuffer: {}", egl_error());
  return surface_ != EGL_NO_SURFACE;
}

bool Device::Context::create(EGLConfig config, bool debug) {
  const EGLint attributes[] = {EGL_CONTEXT_MAJOR_VERSION,
                               4,
                               EGL_CONTEXT_MINOR_VERSION,
                               5,
                               EGL_CONTEXT_OPENGL_PROFILE_MASK,
                               EGL_CONTEXT_OPENGL_CORE_PROFILE_BIT,
                               EGL_CONTEXT_OPENGL_DEBUG,
                               debug ? EGL_TRUE : EGL_FALSE,
                               EGL_NONE};
  if (!eglBindAPI(EGL_OPENGL_API)) return false;
  context_ = eglCreateContext(display_, config, EGL_NO_CONTEXT, attributes);
  return context_ != EGL_NO_CONTEXT;
}

std::string Device::Context::version_of_any_context(EGLConfig config) {
  const EGLint attributes[] = {EGL_NONE};
  const EGLContext any = eglCreateContext(display_, config, EGL_NO_CONTEXT, attributes);
  if (any == EGL_NO_CONTEXT) return {};
  std::string found;
  if (eglMakeCurrent(display_, surface_, surface_, any)) {
    const auto* version = reinterpret_cast<const char*>(glGetString(GL_VERSION));
    const auto* renderer = reinterpret_cast<const char*>(glGetString(GL_RENDERER));
    found = fmt::format("{} ({})", version ? version : "?", renderer ? renderer : "?");
    eglMakeCurrent(display_, EGL_NO_SURFACE, EGL_NO_SURFACE, EGL_NO_CONTEXT);
  }
  eglDestroyContext(display_, any);
  return found;
}

void Device::Context::make_current() {
  if (eglMakeCurrent(display_, surface_, surface_, context_)) return;
  no_device(fmt::format("the context can't be made current: {}", egl_error()));
}

}  // namespace periscena::gl
