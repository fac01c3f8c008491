// Nearer within a circle around the pointer, with a dark rim.
#include "periscena/fullscreen.glsl"
uniform sampler2D picture;
uniform vec2 center;    // pixels of the frame, from the lower left
uniform float radius;   // pixels
uniform float strength; // how much nearer the middle is
out vec4 color;

void main() {
  vec2 from = gl_FragCoord.xy - center;
  float share = length(from) / radius;
  float nearer = share < 1.0 ? 1.0 + strength * (1.0 - share * share) : 1.0;
  float rim = 1.0 - 0.8 * smoothstep(0.94, 0.97, share) * smoothstep(1.02, 0.99, share);
  color = vec4(texture(picture, (center + from / nearer) / frame.resolution).rgb * rim, 1.0);
}
