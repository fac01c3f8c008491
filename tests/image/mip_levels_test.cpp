#include "thrown.h"

#include <periscena/image/color.h>
#include <periscena/image/mip_levels.h>

#include <catch2/catch.hpp>

#include <cmath>
#include <random>

using namespace periscena;

namespace {

Image noise(int width, int height, Format format, unsigned seed) {
  std::mt19937 random(seed);
  Image image(width, height, format);
  for (int y = 0; y < height; ++y) {
    for (int x = 0; x < width; ++x) {
      std::array<double, 4> pixel{};
      for (double& value : pixel)
        value = image.is_float() ? std::uniform_real_distribution<float>(0, 4)(random)
                                 : static_cast<double>(random() % 256);
      image.set(x, y, pixel);
    }
  }
  return image;
}

/// What is averaged: linear light, 0..1 for bytes; by row, column and channel.
struct Averaged {
  int width, height;
  std::vector<double> values;

  double& at(int x, int y, std::size_t channel) {
    return values[(static_cast<std::size_t>(y) * static_cast<std::size_t>(width) + static_cast<std::size_t>(x)) * 4 +
                  channel];
  }
};

Averaged light_of(const Image& image, bool srgb) {
  Averaged light{image.width(), image.height(), {}};
  for (int y = 0; y < image.height(); ++y) {
    for (int x = 0; x < image.width(); ++x) {
      for (std::size_t channel = 0; channel < 4; ++channel) {
        const double value = image.at(x, y)[channel], share = image.is_float() ? value : value / 255;
        light.values.push_back(srgb && channel < 3 ? srgb_to_linear(share) : share);
      }
    }
  }
  return light;
}

/// The mean of the area that a pixel of the lower level covers, by the areas of what lies in it.
double mean(Averaged& upper, int width, int height, int x, int y, std::size_t channel) {
  const double left = static_cast<double>(x) * upper.width / width,
               right = static_cast<double>(x + 1) * upper.width / width;
  const double top = static_cast<double>(y) * upper.height / height,
               bottom = static_cast<double>(y + 1) * upper.height / height;
  double sum = 0;
  for (int v = 0; v < upper.height; ++v) {
    for (int u = 0; u < upper.width; ++u) {
      const double across = std::min<double>(right, u + 1) - std::max<double>(left, u);
      const double down = std::min<double>(bottom, v + 1) - std::max<double>(top, v);
      if (across > 0 && down > 0) sum += across * down * upper.at(u, v, channel);
    }
  }
  return sum / ((right - left) * (bottom - top));
}

Averaged below(Averaged& upper) {
  Averaged lower{std::max(1, upper.width / 2), std::max(1, upper.height / 2), {}};
  for (int y = 0; y < lower.height; ++y) {
    for (int x = 0; x < lower.width; ++x) {
      for (std::size_t channel = 0; channel < 4; ++channel)
        lower.values.push_back(mean(upper, lower.width, lower.height, x, y, channel));
    }
  }
  return lower;
}

}  // namespace

TEST_CASE("every pixel of a mip level is the mean of what it covers, in linear light, for odd sizes too") {
  for (const auto& [width, height] :
       {std::pair{16, 8}, std::pair{7, 5}, std::pair{1, 9}, std::pair{31, 2}, std::pair{12, 11}}) {
    for (const Format stored : {Format::rgba8_srgb, Format::rgba8, Format::rgba16f}) {
      const bool floats = stored == Format::rgba16f, srgb = stored == Format::rgba8_srgb;
      const Image image = noise(width, height, floats ? Format::rgba32f : Format::rgba8_srgb, 7);
      const std::vector<Image> levels = mip_levels(image, stored);
      REQUIRE(static_cast<int>(levels.size()) + 1 == mip_level_count(width, height));
      Averaged expected = light_of(image, srgb);
      double largest = 0;
      for (const Image& level : levels) {
        expected = below(expected);
        REQUIRE(level.width() == expected.width);
        REQUIRE(level.height() == expected.height);
        REQUIRE(level.format() == image.format());
        for (int y = 0; y < level.height(); ++y) {
          for (int x = 0; x < level.width(); ++x) {
            for (std::size_t channel = 0; channel < 4; ++channel) {
              const double light = expected.at(x, y, channel);
              const double encoded = srgb && channel < 3 ? linear_to_srgb(light) : light;
              const double difference = level.at(x, y)[channel] - (floats ? light : 255 * encoded);
              largest = std::max(largest, std::abs(difference));
            }
          }
        }
      }
      CHECK(largest <= (floats ? 1e-5 : 0.5 + 1e-3));  // bytes are rounded
      REQUIRE((expected.width == 1 && expected.height == 1));
    }
  }
}

TEST_CASE("mip levels of one color are that color, byte for byte") {
  for (int value = 0; value < 256; ++value) {
    Image image(5, 4, Format::rgba8_srgb);
    for (int i = 0; i < 20; ++i)
      image.set(i % 5, i / 5, {static_cast<double>(value), 0, 255, static_cast<double>(value)});
    for (const Format stored : {Format::rgba8_srgb, Format::rgba8}) {
      for (const Image& level : mip_levels(image, stored)) REQUIRE(level.at(0, 0) == image.at(0, 0));
    }
  }
}

TEST_CASE("a single pixel has no lower levels, and what has no mean is refused") {
  REQUIRE(mip_levels(Image(1, 1, Format::rgba8), Format::rgba8).empty());
  REQUIRE(thrown_slug([] { mip_levels(Image(4, 4, Format::r32ui), Format::r32ui); }) == "image-format");
  REQUIRE(thrown_slug([] { mip_levels(Image::outline(4, 4, Format::rgba8), Format::rgba8); }) == "image-format");
}
