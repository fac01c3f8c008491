// Gathers light along the ways of what passes over a pixel; see MotionBlur.
#include "periscena/fullscreen.glsl"
#include "periscena/contained.glsl"
#include "periscena/camera.glsl"
#include "periscena/encode.glsl"
#include "periscena/smear.glsl"

uniform sampler2D light, velocity, depth, longest;
uniform vec2 tiles_across = vec2(1.0);  // how many tiles the picture is wide and high
uniform float background = 0.0;
uniform int taps = 16;

layout(location = 0) out vec4 color;

// The nearest pixel's, as depth and velocity are.
vec3 light_at(vec2 place) { return max(contained(texture(light, place).rgb), 0.0); }

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
  vec3 chance = random_at(uvec3(gl_FragCoord.xy, 0u));
  // Of tiles in turn near their borders, which else show.
  vec2 way = texelFetch(longest, clamp(ivec2(floor(uv * tiles_across + 0.5 * chance.yz - 0.25)), ivec2(0), textureSize(longest, 0) - 1), 0).rg;
  vec4 here = texelFetch(light, ivec2(uv * vec2(textureSize(light, 0))), 0);
  vec3 itself = max(contained(here.rgb), 0.0);
  float reach = length(way), own_reach = length(own), start = chance.x;
  color = vec4(itself, here.a);
  if (reach < 0.5) return;
  // What passes over this pixel and is not behind it, nor moves with it: for which share of the time.
  float own_spread = abs(dot(own, way)) / reach;
  vec3 passing = vec3(0.0);
  float share = 0.0;
  for (int i = 0; i < taps; ++i) {
    float along = (float(i) + start) / float(taps) * 2.0 - 1.0;
    vec2 place = uv + along * way * pixel;
    float other = away_at(place), spread = abs(dot(half_way(texture(velocity, place).rg, frame.resolution), way)) / reach;
    // What stands still covers its own pixels alone.
    float passes = clamp(spread, 0.0, 1.0) * max(behind(other, away), (1.0 - behind(away, other)) * clamp(spread - own_spread - 0.5, 0.0, 1.0));
    spread = max(spread, 0.5);
    float covers = passes * clamp(spread - abs(along) * reach + 0.5, 0.0, 1.0) * reach / spread / float(taps);
    passing += covers * light_at(place);
    share += covers;
  }
  // What moves as it does, and what that uncovers.
  vec3 rest = itself;
  float rests = 1.0;
  for (int i = 0; i < taps && own_reach >= 0.5; ++i) {
    float along = (float(i) + start) / float(taps) * 2.0 - 1.0;
    vec2 place = uv + along * own * pixel;
    float counts = 1.0 - behind(away_at(place), away);
    rest += counts * light_at(place);
    rests += counts;
  }
  rest /= rests;
  color.rgb = share > 1.0 ? passing / share : passing + (1.0 - share) * rest;
}
