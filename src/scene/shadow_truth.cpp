#include <periscena/scene/shadow_truth.h>

#include <algorithm>
#include <atomic>
#include <cmath>
#include <numbers>
#include <thread>

namespace periscena {
namespace {

constexpr float lift = 5e-4f;       ///< metres off a surface that rays begin
constexpr double tolerance = 0.05;  ///< of shares, before they count as wrong
constexpr int edge_directions = 32, edge_rings = 4, area_rays = 64;
constexpr float golden_angle = 2.3999632f;

/// A pixel of an image that is repeated or not, without filtering.
float alpha_of(const Texture& texture, const Vec2& uv) {
  const Image& image = *texture.image;
  const auto place = [](float at, int count, Wrap wrap) {
    auto cell = static_cast<std::int64_t>(std::floor(at * static_cast<float>(count)));
    if (wrap == Wrap::clamp) return static_cast<int>(std::clamp<std::int64_t>(cell, 0, count - 1));
    const std::int64_t period = wrap == Wrap::mirror ? 2 * count : count;
    cell = ((cell % period) + period) % period;
    return static_cast<int>(cell < count ? cell : period - 1 - cell);
  };
  const int x = place(uv.x(), image.width(), texture.sampling.wrap_u);
  const int y = place(uv.y(), image.height(), texture.sampling.wrap_v);
  return static_cast<float>(image.at(x, y)[3] / (image.is_eight_bit() ? 255.0 : 1.0));
}

struct Frame {
  Vec3 right, up;
};

Frame frame_around(const Vec3& axis) {
  const Vec3 right = axis.cross(std::abs(axis.x()) < 0.7f ? Vec3::unit_x() : Vec3::unit_y()).normalized();
  return {right, axis.cross(right)};
}

}  // namespace

PlacedLight PlacedLight::of(const Scene& scene, const Light& light, double seconds) {
  std::vector<Transform> worlds(scene.nodes().size(), Transform::identity());
  scene.world_transforms(seconds, worlds);
  const Transform world = light.node.valid() ? worlds[light.node.index] : Transform::identity();
  PlacedLight placed{.light = light};
  placed.light.kind = light.placed(world);
  return placed;
}

ShadowRays::ShadowRays(const Scene& scene, double seconds, const std::vector<bool>& seen,
                       const std::vector<bool>& casters, const Variant* seen_in, const Variant* cast_in)
    : scene_(scene) {
  any_masked_ = std::any_of(scene.materials().begin(), scene.materials().end(),
                            [](const Material& one) { return one.alpha_mode == Material::AlphaMode::mask; });
  seen_ = side(seconds, seen, seen_in);
  casters_ = side(seconds, casters, cast_in);
}

ShadowRays::Side ShadowRays::side(double seconds, const std::vector<bool>& chosen, const Variant* variant) const {
  Side side;
  side.materials = scene_.materials_of_nodes(variant);
  side.tree = RayTree(world_triangles(scene_, seconds, chosen, &side.sources));
  return side;
}

/// Is there something where the ray meets the triangle, and no hole?
bool ShadowRays::stops(const Side& side, const RayHit& hit) const {
  const TriangleSource source = side.sources[hit.triangle];
  const MaterialHandle handle = side.materials[source.node];
  if (!handle.valid()) return true;
  const Material& material = scene_.materials()[handle.index];
  if (material.alpha_mode != Material::AlphaMode::mask) return true;
  const Mesh& mesh = scene_.meshes()[scene_.nodes()[source.node].mesh.index];
  const auto mixed = [&](const auto& values) {
    const auto at = [&](std::size_t corner) { return values[mesh.indices[3 * source.triangle + corner]]; };
    return (1 - hit.second - hit.third) * at(0) + hit.second * at(1) + hit.third * at(2);
  };
  float alpha = material.alpha;
  if (!mesh.colors.empty()) alpha *= mixed(mesh.colors)[3];
  const TextureUse& map = material.base_color_map;
  const auto& uvs = map.uv_set == 1 ? mesh.second_uv : mesh.uv;
  if (map.valid() && !uvs.empty()) {
    const Vec2 uv = mixed(uvs);
    alpha *= alpha_of(scene_.textures()[map.texture.index],
                      texture_matrix(map, scene_.textures()) * Vec3(uv.x(), uv.y(), 1));
  }
  return alpha >= material.alpha_cutoff;
}

std::vector<SeenPoint> ShadowRays::look(const Camera& camera, int width, int height, int step) const {
  const Projection lens = camera.projection(static_cast<float>(width) / static_cast<float>(height));
  const Mat4& projection = lens.matrix();
  const Transform to_world = camera.view().inverse();
  const bool perspective = lens.is_perspective();
  const float right = perspective ? projection(0, 2) : -projection(0, 3),
              up = perspective ? projection(1, 2) : -projection(1, 3);
  const auto across = [](int at, int count) {
    return 2 * (static_cast<float>(at) + 0.5f) / static_cast<float>(count) - 1;
  };
  std::vector<SeenPoint> points;
  for (int y = step / 2; y < height; y += step) {
    for (int x = step / 2; x < width; x += step) {
      const Vec3 side((across(x, width) + right) / projection(0, 0), (up - across(y, height)) / projection(1, 1), 0);
      Ray ray;
      // Its direction is 1 long along the view, so that distances are those of depth.
      ray.origin = perspective ? camera.eye : to_world.apply_to_point(side);
      ray.direction = to_world.apply_to_direction(perspective ? side - Vec3::unit_z() : -Vec3::unit_z());
      ray.nearest = lens.near();
      ray.farthest = lens.far();
      auto hit = seen_.tree.nearest(ray);
      while (hit && !stops(seen_, *hit)) {
        ray.nearest = std::nextafter(hit->distance, lens.far());
        hit = seen_.tree.nearest(ray);
      }
      if (!hit) continue;
      const Triangle& t = seen_.tree.triangles()[hit->triangle];
      Vec3 normal = (t.b - t.a).cross(t.c - t.a).normalized();
      if (normal.dot(ray.direction) > 0) normal = -normal;
      points.push_back({x, y, ray.origin + hit->distance * ray.direction, normal, hit->distance});
    }
  }
  return points;
}

/// @return metres to some blocker, not always the nearest
std::optional<float> ShadowRays::way_blocked(const Vec3& position, const Vec3& to_light, float distance,
                                             float from) const {
  float met = 0;
  const auto blocks = [&](const RayHit& hit) {
    met = hit.distance;
    return !any_masked_ || stops(casters_, hit);
  };
  if (!casters_.tree.blocked({position, to_light, from, distance}, blocks)) return std::nullopt;
  return met;
}

LightAt ShadowRays::light_at(const SeenPoint& point, const PlacedLight& placed, float away, float lifted) const {
  const Light& light = placed.light;
  const bool parallel = light.is_directional();
  const Vec3 way = light.way_from(point.position);
  const float distance = parallel ? std::numeric_limits<float>::infinity() : way.norm();
  const Vec3 to_light = way.normalized();
  LightAt found;
  const float facing = point.normal.dot(to_light);
  found.reaches =
      facing > 0.0175f && (parallel || (distance > 0 && distance < light.range())) && light.has_in_cone(point.position);
  if (!found.reaches) return found;
  const Vec3 start = point.position + lift * point.normal;
  const auto lit_from = [&](const Vec3& position, const Vec3& towards, float far, float from = 0) {
    return !way_blocked(position, towards, far - placed.near, from);
  };
  found.lit = lit_from(start, to_light, distance);
  found.share = found.lit;
  if (!found.lit) {
    // The nearest: what is met is halved until nothing is in between.
    const float whole = parallel ? std::numeric_limits<float>::infinity() : distance - placed.near;
    std::optional<float> nearer = way_blocked(start, to_light, whole);
    while (nearer) {
      found.blocker = *nearer;
      nearer = way_blocked(start, to_light, std::nextafter(found.blocker, 0.0f));
    }
  }
  // Beside a point that something far off darkens, the surface may rise by no more than points are lifted: what is
  // there is lit or dark by what is beyond that.
  const float over = lifted / facing, from = found.lit || found.blocker <= over ? 0 : over;
  const auto [right, up] = frame_around(to_light);
  found.clear = true;
  for (int ring = 1; ring <= edge_rings && found.clear; ++ring) {
    for (int k = 0; k < edge_directions && found.clear; ++k) {
      const float angle = 2 * std::numbers::pi_v<float> * static_cast<float>(k) / edge_directions;
      const Vec3 aside =
          away * static_cast<float>(ring) / edge_rings * (std::cos(angle) * right + std::sin(angle) * up);
      // Back onto the surface along the light.
      const Vec3 moved = start + aside - to_light * (point.normal.dot(aside) / facing);
      const Vec3 left = parallel ? way : light.way_from(moved);
      const float far = parallel ? distance : left.norm();
      found.clear = lit_from(moved, left.normalized(), far, from) == found.lit;
    }
  }
  if (placed.size > 0 && !found.clear) {
    int open = 0;
    const float spread = parallel ? std::tan(placed.size) : placed.size / distance;
    for (int i = 0; i < area_rays; ++i) {
      const float radius = spread * std::sqrt((static_cast<float>(i) + 0.5f) / area_rays),
                  angle = golden_angle * static_cast<float>(i);
      const Vec3 towards = to_light + radius * (std::cos(angle) * right + std::sin(angle) * up);
      open += lit_from(start, towards.normalized(), distance);
    }
    found.share = static_cast<float>(open) / area_rays;
  }
  return found;
}

ShadowErrors compare_shadows(const ShadowRays& rays, std::span<const SeenPoint> points, const PlacedLight& light,
                             std::span<const std::optional<MeasuredShadow>> measured, float away, float lifted) {
  std::vector<LightAt> truths(points.size());
  std::atomic<std::size_t> next = 0;
  const auto work = [&] {
    constexpr std::size_t portion = 256;
    for (std::size_t first = next.fetch_add(portion); first < points.size(); first = next.fetch_add(portion)) {
      for (std::size_t i = first; i < std::min(first + portion, points.size()); ++i) {
        if (measured[i])
          truths[i] = rays.light_at(points[i], light, away * measured[i]->texel, lifted * measured[i]->texel);
      }
    }
  };
  std::vector<std::jthread> helpers;
  for (unsigned k = 1; k < std::clamp(std::thread::hardware_concurrency(), 1u, 16u); ++k) helpers.emplace_back(work);
  work();
  helpers.clear();

  struct Loose {
    float metres, texels;
  };
  std::vector<Loose> loose;
  ShadowErrors errors;
  double squares = 0;
  std::size_t leaks = 0, stripes = 0;
  for (std::size_t i = 0; i < points.size(); ++i) {
    const LightAt& truth = truths[i];
    if (!measured[i] || !truth.reaches) continue;
    const float lit = measured[i]->lit;
    if (!truth.clear) {
      ++errors.edges;
      squares += (lit - truth.share) * (lit - truth.share);
      continue;
    }
    ++(truth.lit ? errors.lit : errors.dark);
    stripes += truth.lit && lit < 1 - tolerance;
    leaks += !truth.lit && lit > tolerance;
    if (!truth.lit && lit > 0.5f) loose.push_back({truth.blocker, truth.blocker / measured[i]->texel});
  }
  const auto greatest = [&](float Loose::*way) {
    const std::size_t left_out = errors.dark / 1000;
    if (loose.size() <= left_out) return 0.0f;
    const auto at = loose.begin() + static_cast<std::ptrdiff_t>(left_out);
    std::nth_element(loose.begin(), at, loose.end(), [&](const Loose& a, const Loose& b) { return a.*way > b.*way; });
    return (*at).*way;
  };
  errors.detachment = greatest(&Loose::metres);
  errors.detachment_texels = greatest(&Loose::texels);
  const double all = std::max<double>(1, static_cast<double>(errors.points()));
  errors.leaks = static_cast<double>(leaks) / all;
  errors.stripes = static_cast<double>(stripes) / all;
  errors.jaggedness = std::sqrt(squares / std::max<double>(1, static_cast<double>(errors.points() + errors.edges)));
  return errors;
}

}  // namespace periscena
