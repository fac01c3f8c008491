// Smooth lines, faint where the scene hides them.
#include "periscena/frame.glsl"
#include "periscena/camera.glsl"

uniform sampler2D depth;
uniform bool has_depth;
uniform float width;
uniform float brightness;

layout(location = 0) flat in vec4 line_color;
layout(location = 1) noperspective in float across;

layout(location = 0) out vec4 color;

void main() {
  float covered = clamp(0.5 * width + 0.5 - abs(across), 0.0, 1.0);
  if (has_depth) {
    float here = distance_at(gl_FragCoord.z);
    float scene = distance_at(texture(depth, gl_FragCoord.xy / frame.resolution).r);
    if (here > scene * 1.002 + 0.005) covered *= 0.08;
  }
  color = vec4(line_color.rgb * brightness, 1.0) * covered;
}
