// The mean of this frame and those before it; see Accumulate.
#include "periscena/fullscreen.glsl"
#include "periscena/contained.glsl"

uniform sampler2D from, velocity, depth, last, last_count;
uniform float nearer = 1.0;   // -1 where what is nearer has less depth
uniform float goes_on = 0.0;  // 0 or 1: does the last frame count?
uniform float most = 16.0;    // frames
uniform float white = 0.0;

layout(location = 0) out vec4 color;
layout(location = 1) out float count;

// Brightness apart from colour, so that a box around colours is small.
vec3 apart(vec3 c) { return vec3(0.25 * c.r + 0.5 * c.g + 0.25 * c.b, 0.5 * (c.r - c.b), 0.5 * c.g - 0.25 * (c.r + c.b)); }
vec3 together(vec3 c) { return vec3(c.x + c.y - c.z, c.x + c.z, c.x - c.y - c.z); }

float weight_of(vec3 light) { return white > 0.0 ? white / (white + max(light.r, max(light.g, light.b))) : 1.0; }

// By the cubic of Catmull and Rom, which keeps sharp what is fetched again and again, of nine linear fetches.
vec4 last_at(vec2 place) {
  vec2 size = frame.resolution, at = place * size, middle = floor(at - 0.5) + 0.5, f = at - middle;
  vec2 w0 = f * (-0.5 + f * (1.0 - 0.5 * f)), w1 = 1.0 + f * f * (-2.5 + 1.5 * f);
  vec2 w2 = f * (0.5 + f * (2.0 - 1.5 * f)), w3 = f * f * (-0.5 + 0.5 * f), w12 = w1 + w2;
  vec2 places[3] = vec2[3]((middle - 1.0) / size, (middle + w2 / w12) / size, (middle + 2.0) / size);
  vec2 weights[3] = vec2[3](w0, w12, w3);
  vec4 sum = vec4(0.0);
  for (int y = 0; y < 3; ++y) {
    for (int x = 0; x < 3; ++x) sum += weights[x].x * weights[y].y * texture(last, vec2(places[x].x, places[y].y));
  }
  return max(sum, 0.0);
}

// Towards the middle of a box, until it is in it.
vec3 clipped(vec3 value, vec3 low, vec3 high) {
  vec3 middle = 0.5 * (low + high), half_size = 0.5 * (high - low) + 1e-5, away = value - middle, share = abs(away / half_size);
  return middle + away / max(1.0, max(share.x, max(share.y, share.z)));
}

void main() {
  ivec2 at = ivec2(gl_FragCoord.xy), corner = ivec2(frame.resolution) - 1;
  vec4 now = max(contained(texelFetch(from, at, 0)), 0.0);
  vec3 low = vec3(1e30), high = vec3(-1e30), sum = vec3(0.0), squares = vec3(0.0);
  float nearest = -2.0;
  vec2 moved = vec2(0.0);
  for (int y = -1; y <= 1; ++y) {
    for (int x = -1; x <= 1; ++x) {
      ivec2 there = clamp(at + ivec2(x, y), ivec2(0), corner);
      vec3 one = apart(max(contained(texelFetch(from, there, 0).rgb), 0.0));
      low = min(low, one);
      high = max(high, one);
      sum += one;
      squares += one * one;
      // An edge moves as what is in front does.
      vec2 place = (vec2(there) + 0.5) / frame.resolution;
      float seen = nearer * texture(depth, place).r;
      if (seen > nearest) {
        nearest = seen;
        moved = texture(velocity, place).rg;
      }
    }
  }
  vec2 place = uv - moved;
  bool moves = dot(abs(moved), frame.resolution) > 0.01;
  bool was_seen = goes_on > 0.0 && all(greaterThan(place, vec2(0.0))) && all(lessThan(place, vec2(1.0)));
  vec4 before = vec4(0.0);
  float frames = 0.0;
  if (was_seen) {
    before = moves ? last_at(place) : texelFetch(last, at, 0);
    frames = min(moves ? texture(last_count, place).r : texelFetch(last_count, at, 0).r, (moves ? min(most, 8.0) : most) - 1.0);
    vec3 mean = sum / 9.0, spread = sqrt(max(squares / 9.0 - mean * mean, 0.0));
    // Of what stands still, something fine may not be hit in this frame.
    vec3 room = 0.5 * (high - low);
    vec3 kept = moves ? clipped(apart(before.rgb), max(low, mean - 1.25 * spread), min(high, mean + 1.25 * spread)) : clipped(apart(before.rgb), low - room, high + room);
    before.rgb = max(together(kept), 0.0);
  }
  count = frames + 1.0;
  float old_weight = frames * weight_of(before.rgb), new_weight = weight_of(now.rgb);
  color = (old_weight * before + new_weight * now) / (old_weight + new_weight);
}
