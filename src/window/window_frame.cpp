#include <periscena/window/window_frame.h>

#include <periscena/base/error.h>

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <utility>

namespace periscena::window {
namespace {

int pixels(double count) {
  return std::max(1, static_cast<int>(std::lround(count)));
}

void expect_sound(const WindowFrameOptions& options) {
  if (!(options.aspect == 0 || (options.aspect >= 0.01 && options.aspect <= 100))) {
    throw Mistake("bad-option", {}, fmt::format("aspect is {}", options.aspect),
                  "choose a width by height of 0.01 to 100, or 0 for the window's");
  }
  if (!(options.scale >= 0.01 && options.scale <= 8))
    throw Mistake("bad-option", {}, fmt::format("scale is {}", options.scale), "choose 0.01 to 8");
}

}  // namespace

WindowFrame::WindowFrame(Window& window, FrameGraph frame, WindowFrameOptions options)
    : window_(window), frame_(std::move(frame)), options_(std::move(options)) {
  expect_sound(options_);
  window_.make_current();
  area_ = fitting_area();
  PlanResult result = plan();
  diagnostics_ = result.diagnostics();
  runner_.emplace(window_.device(), std::move(result).value());
}

WindowFrame::~WindowFrame() {
  window_.make_current();
}

/// The largest rectangle of the wished aspect, in the middle of the window.
PixelRect WindowFrame::fitting_area() const {
  const int width = std::max(1, window_.width()), height = std::max(1, window_.height());
  if (options_.aspect == 0) return {0, 0, width, height};
  const int fitting_width = std::min(width, pixels(height * options_.aspect));
  const int fitting_height = std::min(height, pixels(width / options_.aspect));
  return {(width - fitting_width) / 2, (height - fitting_height) / 2, fitting_width, fitting_height};
}

PlanResult WindowFrame::plan() const {
  return frame_.plan(pixels(area_.width * options_.scale), pixels(area_.height * options_.scale),
                     window_.device().limits());
}

void WindowFrame::follow_size() {
  const PixelRect area = fitting_area();
  if (area == area_) return;
  const bool moved_only = area.width == area_.width && area.height == area_.height;
  area_ = area;
  if (moved_only) return;
  PlanResult result = plan();
  diagnostics_ = result.diagnostics();
  if (!result.ok()) return;
  ++plan_count_;
  runner_->use(std::move(result).value());
}

void WindowFrame::draw(double seconds) {
  if (!window_.has_pixels()) return;
  window_.make_current();
  follow_size();
  runner_->run(seconds);
  window_.present(runner_->texture(options_.target), area_, options_.bars);
  if (!options_.depth.empty()) window_.present_depth(runner_->texture(options_.depth), area_);
}

Diagnostics WindowFrame::use(FrameGraph frame) {
  std::swap(frame_, frame);
  PlanResult result = plan();
  Diagnostics found = result.diagnostics();
  window_.make_current();
  try {
    if (result.ok()) {
      runner_->use(std::move(result).value());
      ++plan_count_;
      return diagnostics_ = found;
    }
  } catch (const Error& error) {
    found.append(error.diagnostics());
  }
  std::swap(frame_, frame);
  return found;
}

Diagnostics WindowFrame::diagnostics() const {
  Diagnostics all = diagnostics_;
  all.append(runner_->diagnostics());
  return all;
}

std::optional<Vec2> WindowFrame::pixel_at(const Vec2& position) const {
  const Vec2 in = position - Vec2(static_cast<float>(area_.x), static_cast<float>(area_.y));
  const Vec2 size(static_cast<float>(area_.width), static_cast<float>(area_.height));
  if (in.x() < 0 || in.y() < 0 || in.x() >= size.x() || in.y() >= size.y()) return std::nullopt;
  const FramePlan& plan = runner_->plan();
  return in.times(Vec2(static_cast<float>(plan.width()), static_cast<float>(plan.height())).over(size));
}

}  // namespace periscena::window
