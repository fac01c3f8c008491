// The view that a pass looks through. World: metres, right-handed, +Y up. Clip depth 0..1.
#include "periscena/bindings.glsl"

layout(std140, binding = CAMERA_BLOCK) uniform Camera {
  mat4 view;                  // world to camera, which looks down its -Z
  mat4 projection;            // camera to clip
  mat4 view_projection;       // world to clip
  mat4 inverse_view_projection;
  vec3 eye;                   // metres, world
  float near;                 // metres
  float far;                  // metres; infinity for an infinite lens
  vec4 towards_eye;           // see way_to_eye
} camera;

// From a place in the world towards the eye: in perspective as long as it is far, else of length 1.
vec3 way_to_eye(vec3 position) { return camera.towards_eye.xyz - camera.towards_eye.w * position; }

// World direction through a place on the picture (0..1, lower left first), length 1.
vec3 camera_ray(vec2 uv) {
  bool perspective = camera.projection[2][3] != 0.0;
  vec2 clip = uv * 2.0 - 1.0 + vec2(camera.projection[2][0], camera.projection[2][1]);
  vec3 ray = perspective ? vec3(clip / vec2(camera.projection[0][0], camera.projection[1][1]), -1.0) : vec3(0.0, 0.0, -1.0);
  return normalize(transpose(mat3(camera.view)) * ray);
}

// World position of a depth-buffer value at a place on the picture.
vec3 world_position(vec2 uv, float depth) {
  vec4 position = camera.inverse_view_projection * vec4(uv * 2.0 - 1.0, depth, 1.0);
  return position.xyz / position.w;
}

// Distance along the view axis of a depth-buffer value, metres; the same as Projection::distance_at.
float distance_at(float depth) {
  float a = camera.projection[2][2], b = camera.projection[3][2];
  return camera.projection[2][3] != 0.0 ? b / (depth + a) : (b - depth) / a;
}
