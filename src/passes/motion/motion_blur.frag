// Gathers light along the ways of what passes over a pixel; see MotionBlur.
#include "periscena/fullscreen.glsl"
#include "periscena/camera.glsl"
#include "periscena/encode.glsl"
#include "periscena/smear.glsl"

uniform sampler2D light, velocity, depth, longest;
uniform vec2 tiles_across = vec2(1.0);  // how many tiles the picture is wide and high
uniform float background = 0.0;
uniform int taps = 16;

layout(location = 0) out vec4 color;

vec3 light_at(vec2 place) {
  vec3 found = texture(light, place).rgb;
  return mix(clamp(found, 0.0, 65504.0), vec3(0.0), isnan(found));
}

float away_at(vec2 place) {
  float seen = texture(depth, place).r;
  return seen == background ? 1e9 : distance_at(seen);
}

// 0..1: does it lie behind?
float behind(float away, float other) { return clamp((other - away) / (0.02 * away) - 1.0, 0.0, 1.0); }

void main() {
  vec2 pixel = 1.0 / frame.resolution;
  float away = away_at(uv);
  vec2 own = half_way(texture(velocity, uv).rg, frame.resolution);
  vec2 way = texelFetch(longest, ivec2(uv * tiles_across), 0).rg;
  vec4 here = texture(light, uv);
  vec3 itself = light_at(uv);
  float reach = length(way), own_reach = length(own), start = random_at(uvec3(gl_FragCoord.xy, 0u)).x;
  color = vec4(itself, here.a);
  if (reach < 0.5) return;
  // What passes over this pixel and is not behind it: for which share of the time.
  vec3 passing = vec3(0.0);
  float share = 0.0;
  for (int i = 0; i < taps; ++i) {
    float along = (float(i) + start) / float(taps) * 2.0 - 1.0;
    vec2 place = uv + along * way * pixel;
    float spread = max(abs(dot(half_way(texture(velocity, place).rg, frame.resolution), way)) / reach, 0.5);
    float covers = clamp(spread - abs(along) * reach + 0.5, 0.0, 1.0) * (1.0 - behind(away, away_at(place))) * reach / spread / float(taps);
    passing += covers * light_at(place);
    share += covers;
  }
  // What it uncovers on its own way, or more of its own kind where there is nothing behind.
  vec3 uncovered = vec3(0.0), alike = itself;
  float uncovers = 0.0, alikes = 1.0;
  for (int i = 0; i < taps && own_reach >= 0.5; ++i) {
    float along = (float(i) + start) / float(taps) * 2.0 - 1.0;
    vec2 place = uv + along * own * pixel;
    float other = away_at(place), farther = behind(away, other), as_far = (1.0 - farther) * (1.0 - behind(other, away));
    vec3 found = light_at(place);
    uncovered += farther * found;
    uncovers += farther;
    alike += as_far * found;
    alikes += as_far;
  }
  alike /= alikes;
  vec3 rest = mix(alike, uncovered / max(uncovers, 1e-6), clamp(uncovers, 0.0, 1.0));
  color.rgb = share > 1.0 ? passing / share : passing + (1.0 - share) * rest;
}
