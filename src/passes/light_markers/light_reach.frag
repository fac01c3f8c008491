// Lines on the scene's surfaces where lights end.
#include "periscena/fullscreen.glsl"
#include "periscena/camera.glsl"

struct Reach {
  vec4 position;   // world; w: metres
  vec4 direction;  // of a spot light; w: radians of its outer cone, or pi
  vec4 color;
};
layout(std430, binding = MARKER_STORAGE) readonly buffer Reaches { Reach reaches[]; };

uniform sampler2D depth;
uniform int count;
uniform float width;  // pixels
uniform float brightness;

layout(location = 0) out vec4 color;

// Metres to where a light ends, negative inside.
float outside(Reach light, vec3 place) {
  vec3 from = place - light.position.xyz;
  float metres = length(from);
  float beyond = metres - light.position.w;
  if (light.direction.w > 3.0) return beyond;
  float angle = acos(clamp(dot(from, light.direction.xyz) / max(metres, 1e-6), -1.0, 1.0));
  return max(beyond, metres * sin(clamp(angle - light.direction.w, -1.5, 1.5)));
}

vec3 position_at(vec2 place) { return world_position(place, texture(depth, place).r); }

// To the neighbour that lies on the same surface, for one pixel of this picture.
vec3 step_along(vec3 here, vec2 step) {
  vec3 ahead = position_at(uv + step) - here, back = here - position_at(uv - step);
  return dot(ahead, ahead) < dot(back, back) ? ahead : back;
}

void main() {
  float stored = texture(depth, uv).r;
  color = vec4(0.0);
  if (isinf(distance_at(stored)) || stored == (camera.projection[2][2] < 0.0 ? 1.0 : 0.0)) return;
  vec3 here = position_at(uv);
  vec2 texel = max(1.0 / vec2(textureSize(depth, 0)), 1.0 / frame.resolution);
  vec2 pixels = texel * frame.resolution;
  vec3 right = step_along(here, vec2(texel.x, 0.0)) / pixels.x, up = step_along(here, vec2(0.0, texel.y)) / pixels.y;
  for (int i = 0; i < count; ++i) {
    float metres = outside(reaches[i], here);
    float slope = length(vec2(outside(reaches[i], here + right), outside(reaches[i], here + up)) - metres);
    float covered = clamp(0.5 * width + 0.5 - abs(metres) / max(slope, 1e-9), 0.0, 1.0);
    covered *= clamp(0.08 * reaches[i].position.w / (slope * width + 1e-9), 0.1, 1.0);  // far away, lines lie close
    color = mix(color, vec4(reaches[i].color.rgb * brightness, 1.0), covered);
  }
}
