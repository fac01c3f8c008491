// Edges of a finished picture, smoothed; see EdgeWay.
#include "periscena/fullscreen.glsl"
#include "periscena/brightness.glsl"

uniform sampler2D from;
uniform sampler2D brightness;  // as the eye sees it
uniform float threshold = 0.06;
uniform int reach = 16;

layout(location = 0) out vec4 color;

ivec2 inside(ivec2 at) { return clamp(at, ivec2(0), textureSize(from, 0) - 1); }

float bright_at(ivec2 at) { return texelFetch(brightness, inside(at), 0).r; }

#ifdef QUICK
void main() {
  ivec2 at = ivec2(uv * vec2(textureSize(from, 0)));
  vec2 pixel = 1.0 / vec2(textureSize(from, 0));
  float middle = bright_at(at), lower_left = bright_at(at + ivec2(-1, -1)), lower_right = bright_at(at + ivec2(1, -1)), upper_left = bright_at(at + ivec2(-1, 1)),
        upper_right = bright_at(at + ivec2(1, 1));
  float least = min(middle, min(min(lower_left, lower_right), min(upper_left, upper_right))), most = max(middle, max(max(lower_left, lower_right), max(upper_left, upper_right)));
  vec4 here = texelFetch(from, at, 0);
  if (most - least < threshold) {
    color = here;
    return;
  }
  // Along the edge: square to the slope.
  vec2 slope = vec2(lower_right + upper_right - lower_left - upper_left, upper_left + upper_right - lower_left - lower_right);
  vec2 along = vec2(-slope.y, slope.x) / max(min(abs(slope.x), abs(slope.y)), 1.0 / 16.0);
  along = clamp(along, -4.0, 4.0) * pixel;
  vec3 near = 0.5 * (texture(from, uv - along / 6.0).rgb + texture(from, uv + along / 6.0).rgb);
  vec3 wide = 0.5 * near + 0.25 * (texture(from, uv - 0.5 * along).rgb + texture(from, uv + 0.5 * along).rgb);
  float seen = brightness_of(wide);
  // What is out of the range around has met another edge.
  color = vec4(seen < least || seen > most ? near : wide, here.a);
}
#else
bool is_edge(ivec2 a, ivec2 b) { return abs(bright_at(a) - bright_at(b)) > threshold; }

// Pixels along an edge to where it ends, that way; and to which side its outline turns there, -½..½: to ours is over 0.
// across: from the pixel to its neighbour on the edge's other side.
vec2 end_of_edge(ivec2 at, ivec2 along, ivec2 across) {
  int count = 0;
  bool ours = false, theirs = false;
  for (bool goes_on = true; goes_on;) {
    ivec2 here = at + count * along, next = here + along;
    ours = is_edge(here, next);
    theirs = is_edge(here + across, next + across);
    goes_on = !ours && !theirs && count < reach && is_edge(next, next + across);
    count += goes_on ? 1 : 0;
  }
  return vec2(float(count), ours == theirs ? 0.0 : ours ? 0.5 : -0.5);
}

// How much of this pixel lies beyond the straight line that the edge's steps stand for.
float beyond(ivec2 at, ivec2 along, ivec2 across) {
  vec2 back = end_of_edge(at, -along, across), on = end_of_edge(at, along, across);
  float length_ = back.x + on.x + 1.0, sum = 0.0;
  for (int i = 0; i < 4; ++i) {
    float place = back.x + (float(i) + 0.5) / 4.0, share = place / length_;
    // Between turns to different sides a line goes through; else each turn goes out at the middle.
    float high = back.y * on.y < 0.0 ? mix(back.y, on.y, share) : share < 0.5 ? back.y * (1.0 - 2.0 * share) : on.y * (2.0 * share - 1.0);
    sum += max(high, 0.0) / 4.0;
  }
  return sum;
}

void main() {
  ivec2 at = ivec2(uv * vec2(textureSize(from, 0)));
  vec4 here = texelFetch(from, at, 0);
  // Light from beyond, and how much: over upright edges and over level ones. Both may stand for the same slanted line, so the
  // one that says more counts alone.
  vec4 sums[2] = vec4[](vec4(0.0), vec4(0.0));
  for (int i = 0; i < 4; ++i) {
    ivec2 across = i < 2 ? ivec2(2 * i - 1, 0) : ivec2(0, 2 * i - 5), along = abs(across.yx);
    float share = 0.0;
    for (bool edge = is_edge(at, at + across); edge; edge = false) share = beyond(at, along, across);
    sums[i / 2] += share * vec4(texelFetch(from, inside(at + across), 0).rgb, 1.0);
  }
  vec4 sum = sums[0].a > sums[1].a ? sums[0] : sums[1];
  color = vec4(sum.rgb + (1.0 - sum.a) * here.rgb, here.a);
}
#endif
