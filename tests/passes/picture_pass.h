#pragma once

#include "gl/device.h"

#include <periscena/gl/frame_runner.h>

#include <functional>
#include <random>

/// A frame whose first target is a picture at hand, for passes that change pictures.
struct PictureFrame {
  periscena::FrameGraph frame;
  periscena::TargetHandle light =
      frame.target("light", {.format = periscena::Format::rgba32f, .origin = periscena::Origin::outside_texture});
  periscena::TargetHandle result = frame.target("result", {.format = periscena::Format::rgba32f});

  /// @param picture  rgba32f; it gives the frame its size
  explicit PictureFrame(const periscena::Image& picture)
      : width(picture.width()), height(picture.height()), texture_(width, height, picture.format(), "light") {
    frame.keep(result);
    texture_.upload(picture);
  }

  /// Another picture of the same size, for the next frame.
  void show(const periscena::Image& picture) const { texture_.upload(picture); }

  periscena::gl::FrameRunner& runner(periscena::gl::Device& device) {
    if (!runner_)
      runner_ = std::make_unique<periscena::gl::FrameRunner>(
          device, frame.plan(width, height, device.limits()).value(),
          std::vector<periscena::gl::Outside>{{.target = "light", .name = texture_.name()}});
    return *runner_;
  }

  periscena::Image run(periscena::gl::Device& device, double seconds = 0) {
    runner(device).run(seconds);
    return runner_->read("result");
  }

  int width, height;

 private:
  periscena::gl::Texture texture_;
  std::unique_ptr<periscena::gl::FrameRunner> runner_;
};

/// A picture by a formula of its pixels, from the upper left: red, green, blue.
inline periscena::Image picture_of(int width, int height, const std::function<periscena::Vec3(int x, int y)>& color) {
  periscena::Image image(width, height, periscena::Format::rgba32f);
  for (int y = 0; y < height; ++y) {
    for (int x = 0; x < width; ++x) {
      const periscena::Vec3 c = color(x, y);
      image.set(x, y, {static_cast<double>(c[0]), static_cast<double>(c[1]), static_cast<double>(c[2]), 1});
    }
  }
  return image;
}

inline double mean_of(const periscena::Image& image, int channel) {
  double sum = 0;
  for (int y = 0; y < image.height(); ++y) {
    for (int x = 0; x < image.width(); ++x) sum += image.at(x, y)[static_cast<std::size_t>(channel)];
  }
  return sum / (image.width() * image.height());
}

/// The same noise for the same size, 0..1.
inline periscena::Image noise_picture(int width, int height) {
  std::mt19937 random(7);
  std::uniform_real_distribution<float> even(0, 1);
  return picture_of(width, height, [&](int, int) { return periscena::Vec3(even(random), even(random), even(random)); });
}
