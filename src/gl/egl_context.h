#pragma once

#include <periscena/gl/device.h>

#include <epoxy/egl.h>

#include <string>

namespace periscena::gl {

/// An EGL display, context and, where the driver wants one, a pbuffer of 1 x 1.
class Device::Context {
 public:
  /// @throws Error "no-device", "old-device"
  explicit Context(bool debug);
  Context(const Context&) = delete;
  Context& operator=(const Context&) = delete;
  ~Context();

  void make_current();

 private:
  bool open_surfaceless();
  bool open_with_pbuffer();
  bool create(EGLConfig config, bool debug);
  std::string version_of_any_context(EGLConfig config);

  EGLDisplay display_ = EGL_NO_DISPLAY;
  EGLConfig config_ = nullptr;
  EGLContext context_ = EGL_NO_CONTEXT;
  EGLSurface surface_ = EGL_NO_SURFACE;
  std::string tried_;
};

}  // namespace periscena::gl
