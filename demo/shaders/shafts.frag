// Light that haze scatters towards the eye, dark where something stands in the sun's way.
#include "periscena/fullscreen.glsl"
#include "periscena/camera.glsl"
#include "periscena/fog.glsl"
#include "periscena/lights.glsl"

uniform sampler2D depth;
uniform float reach;       // metres
uniform float brightness;  // share of the light that haze scatters

out vec4 color;

const int steps = 32;

// Henyey, Greenstein, "Diffuse radiation in the galaxy", 1941: haze scatters forward.
float scattered(float cosine) {
  const float g = 0.6;
  return (1.0 - g * g) / (12.566371 * pow(1.0 + g * g - 2.0 * g * cosine, 1.5));
}

void main() {
  float seen = texture(depth, uv).r;
  vec3 ray = camera_ray(uv);
  float end = seen > 0.0 ? min(length(world_position(uv, seen) - camera.eye), reach) : reach;
  float from = fract(52.9829189 * fract(dot(gl_FragCoord.xy, vec2(0.06711056, 0.00583715))));
  vec3 sum = vec3(0.0);
  for (int i = 0; i < steps; ++i) {
    float near = end * float(i) / float(steps), far = end * float(i + 1) / float(steps);
    vec3 here = camera.eye + ray * mix(near, far, from), to_light;
    float haze = fog_transmittance(camera.eye, camera.eye + ray * near) - fog_transmittance(camera.eye, camera.eye + ray * far);
    vec3 lux = light_reaching(0, here, vec3(0.0), to_light);
    sum += lux * scattered(dot(ray, to_light)) * haze;
  }
  color = vec4(brightness * sum, 1.0);
}
