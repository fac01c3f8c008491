#include <periscena/window/window.h>

#include "window/keys.h"
#include "window/window_system.h"

#include <algorithm>
#include <utility>

namespace periscena::window {

Window::Window(WindowOptions options) : system_(std::make_unique<System>(std::move(options))) {}
Window::~Window() = default;

gl::Device& Window::device() {
  return *system_->device;
}

void Window::make_current() {
  glfwMakeContextCurrent(system_->handle);
}

bool Window::begin_frame() {
  return system_->begin_frame();
}

void Window::end_frame() {
  system_->end_frame();
}

std::span<const Event> Window::events() const {
  return system_->events;
}

bool Window::is_held(Key key) const {
  const int code = code_of(key);
  return code != GLFW_KEY_UNKNOWN && glfwGetKey(system_->handle, code) == GLFW_PRESS;
}

bool Window::is_held(Button button) const {
  const int number = button == Button::left     ? GLFW_MOUSE_BUTTON_LEFT
                     : button == Button::right  ? GLFW_MOUSE_BUTTON_RIGHT
                     : button == Button::middle ? GLFW_MOUSE_BUTTON_MIDDLE
                                                : GLFW_MOUSE_BUTTON_4;
  return glfwGetMouseButton(system_->handle, number) == GLFW_PRESS;
}

Vec2 Window::pointer() const {
  return system_->pointer_now();
}

int Window::width() const {
  return system_->width;
}

int Window::height() const {
  return system_->height;
}

float Window::scale() const {
  float x = 1, y = 1;
  glfwGetWindowContentScale(system_->handle, &x, &y);
  return std::max(x, y);
}

double Window::seconds() const {
  return system_->seconds;
}

double Window::frame_seconds() const {
  return system_->frame_seconds;
}

void Window::set_title(const std::string& title) {
  glfwSetWindowTitle(system_->handle, title.c_str());
}

void Window::set_size(int width, int height) {
  glfwSetWindowSize(system_->handle, width, height);
}

void Window::set_full_screen(bool full) {
  system_->set_full_screen(full);
}

bool Window::is_full_screen() const {
  return glfwGetWindowMonitor(system_->handle) != nullptr;
}

void Window::set_vertical_sync(bool waits) {
  system_->set_vertical_sync(waits);
}

void Window::set_redraw(Redraw redraw) {
  system_->options.redraw = redraw;
}

void Window::request_redraw() {
  system_->wants_redraw = true;
}

void Window::close() {
  glfwSetWindowShouldClose(system_->handle, GLFW_TRUE);
}

void Window::keep_open() {
  glfwSetWindowShouldClose(system_->handle, GLFW_FALSE);
}

void Window::present(const gl::Texture& picture, const PixelRect& part, const std::array<float, 4>& around) {
  if (!has_pixels()) return;
  make_current();
  system_->presenter->present(picture, system_->framebuffer(), part, around);
  system_->drawn = true;
}

void Window::present_depth(const gl::Texture& depth, const PixelRect& part) {
  if (!has_pixels()) return;
  make_current();
  system_->presenter->present_depth(depth, system_->framebuffer(), part);
  system_->drawn = true;
}

Image Window::picture() const {
  return system_->presenter->read(system_->framebuffer());
}

void* Window::native_handle() const {
  return system_->handle;
}

}  // namespace periscena::window
