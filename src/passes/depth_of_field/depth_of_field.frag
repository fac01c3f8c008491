// Gathers light from discs of what is out of focus; see DepthOfField.
#include "periscena/fullscreen.glsl"
#include "periscena/contained.glsl"
#include "periscena/camera.glsl"
#include "periscena/encode.glsl"

uniform sampler2D light, depth;
uniform float background = 0.0;
uniform float focus = 10.0;    // metres
uniform float scale = 0.0;     // radius of the disc of what is endlessly far, share of the height
uniform float largest = 0.03;  // the same, at most
uniform int taps = 48;

layout(location = 0) out vec4 color;

// Metres along the axis (x), and the disc's radius, pixels (y): below 0 of what is nearer than the focus.
vec2 disc_at(vec2 place) {
  float seen = texture(depth, place).r;
  float away = seen == background ? 1e9 : distance_at(seen);
  return vec2(away, clamp(scale * (away - focus) / away, -largest, largest) * frame.resolution.y);
}

// Evenly over a disc, along a spiral of the golden angle: from the middle, pixels.
vec2 tap(int i, int count, float radius, float turn) {
  float angle = 2.39996323 * float(i) + turn;
  return radius * sqrt((float(i) + 0.5) / float(count)) * vec2(cos(angle), sin(angle));
}

void main() {
  vec2 own = disc_at(uv);
  vec4 here = texture(light, uv);
  here = max(contained(here), 0.0);
  float turn = 6.2831853 * random_at(uvec3(gl_FragCoord.xy, 0u)).x;
  // Taps go no farther than discs reach that are here or come here: where little is blurred, they lie close.
  float widest = max(abs(own.y), 1.0);
  for (int i = 0; i < 16; ++i) {
    vec2 off = tap(i, 16, largest * frame.resolution.y, turn);
    vec2 disc = disc_at(uv + off / frame.resolution);
    float reach = disc.x > own.x ? 0.0 : abs(disc.y);
    if (reach + 1.0 >= length(off)) widest = max(widest, reach);
  }
  // In focus, a pixel is its own; out of it, one among those that it is spread to.
  float weights = clamp(1.0 / max(own.y * own.y / (widest * widest) * float(taps), 1.0), 0.0, 1.0);
  vec3 sum = weights * here.rgb;
  for (int i = 0; i < taps; ++i) {
    vec2 off = tap(i, taps, widest, turn), place = uv + off / frame.resolution;
    float away = length(off);
    vec2 disc = disc_at(place);
    // What lies behind is seen through this pixel's own disc alone.
    float reach = disc.x > own.x ? min(abs(disc.y), abs(own.y)) : abs(disc.y);
    // Of discs of this size, so many taps stand for one disc's whole light. What is smaller than a pixel stays there.
    float weight = clamp(reach, 0.0, 1.0) * clamp(reach - away + 0.5, 0.0, 1.0) / max(reach * reach / (widest * widest) * float(taps), 1.0);
    vec3 from = texture(light, place).rgb;
    sum += weight * max(contained(from), 0.0);
    weights += weight;
  }
  color = vec4(sum / weights, here.a);
}
