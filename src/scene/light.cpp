#include <periscena/scene/light.h>

#include "scene/checks.h"

#include <periscena/base/cases.h>
#include <periscena/base/error.h>

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace periscena {
namespace {

/// Says what is wrong with a light's parts.
struct LightCheck {
  const Light& light;
  const Place& place;

  [[noreturn]] void refuse(const std::string& cause, const char* mend) const {
    throw Mistake("bad-light", place, fmt::format("light \"{}\" {}", light.name, cause), mend);
  }
  void finite(bool all) const { expect_finite(all && is_finite(light.color), "light", light.name, place); }
  void direction(const Vec3& direction) const {
    if (direction.stable_norm() < 1e-6f)
      refuse("has a direction of length 0", "give the direction that the light travels in, such as [0, -1, 0]");
  }
  void strength(const char* what, float value) const {
    if (!(value >= 0)) refuse(fmt::format("has an {} of {}", what, value), "choose 0 or more");
  }
  void range(float metres) const {
    if (!(metres > 0)) refuse(fmt::format("has a range of {} m", metres), "choose more than 0");
  }

  void operator()(const DirectionalLight& kind) const {
    finite(is_finite(kind.direction) && std::isfinite(kind.illuminance));
    direction(kind.direction);
    strength("illuminance", kind.illuminance);
  }
  void operator()(const PointLight& kind) const {
    finite(is_finite(kind.position) && std::isfinite(kind.intensity) && !std::isnan(kind.range));
    strength("intensity", kind.intensity);
    range(kind.range);
  }
  void operator()(const SpotLight& kind) const {
    finite(is_finite(kind.position) && is_finite(kind.direction) && std::isfinite(kind.intensity) &&
           !std::isnan(kind.range) && std::isfinite(kind.outer_cone));
    direction(kind.direction);
    strength("intensity", kind.intensity);
    range(kind.range);
    if (kind.inner_cone >= 0 && kind.inner_cone < kind.outer_cone && kind.outer_cone <= pi / 2 + 1e-6f) return;
    refuse(fmt::format("has cones of {:.4g} and {:.4g} degrees", degrees(kind.inner_cone), degrees(kind.outer_cone)),
           "the inner is 0 or more and less than the outer, the outer at most 90 degrees from the axis");
  }
};

}  // namespace

float Light::strength() const {
  return std::visit(
      Cases{[](const DirectionalLight& one) { return one.illuminance; },
            [](const PointLight& one) { return one.intensity; }, [](const SpotLight& one) { return one.intensity; }},
      kind);
}

float Light::range() const {
  return std::visit(
      Cases{[](const DirectionalLight&) { return std::numeric_limits<float>::infinity(); },
            [](const PointLight& one) { return one.range; }, [](const SpotLight& one) { return one.range; }},
      kind);
}

Vec3 Light::way_from(const Vec3& point) const {
  return std::visit(Cases{[](const DirectionalLight& one) { return -one.direction; },
                          [&](const PointLight& one) { return one.position - point; },
                          [&](const SpotLight& one) { return one.position - point; }},
                    kind);
}

bool Light::has_in_cone(const Vec3& point) const {
  const SpotLight* one = spot();
  return !one || -way_from(point).normalized().dot(one->direction.normalized()) > std::cos(one->outer_cone);
}

LightKind Light::placed(const Transform& world) const {
  const auto turned = [&](const Vec3& direction) { return world.apply_to_direction(direction).normalized(); };
  return std::visit(Cases{[&](DirectionalLight one) -> LightKind {
                            one.direction = turned(one.direction);
                            return one;
                          },
                          [&](PointLight one) -> LightKind {
                            one.position = world.apply_to_point(one.position);
                            return one;
                          },
                          [&](SpotLight one) -> LightKind {
                            one.position = world.apply_to_point(one.position);
                            one.direction = turned(one.direction);
                            return one;
                          }},
                    kind);
}

void Light::expect_sound(const Place& place) const {
  std::visit(LightCheck{*this, place}, kind);
}

void AmbientLight::expect_sound(const Place& place) const {
  expect_finite(is_finite(sky) && is_finite(ground), "light", name, place);
}

float light_falloff(float metres, float range) {
  const float share = std::isinf(range) ? 0 : metres / range;
  return std::clamp(1 - share * share * share * share, 0.0f, 1.0f) / (metres * metres);
}

float spot_falloff(float cosine, float inner_cone, float outer_cone) {
  const float scale = 1 / std::max(0.001f, std::cos(inner_cone) - std::cos(outer_cone));
  const float share = std::clamp((cosine - std::cos(outer_cone)) * scale, 0.0f, 1.0f);
  return share * share;
}

void Fog::expect_sound(const Place& place) const {
  expect_finite(is_finite(color) && std::isfinite(start) && std::isfinite(end) && std::isfinite(density) &&
                    !std::isnan(half_height) && std::isfinite(base),
                "fog", name, place);
  const auto refuse = [&](const std::string& cause, const char* mend) {
    throw Mistake("bad-fog", place, fmt::format("fog \"{}\" {}", name, cause), mend);
  };
  if (kind == Kind::linear && !(start >= 0 && end > start))
    refuse(fmt::format("starts at {} m and ends at {} m", start, end), "start is 0 or more, end lies behind it");
  if (!(density >= 0)) refuse(fmt::format("has a density of {}", density), "choose 0 or more");
  if (!(half_height > 0)) refuse(fmt::format("halves every {} m", half_height), "choose more than 0");
  if (kind != Kind::exponential && std::isfinite(half_height))
    refuse("thins out with height, but is not exponential", "choose kind exponential, or leave half_height out");
}

float Fog::transmittance(const Vec3& eye, const Vec3& point) const {
  const float distance = (point - eye).norm();
  if (kind == Kind::linear) return std::clamp((end - distance) / (end - start), 0.0f, 1.0f);
  if (kind == Kind::exponential_squared) return std::exp(-(density * distance) * (density * distance));
  // The integral of density · 2^(−(y − base) / half_height) along the way, in closed form.
  const float fall = std::isinf(half_height) ? 0 : std::numbers::ln2_v<float> / half_height;
  const float rise = fall * (point.y() - eye.y());
  const float mean = std::abs(rise) < 1e-3f ? 1 - rise / 2 : (1 - std::exp(-rise)) / rise;
  return std::exp(-density * std::exp(-fall * (eye.y() - base)) * mean * distance);
}

}  // namespace periscena
