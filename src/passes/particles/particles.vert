// A square that faces the camera, for each particle.
#include "periscena/camera.glsl"
#include "periscena/frame.glsl"
#include "periscena/particle.glsl"

layout(std430, binding = PARTICLE_STORAGE) readonly buffer Particles { Particle particles[]; };

layout(location = 0) out vec2 within;  // -1..1
layout(location = 1) flat out vec4 tint;
layout(location = 2) out float away;   // metres along the view axis

float chance_of(uint number, uint which) { return to_share(scramble(number + scramble(which + scramble(cloud.seed)))); }

void main() {
  uint number = uint(gl_VertexID / 6);
  Particle particle = particles[number];
  if (particle.velocity.w < 0.0) {
    gl_Position = vec4(2.0, 2.0, 2.0, 1.0);  // outside of the picture
    within = vec2(0.0);
    tint = vec4(0.0);
    away = 0.0;
    return;
  }
  const vec2 corners[6] = vec2[](vec2(-1, -1), vec2(1, -1), vec2(1, 1), vec2(-1, -1), vec2(1, 1), vec2(-1, 1));
  within = corners[gl_VertexID % 6];

  float part = cloud.past_step / cloud.step_seconds;
  float into = float(steps_into_life(phase_of(number))) + part;
  float age = particle.position.w + part, left = float(cloud.life_steps) - into;
  float shown = cloud.fade_steps > 0.0 ? clamp(min(age, left) / cloud.fade_steps, 0.0, 1.0) : 1.0;
  tint = vec4(cloud.tint.rgb, cloud.tint.a * shown);

  float turn = cloud.spin * (2.0 * chance_of(number, 102u) - 1.0) * into * cloud.step_seconds;
  float angle = 6.2831853 * chance_of(number, 101u) + turn;
  float half_size = 0.5 * cloud.size * (1.0 + cloud.size_spread * (2.0 * chance_of(number, 103u) - 1.0));
  vec2 arm = half_size * mat2(cos(angle), sin(angle), -sin(angle), cos(angle)) * within;

  vec4 seen = camera.view * vec4(particle.position.xyz + cloud.past_step * particle.velocity.xyz, 1.0);
  if (cloud.in_pixels == 0u) seen.xy += arm;
  away = -seen.z;
  gl_Position = camera.projection * seen;
  if (cloud.in_pixels != 0u) gl_Position.xy += 2.0 * arm / frame.size * gl_Position.w;
}
