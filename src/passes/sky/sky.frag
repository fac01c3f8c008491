// An environment behind everything.
#include "periscena/fullscreen.glsl"
#include "periscena/camera.glsl"
#include "periscena/fog.glsl"

uniform float blur = 0.0;

layout(location = 0) out vec4 color;

const float sky_distance = 10000.0;  // metres, for fog

void main() {
  vec3 ray = camera_ray(uv);
  vec3 light = sky_light(ray, blur);
  color = vec4(through_fog(light, camera.eye, camera.eye + ray * sky_distance), 1.0);
}
