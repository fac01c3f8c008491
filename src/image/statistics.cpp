#include <periscena/image/statistics.h>

#include <periscena/base/error.h>

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <limits>

namespace periscena {
namespace {

/// All numbers of a picture, 8-bit ones as 0..1.
std::vector<double> numbers_of(const Image& image) {
  std::vector<double> numbers;
  const auto channels = static_cast<std::size_t>(image.channels());
  numbers.reserve(static_cast<std::size_t>(image.width()) * static_cast<std::size_t>(image.height()) * channels);
  const double scale = image.is_eight_bit() ? 1.0 / 255 : 1;
  for (int y = 0; y < image.height(); ++y) {
    for (int x = 0; x < image.width(); ++x) {
      const auto pixel = image.at(x, y);
      for (std::size_t c = 0; c < channels; ++c) numbers.push_back(pixel[c] * scale);
    }
  }
  return numbers;
}

void expect_alike(const Image& a, const Image& b) {
  if (a.width() != b.width() || a.height() != b.height()) {
    throw Mistake(
        "size-mismatch", {},
        fmt::format("one picture is {} x {} pixels, the other {} x {}", a.width(), a.height(), b.width(), b.height()),
        "compare pictures of one size");
  }
  if (a.channels() == b.channels() && a.is_eight_bit() == b.is_eight_bit()) return;
  throw Mistake("image-format", {},
                fmt::format("one picture is {}, the other {}", to_string(a.format()), to_string(b.format())),
                "compare pictures of one kind");
}

double distance(double a, double b) {
  if (std::isfinite(a) && std::isfinite(b)) return std::abs(a - b);
  const bool same = (std::isnan(a) && std::isnan(b)) || a == b;
  return same ? 0 : std::numeric_limits<double>::infinity();
}

/// One row or column of numbers smoothed by the Gaussian window, cut at the ends.
class Window {
 public:
  Window() {
    for (int i = -radius; i <= radius; ++i) weights_[i + radius] = std::exp(-0.5 * i * i / (1.5 * 1.5));
  }

  void smooth(const double* from, double* into, int count, int step) const {
    for (int i = 0; i < count; ++i) {
      double sum = 0, weight = 0;
      for (int k = std::max(-radius, -i); k <= std::min(radius, count - 1 - i); ++k) {
        sum += weights_[k + radius] * from[(i + k) * step];
        weight += weights_[k + radius];
      }
      into[i * step] = sum / weight;
    }
  }

 private:
  static constexpr int radius = 5;
  double weights_[2 * radius + 1];
};

void blur(std::vector<double>& plane, int width, int height) {
  static const Window window;
  std::vector<double> once(plane.size());
  for (int y = 0; y < height; ++y)
    window.smooth(&plane[static_cast<std::size_t>(y * width)], &once[static_cast<std::size_t>(y * width)], width, 1);
  for (int x = 0; x < width; ++x)
    window.smooth(&once[static_cast<std::size_t>(x)], &plane[static_cast<std::size_t>(x)], height, width);
}

/// Mean structural similarity of one channel.
double similarity(const std::vector<double>& a, const std::vector<double>& b, int width, int height, double peak) {
  const std::size_t count = a.size();
  std::vector<double> mean_a = a, mean_b = b, square_a(count), square_b(count), product(count);
  for (std::size_t i = 0; i < count; ++i) {
    square_a[i] = a[i] * a[i];
    square_b[i] = b[i] * b[i];
    product[i] = a[i] * b[i];
  }
  for (auto* plane : {&mean_a, &mean_b, &square_a, &square_b, &product}) blur(*plane, width, height);
  const double c1 = std::pow(0.01 * peak, 2), c2 = std::pow(0.03 * peak, 2);
  double sum = 0;
  for (std::size_t i = 0; i < count; ++i) {
    const double ma = mean_a[i], mb = mean_b[i];
    const double va = square_a[i] - ma * ma, vb = square_b[i] - mb * mb, covariance = product[i] - ma * mb;
    sum += ((2 * ma * mb + c1) * (2 * covariance + c2)) / ((ma * ma + mb * mb + c1) * (va + vb + c2));
  }
  return sum / static_cast<double>(count);
}

/// Black, blue, red, yellow, white.
std::array<double, 4> heat(double share) {
  if (!std::isfinite(share)) return {255, 0, 255, 255};
  constexpr double stops[5][3] = {{0, 0, 0}, {30, 40, 160}, {220, 40, 50}, {255, 210, 60}, {255, 255, 255}};
  const double at = std::clamp(share, 0.0, 1.0) * 4;
  const int below = std::min(3, static_cast<int>(at));
  std::array<double, 4> color{0, 0, 0, 255};
  for (std::size_t c = 0; c < 3; ++c)
    color[c] = stops[below][c] + (stops[below + 1][c] - stops[below][c]) * (at - below);
  return color;
}

}  // namespace

std::vector<ChannelStatistics> statistics(const Image& image) {
  std::vector<ChannelStatistics> found(static_cast<std::size_t>(image.channels()));
  for (int y = 0; y < image.height(); ++y) {
    for (int x = 0; x < image.width(); ++x) {
      const auto pixel = image.at(x, y);
      for (std::size_t c = 0; c < found.size(); ++c) {
        ChannelStatistics& channel = found[c];
        if (std::isnan(pixel[c])) {
          ++channel.nan;
        } else if (std::isinf(pixel[c])) {
          ++channel.infinite;
        } else {
          channel.least = channel.finite ? std::min(channel.least, pixel[c]) : pixel[c];
          channel.most = channel.finite ? std::max(channel.most, pixel[c]) : pixel[c];
          channel.mean += pixel[c];
          ++channel.finite;
        }
      }
    }
  }
  for (ChannelStatistics& channel : found) {
    if (channel.finite) channel.mean /= static_cast<double>(channel.finite);
  }
  return found;
}

PictureDifference compare(const Image& a, const Image& b) {
  expect_alike(a, b);
  std::vector<double> left = numbers_of(a), right = numbers_of(b);
  const auto channels = static_cast<std::size_t>(a.channels());
  PictureDifference found;
  if (!a.is_eight_bit()) {
    found.peak = 0;
    for (const double number : left)
      found.peak = std::isfinite(number) ? std::max(found.peak, std::abs(number)) : found.peak;
    if (found.peak == 0) found.peak = 1;
  }
  double squares = 0;
  std::size_t finite = 0;
  for (std::size_t pixel = 0; pixel < left.size() / channels; ++pixel) {
    bool differs = false;
    for (std::size_t c = 0; c < channels; ++c) {
      double& l = left[pixel * channels + c];
      double& r = right[pixel * channels + c];
      const double apart = distance(l, r);
      differs = differs || apart > 0;
      if (apart > found.greatest) {
        found.greatest = apart;
        found.x = static_cast<int>(pixel % static_cast<std::size_t>(a.width()));
        found.y = static_cast<int>(pixel / static_cast<std::size_t>(a.width()));
        found.channel = static_cast<int>(c);
      }
      if (std::isfinite(l) && std::isfinite(r)) {
        squares += apart * apart;
        ++finite;
      } else {
        l = r = 0;  // the same on both sides: it counts for no difference of structure
      }
    }
    found.pixels += differs;
  }
  found.rmse = std::isinf(found.greatest) ? found.greatest
                                          : std::sqrt(squares / static_cast<double>(std::max<std::size_t>(1, finite)));
  found.psnr = found.rmse > 0 ? 20 * std::log10(found.peak / found.rmse) : std::numeric_limits<double>::infinity();
  if (found.pixels == 0) return found;
  found.ssim = 0;
  std::vector<double> plane_a(left.size() / channels), plane_b(plane_a.size());
  for (std::size_t c = 0; c < channels; ++c) {
    for (std::size_t i = 0; i < plane_a.size(); ++i) {
      plane_a[i] = left[i * channels + c];
      plane_b[i] = right[i * channels + c];
    }
    found.ssim += similarity(plane_a, plane_b, a.width(), a.height(), found.peak) / static_cast<double>(channels);
  }
  return found;
}

double edge_difference(const Image& reference, const Image& picture, double step) {
  expect_alike(reference, picture);
  const std::vector<double> truth = numbers_of(reference), given = numbers_of(picture);
  const auto channels = static_cast<std::size_t>(reference.channels());
  const std::size_t colors = std::min<std::size_t>(channels, 3);
  const auto at = [&](int x, int y) {
    return (static_cast<std::size_t>(y) * static_cast<std::size_t>(reference.width()) + static_cast<std::size_t>(x)) *
           channels;
  };
  const auto brightness = [&](int x, int y) {
    double sum = 0;
    for (std::size_t c = 0; c < colors; ++c) sum += truth[at(x, y) + c];
    return sum / static_cast<double>(colors);
  };
  double squares = 0;
  std::size_t count = 0;
  for (int y = 1; y + 1 < reference.height(); ++y) {
    for (int x = 1; x + 1 < reference.width(); ++x) {
      double least = brightness(x, y), most = least;
      for (int i = 0; i < 9; ++i) {
        const double one = brightness(x + i % 3 - 1, y + i / 3 - 1);
        least = std::min(least, one);
        most = std::max(most, one);
      }
      if (most - least <= step) continue;
      for (std::size_t c = 0; c < colors; ++c)
        squares += std::pow(distance(truth[at(x, y) + c], given[at(x, y) + c]), 2);
      count += colors;
    }
  }
  return count ? std::sqrt(squares / static_cast<double>(count)) : 0;
}

double flicker(const std::array<const Image*, 2>& reference, const std::array<const Image*, 2>& pictures) {
  expect_alike(*reference[0], *reference[1]);
  for (const Image* picture : pictures) expect_alike(*reference[0], *picture);
  const std::vector<double> was = numbers_of(*reference[0]), is = numbers_of(*reference[1]),
                            before = numbers_of(*pictures[0]), now = numbers_of(*pictures[1]);
  double squares = 0;
  for (std::size_t i = 0; i < was.size(); ++i) squares += std::pow(distance(now[i] - before[i], is[i] - was[i]), 2);
  return was.empty() ? 0 : std::sqrt(squares / static_cast<double>(was.size()));
}

Image difference_heat(const Image& a, const Image& b, double most) {
  expect_alike(a, b);
  Image picture(a.width(), a.height(), Format::rgba8_srgb);
  const double scale = a.is_eight_bit() ? 1.0 / 255 : 1;
  for (int y = 0; y < a.height(); ++y) {
    for (int x = 0; x < a.width(); ++x) {
      const auto left = a.at(x, y), right = b.at(x, y);
      double apart = 0;
      for (std::size_t c = 0; c < static_cast<std::size_t>(a.channels()); ++c)
        apart = std::max(apart, distance(left[c], right[c]) * scale);
      picture.set(x, y, heat(apart / most));
    }
  }
  return picture;
}

}  // namespace periscena
