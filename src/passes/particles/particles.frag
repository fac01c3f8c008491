// A particle: a picture or a soft spot, that fades where it comes near a surface.
#include "periscena/camera.glsl"
#include "periscena/frame.glsl"

layout(location = 0) in vec2 within;
layout(location = 1) flat in vec4 tint;
layout(location = 2) in float away;

uniform bool adds = false;  // light is added, and nothing hidden
#ifdef PICTURE
uniform sampler2DArray picture;  // linear, multiplied with alpha
#endif
#ifdef NEAR_SURFACES
uniform sampler2D surfaces;  // their depth
uniform float fade_near = 0.0;  // metres
#endif

layout(location = 0) out vec4 color;

void main() {
#ifdef PICTURE
  vec4 found = texture(picture, vec3(vec2(0.5, -0.5) * within + 0.5, 0.0));
#else
  float spot = max(0.0, 1.0 - dot(within, within));
  vec4 found = vec4(spot * spot);
#endif
  float alpha = tint.a;
#ifdef NEAR_SURFACES
  ivec2 texel = ivec2(gl_FragCoord.xy * vec2(textureSize(surfaces, 0)) / frame.resolution);
  float before = distance_at(texelFetch(surfaces, texel, 0).r) - away;
  alpha *= fade_near > 0.0 ? clamp(before / fade_near, 0.0, 1.0) : step(0.0, before);
#endif
  color = found * vec4(tint.rgb * alpha, alpha);
  if (adds) color.a = 0.0;
}
