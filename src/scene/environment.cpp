#include <periscena/base/error.h>
#include <periscena/base/file.h>
#include <periscena/base/hash.h>
#include <periscena/scene/environment.h>
#include <periscena/scene/shading.h>

#include <fmt/format.h>

#include <algorithm>
#include <bit>
#include <cmath>
#include <cstdlib>
#include <cstring>
#include <thread>

namespace periscena {
namespace {

/// Low-discrepancy points in the unit square (Hammersley's).
Vec2 hammersley(std::uint32_t i, std::uint32_t count) {
  std::uint32_t bits = i;
  bits = (bits << 16) | (bits >> 16);
  bits = ((bits & 0x55555555u) << 1) | ((bits & 0xAAAAAAAAu) >> 1);
  bits = ((bits & 0x33333333u) << 2) | ((bits & 0xCCCCCCCCu) >> 2);
  bits = ((bits & 0x0F0F0F0Fu) << 4) | ((bits & 0xF0F0F0F0u) >> 4);
  bits = ((bits & 0x00FF00FFu) << 8) | ((bits & 0xFF00FF00u) >> 8);
  return {(static_cast<float>(i) + 0.5f) / static_cast<float>(count), static_cast<float>(bits) * 0x1p-32f};
}

/// A microfacet's normal about +Z, distributed as GGX's times its cosine (Walter et al. 2007, equations 35 and 36).
Vec3 sample_ggx(const Vec2& point, float alpha) {
  const float cosine2 = (1 - point.y()) / (1 + (alpha * alpha - 1) * point.y());
  const float sine = std::sqrt(std::max(0.0f, 1 - cosine2)), around = 2 * pi * point.x();
  return {sine * std::cos(around), sine * std::sin(around), std::sqrt(cosine2)};
}

/// A light direction about +Z, its weight, and the level of the cube that is as coarse as the samples are apart.
struct LobeSample {
  Vec3 direction;
  float weight;
  int level;
};

std::vector<LobeSample> lobe(float roughness, int cube_size, int levels) {
  const float alpha = roughness * roughness;
  const std::uint32_t count = roughness < 0.3f ? 64 : 128;
  const float texel = 4 * pi / (6 * static_cast<float>(cube_size) * static_cast<float>(cube_size));
  std::vector<LobeSample> samples;
  for (std::uint32_t i = 0; i < count; ++i) {
    const Vec3 half = sample_ggx(hammersley(i, count), alpha);
    const Vec3 light = 2 * half.z() * half - Vec3::unit_z();
    if (light.z() <= 0) continue;
    // View is the normal: the density of `light` is D · n·h / (4 v·h) = D / 4 (Krivanek and Colbert 2008, for levels).
    const float density = ggx_distribution(half.z(), alpha) / 4;
    const float apart = 1 / (static_cast<float>(count) * density);
    const float level = std::max(0.0f, 0.5f * std::log2(apart / texel) + 0.5f);
    samples.push_back({light, light.z(), std::min(static_cast<int>(level), levels - 1)});
  }
  return samples;
}

/// Runs over all (face, row) pairs on as many threads as the machine has.
template <class Row>
void for_all_rows(int size, Row row) {
  const unsigned threads = std::max(1u, std::thread::hardware_concurrency());
  std::vector<std::jthread> workers;
  for (unsigned worker = 0; worker < threads; ++worker) {
    workers.emplace_back([=] {
      for (int i = static_cast<int>(worker); i < 6 * size; i += static_cast<int>(threads)) row(i / size, i % size);
    });
  }
}

float texel_middle(int index, int size) {
  return (2 * static_cast<float>(index) + 1) / static_cast<float>(size) - 1;
}

constexpr std::string_view cache_mark = "periscena environment 1\n";

void append(std::string& bytes, std::span<const Vec3> values) {
  bytes.append(reinterpret_cast<const char*>(values.data()), values.size_bytes());
}

std::string to_bytes(const EnvironmentLight& light) {
  std::string bytes(cache_mark);
  const auto size = static_cast<std::uint32_t>(light.specular.size);
  bytes.append(reinterpret_cast<const char*>(&size), sizeof(size));
  append(bytes, light.irradiance);
  for (const auto& level : light.specular.levels) {
    for (const auto& face : level) append(bytes, face);
  }
  const std::uint64_t hash = content_hash(bytes);
  bytes.append(reinterpret_cast<const char*>(&hash), sizeof(hash));
  return bytes;
}

/// @return nothing when they are not whole
std::optional<EnvironmentLight> from_bytes(std::string_view bytes) {
  std::uint64_t hash = 0;
  std::uint32_t size = 0;
  if (bytes.size() < cache_mark.size() + sizeof(size) + sizeof(hash) || !bytes.starts_with(cache_mark)) return {};
  std::memcpy(&hash, bytes.data() + bytes.size() - sizeof(hash), sizeof(hash));
  bytes.remove_suffix(sizeof(hash));
  if (content_hash(bytes) != hash) return {};
  bytes.remove_prefix(cache_mark.size());
  std::memcpy(&size, bytes.data(), sizeof(size));
  bytes.remove_prefix(sizeof(size));
  if (size < 1 || size > 1024 || !std::has_single_bit(size)) return {};
  const auto take = [&](std::span<Vec3> into) {
    if (bytes.size() < into.size_bytes()) return false;
    std::memcpy(static_cast<void*>(into.data()), bytes.data(), into.size_bytes());
    bytes.remove_prefix(into.size_bytes());
    return true;
  };
  EnvironmentLight light;
  if (!take(light.irradiance)) return {};
  light.specular.size = static_cast<int>(size);
  for (int level = 0; level < prefiltered_levels; ++level) {
    const auto n = static_cast<std::size_t>(light.specular.level_size(level));
    for (auto& face : light.specular.levels.emplace_back()) {
      face.resize(n * n);
      if (!take(face)) return {};
    }
  }
  return bytes.empty() ? std::optional(std::move(light)) : std::nullopt;
}

std::string cache_name(const Environment& environment) {
  std::uint64_t hash = content_hash(cache_mark);
  for (const auto& image : environment.images) {
    const std::string head = fmt::format("{} {} {}", hash, image->width(), image->height());
    hash = content_hash(head) ^
           content_hash({reinterpret_cast<const char*>(image->bytes().data()), image->bytes().size()});
  }
  return fmt::format("{:016x}.environment", hash);
}

}  // namespace

bool Environment::operator==(const Environment& other) const {
  return name == other.name && rotation == other.rotation && intensity == other.intensity &&
         std::equal(images.begin(), images.end(), other.images.begin(), other.images.end(),
                    [](const auto& a, const auto& b) { return a == b || (a && b && *a == *b); });
}

CubeImage prefilter(const CubeImage& cube) {
  CubeImage result;
  result.size = cube.size;
  result.levels.resize(prefiltered_levels);
  result.levels[0] = cube.levels[0];
  const int coarsest = static_cast<int>(cube.levels.size());
  for (int level = 1; level < prefiltered_levels; ++level) {
    const float roughness = static_cast<float>(level) / (prefiltered_levels - 1);
    const std::vector<LobeSample> samples = lobe(roughness, cube.size, coarsest);
    const int size = result.level_size(level);
    auto& made = result.levels[static_cast<std::size_t>(level)];
    for (auto& face : made) face.resize(static_cast<std::size_t>(size) * static_cast<std::size_t>(size));
    for_all_rows(size, [&, size](int face, int row) {
      for (int column = 0; column < size; ++column) {
        const Vec3 n = cube_direction(face, texel_middle(column, size), texel_middle(row, size));
        const Quat turn = Quat::between(Vec3::unit_z(), n);
        const Mat3 to_world = turn.matrix();
        DoubleVec3 sum = DoubleVec3::zero();
        double weights = 0;
        for (const LobeSample& sample : samples) {
          sum += sample.weight * cube.at(to_world * sample.direction, sample.level).cast<double>();
          weights += sample.weight;
        }
        made[static_cast<std::size_t>(face)][static_cast<std::size_t>(row * size + column)] =
            (sum / weights).cast<float>();
      }
    });
  }
  return result;
}

std::vector<Vec2> split_sum_table(int size, int samples) {
  std::vector<Vec2> table;
  std::vector<Vec3> halves(static_cast<std::size_t>(samples));
  for (int y = 0; y < size; ++y) {
    const float roughness = std::max((static_cast<float>(y) + 0.5f) / static_cast<float>(size), least_roughness);
    const float alpha = roughness * roughness;
    for (std::size_t i = 0; i < halves.size(); ++i)
      halves[i] = sample_ggx(hammersley(static_cast<std::uint32_t>(i), static_cast<std::uint32_t>(samples)), alpha);
    for (int x = 0; x < size; ++x) {
      const float n_dot_v = (static_cast<float>(x) + 0.5f) / static_cast<float>(size);
      const Vec3 view(std::sqrt(1 - n_dot_v * n_dot_v), 0, n_dot_v);
      double scale = 0, bias = 0;
      for (const Vec3& half : halves) {
        const float v_dot_h = std::max(view.dot(half), 1e-6f);
        const float n_dot_l = 2 * v_dot_h * half.z() - n_dot_v;
        if (n_dot_l <= 0) continue;
        // f · n·l over the density D · n·h / (4 v·h), without Fresnel's term.
        const float share = smith_visibility(n_dot_l, n_dot_v, alpha) * n_dot_l * 4 * v_dot_h / half.z();
        const float away = 1 - v_dot_h, squared = away * away, grazing = squared * squared * away;
        scale += share * (1 - grazing);
        bias += share * grazing;
      }
      table.emplace_back(static_cast<float>(scale / samples), static_cast<float>(bias / samples));
    }
  }
  return table;
}

EnvironmentLight light_of(const Environment& environment, const std::filesystem::path& cache) {
  environment.expect_sound();
  const std::filesystem::path file = cache.empty() ? cache : cache / cache_name(environment);
  std::error_code code;
  // A pipe or a link under its name was put there by somebody else; it is neither read nor written.
  const auto kind = std::filesystem::symlink_status(file, code).type();
  const bool there = kind == std::filesystem::file_type::regular;
  const bool usable = !file.empty() && (there || kind == std::filesystem::file_type::not_found);
  if (usable && there) {
    try {
      if (auto known = from_bytes(read_bytes(file))) return std::move(*known);
    } catch (const Error&) {
      // Computing it again is always possible.
    }
  }
  const CubeImage cube = to_cube(environment);
  EnvironmentLight light{prefilter(cube), irradiance_harmonics(cube)};
  if (!usable) return light;
  try {
    std::filesystem::create_directories(cache, code);
    expect_writable(file);  // which removes what a killed run has left there
    write_file(file, to_bytes(light));
  } catch (const Error&) {
    // The next run computes it again.
  }
  return light;
}

std::string default_cache() {
  // "If an implementation encounters a relative path … it should consider the path invalid and ignore it" (XDG Base
  // Directory Specification 0.8).
  if (const char* folder = std::getenv("XDG_CACHE_HOME"); folder && std::filesystem::path(folder).is_absolute())
    return (std::filesystem::path(folder) / "periscena").string();
  if (const char* home = std::getenv("HOME"); home && *home)
    return (std::filesystem::path(home) / ".cache/periscena").string();
  return {};
}

}  // namespace periscena
