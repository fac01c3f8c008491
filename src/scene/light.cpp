#include <periscena/scene/light.h>

#include <algorithm>
#include <cmath>

namespace periscena {

float light_falloff(float metres, float range) {
  const float share = std::isinf(range) ? 0 : metres / range;
  return std::clamp(1 - share * share * share * share, 0.0f, 1.0f) / (metres * metres);
}

float spot_falloff(float cosine, float inner_cone, float outer_cone) {
  const float scale = 1 / std::max(0.001f, std::cos(inner_cone) - std::cos(outer_cone));
  const float share = std::clamp((cosine - std::cos(outer_cone)) * scale, 0.0f, 1.0f);
  return share * share;
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
