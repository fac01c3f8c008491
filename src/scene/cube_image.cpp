#include "scene/checks.h"

#include <periscena/base/error.h>
#include <periscena/scene/environment.h>

#include <fmt/format.h>

#include <algorithm>
#include <bit>
#include <cmath>

namespace periscena {
namespace {

/// A place on a cube: s and t in −1..1, t down in the stored rows.
struct CubePlace {
  int face;
  float s, t;
};

/// OpenGL 4.5, table 8.19.
CubePlace cube_place(const Vec3& d) {
  const Vec3 size = d.abs();
  if (size.x() >= size.y() && size.x() >= size.z())
    return d.x() > 0 ? CubePlace{0, -d.z() / size.x(), -d.y() / size.x()}
                     : CubePlace{1, d.z() / size.x(), -d.y() / size.x()};
  if (size.y() >= size.z())
    return d.y() > 0 ? CubePlace{2, d.x() / size.y(), d.z() / size.y()}
                     : CubePlace{3, d.x() / size.y(), -d.z() / size.y()};
  return d.z() > 0 ? CubePlace{4, d.x() / size.z(), -d.y() / size.z()}
                   : CubePlace{5, -d.x() / size.z(), -d.y() / size.z()};
}

/// Linear between texels. @param x, y  in texels, the first one's middle at 0.5; @param fetch  texel (column, row)
template <class Fetch>
Vec3 linear(float x, float y, Fetch fetch) {
  const float left = std::floor(x - 0.5f), top = std::floor(y - 0.5f);
  const float u = x - 0.5f - left, v = y - 0.5f - top;
  const int column = static_cast<int>(left), row = static_cast<int>(top);
  const Vec3 upper = (1 - u) * fetch(column, row) + u * fetch(column + 1, row);
  const Vec3 lower = (1 - u) * fetch(column, row + 1) + u * fetch(column + 1, row + 1);
  return (1 - v) * upper + v * lower;
}

/// Light is finite and not negative, whatever files hold.
std::vector<Vec3> pixels_of(const Image& image) {
  std::vector<Vec3> pixels(static_cast<std::size_t>(image.width()) * static_cast<std::size_t>(image.height()));
  const auto* pixel = reinterpret_cast<const float*>(image.bytes().data());
  for (Vec3& into : pixels) {
    for (int k = 0; k < 3; ++k) into[k] = std::isfinite(pixel[k]) ? std::max(pixel[k], 0.0f) : 0.0f;
    pixel += 4;
  }
  return pixels;
}

/// A panorama: its middle towards −Z, its upper edge towards +Y.
class Panorama {
 public:
  explicit Panorama(const Image& image) : width_(image.width()), height_(image.height()), pixels_(pixels_of(image)) {}

  Vec3 at(const Vec3& direction) const {
    const Vec3 d = direction.normalized();
    const float u = 0.5f + std::atan2(d.x(), -d.z()) / (2 * pi);
    const float v = std::acos(std::clamp(d.y(), -1.0f, 1.0f)) / pi;
    return linear(u * static_cast<float>(width_), v * static_cast<float>(height_), [&](int x, int y) -> const Vec3& {
      x = (x + width_) % width_;
      y = std::clamp(y, 0, height_ - 1);
      return pixels_[static_cast<std::size_t>(y) * static_cast<std::size_t>(width_) + static_cast<std::size_t>(x)];
    });
  }

 private:
  int width_, height_;
  std::vector<Vec3> pixels_;
};

std::size_t texels(int size) {
  return static_cast<std::size_t>(size) * static_cast<std::size_t>(size);
}

/// Texel middles from −1 to 1.
float middle(int index, int size) {
  return (2 * static_cast<float>(index) + 1) / static_cast<float>(size) - 1;
}

/// Solid angle of a texel but for a factor: the cube of the distance to the middle of the cube.
float weight(float s, float t) {
  return 1 / std::pow(1 + s * s + t * t, 1.5f);
}

void halve(const CubeImage& cube, int level, std::vector<Vec3>& into, int face) {
  const int size = cube.level_size(level), from_size = cube.level_size(level - 1);
  const std::vector<Vec3>& from = cube.levels[static_cast<std::size_t>(level) - 1][static_cast<std::size_t>(face)];
  into.resize(texels(size));
  for (int y = 0; y < size; ++y) {
    for (int x = 0; x < size; ++x) {
      Vec3 sum = Vec3::zero();
      float weights = 0;
      for (int k = 0; k < 4; ++k) {
        const int column = 2 * x + k % 2, row = 2 * y + k / 2;
        const float w = weight(middle(column, from_size), middle(row, from_size));
        sum += w * from[static_cast<std::size_t>(row * from_size + column)];
        weights += w;
      }
      into[static_cast<std::size_t>(y * size + x)] = sum / weights;
    }
  }
}

}  // namespace

void Environment::expect_sound(Place place) const {
  const auto refuse = [&](const std::string& cause, const char* mend) {
    throw Mistake("bad-environment", place, fmt::format("environment \"{}\" {}", name, cause), mend);
  };
  expect_finite(std::isfinite(rotation) && std::isfinite(intensity), "environment", name, place);
  constexpr const char* one_or_six = "give one panorama, or the six faces of a cube";
  if (images.size() != 1 && images.size() != 6) refuse(fmt::format("has {} images", images.size()), one_or_six);
  for (const auto& image : images) {
    if (!image) refuse("lacks an image", one_or_six);
    if (image->format() != Format::rgba32f)
      refuse(fmt::format("has an image of {}", to_string(image->format())), "give linear light as rgba32f");
    if (images.size() == 6 && (image->width() != image->height() || image->width() != images[0]->width()))
      refuse(fmt::format("has a face of {} x {} pixels", image->width(), image->height()),
             "the six faces are squares of one size");
  }
}

Vec3 cube_direction(int face, float s, float t) {
  switch (face) {
    case 0: return Vec3(1, -t, -s).normalized();
    case 1: return Vec3(-1, -t, s).normalized();
    case 2: return Vec3(s, 1, t).normalized();
    case 3: return Vec3(s, -1, -t).normalized();
    case 4: return Vec3(s, -t, 1).normalized();
    default: return Vec3(-s, -t, -1).normalized();
  }
}

Vec3 CubeImage::at(const Vec3& direction, int level) const {
  const CubePlace place = cube_place(direction);
  const int n = level_size(level);
  const std::vector<Vec3>& face = levels[static_cast<std::size_t>(level)][static_cast<std::size_t>(place.face)];
  const float half = static_cast<float>(n) / 2;
  return linear((place.s + 1) * half, (place.t + 1) * half, [&](int x, int y) -> const Vec3& {
    return face[static_cast<std::size_t>(std::clamp(y, 0, n - 1) * n + std::clamp(x, 0, n - 1))];
  });
}

CubeImage to_cube(const Environment& environment, int size) {
  environment.expect_sound();
  const Image& first = *environment.images[0];
  const bool panorama = environment.images.size() == 1;
  if (size == 0) {
    const int sharp = panorama ? first.width() / 4 : first.width();
    size = static_cast<int>(std::bit_ceil(static_cast<unsigned>(std::clamp(sharp, 32, 1024))));
  }
  CubeImage cube;
  cube.size = size;
  cube.levels.emplace_back();
  const auto fill = [&](int face, auto look) {
    std::vector<Vec3>& into = cube.levels[0][static_cast<std::size_t>(face)];
    into.reserve(texels(size));
    for (int y = 0; y < size; ++y) {
      for (int x = 0; x < size; ++x) into.push_back(look(middle(x, size), middle(y, size)));
    }
  };
  if (panorama) {
    const Panorama image(first);
    for (int face = 0; face < 6; ++face)
      fill(face, [&](float s, float t) { return image.at(cube_direction(face, s, t)); });
  } else {
    const int n = first.width();
    for (int face = 0; face < 6; ++face) {
      const auto pixels = pixels_of(*environment.images[static_cast<std::size_t>(face)]);
      const float half = static_cast<float>(n) / 2;
      fill(face, [&](float s, float t) {
        return linear((s + 1) * half, (t + 1) * half, [&](int x, int y) -> const Vec3& {
          return pixels[static_cast<std::size_t>(std::clamp(y, 0, n - 1) * n + std::clamp(x, 0, n - 1))];
        });
      });
    }
  }
  for (int level = 1; cube.level_size(level - 1) > 1; ++level) {
    auto& made = cube.levels.emplace_back();
    for (int face = 0; face < 6; ++face) halve(cube, level, made[static_cast<std::size_t>(face)], face);
  }
  return cube;
}

std::array<Vec3, 9> irradiance_harmonics(const CubeImage& cube) {
  std::array<DoubleVec3, 9> sums;
  sums.fill(DoubleVec3::zero());
  double weights = 0;
  for (int face = 0; face < 6; ++face) {
    const auto& pixels = cube.levels[0][static_cast<std::size_t>(face)];
    for (int y = 0; y < cube.size; ++y) {
      for (int x = 0; x < cube.size; ++x) {
        const float s = middle(x, cube.size), t = middle(y, cube.size);
        const auto basis = harmonics(cube_direction(face, s, t));
        const double w = weight(s, t);
        const DoubleVec3 light = pixels[static_cast<std::size_t>(y * cube.size + x)].cast<double>();
        for (std::size_t k = 0; k < 9; ++k) sums[k] += w * basis[k] * light;
        weights += w;
      }
    }
  }
  // The cosine lobe's coefficients by band, over π.
  constexpr double lobe[] = {1, 2.0 / 3, 2.0 / 3, 2.0 / 3, 0.25, 0.25, 0.25, 0.25, 0.25};
  std::array<Vec3, 9> coefficients;
  for (std::size_t k = 0; k < 9; ++k)
    coefficients[k] = (sums[k] * (4 * std::numbers::pi / weights * lobe[k])).cast<float>();
  return coefficients;
}

std::array<float, 9> harmonics(const Vec3& n) {
  const float x = n.x(), y = n.y(), z = n.z();
  return {0.282095f,
          0.488603f * y,
          0.488603f * z,
          0.488603f * x,
          1.092548f * x * y,
          1.092548f * y * z,
          0.315392f * (3 * z * z - 1),
          1.092548f * x * z,
          0.546274f * (x * x - y * y)};
}

Vec3 evaluate_harmonics(const std::array<Vec3, 9>& coefficients, const Vec3& direction) {
  const auto basis = harmonics(direction);
  Vec3 sum = Vec3::zero();
  for (std::size_t k = 0; k < 9; ++k) sum += basis[k] * coefficients[k];
  return sum.max(0);
}

}  // namespace periscena
