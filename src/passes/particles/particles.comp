// Moves particles on by whole steps: the same as ParticleCloud in <periscena/scene/particles.h>.
#include "periscena/cosine_sine.glsl"
#include "periscena/particle.glsl"

layout(local_size_x = 64) in;
layout(std430, binding = PARTICLE_STORAGE) buffer Particles { Particle particles[]; };

struct Birth {
  vec4 offset;    // by which the box is moved, metres; w: share of the particles that begin
  vec4 velocity;  // of the emitter in the step, m/s
};
// Of the steps of one life, up to the last one: each at its number within a life.
layout(std430, binding = BIRTH_STORAGE) readonly buffer Births { Birth births[]; };

float chance(uint particle, uint life, uint restart, uint which) {
  return to_share(scramble(particle + scramble(life + scramble(restart + scramble(which + scramble(cloud.seed))))));
}

vec3 chances(uint particle, uint life, uint restart, uint which) {
  return vec3(chance(particle, life, restart, which), chance(particle, life, restart, which + 1u),
              chance(particle, life, restart, which + 2u));
}

// @param ago  steps before the last one
Birth birth_at(uint ago) {
  if (cloud.has_births == 0u) return Birth(vec4(0.0, 0.0, 0.0, 1.0), vec4(0.0));
  return births[(cloud.last_into + cloud.life_steps - ago) % cloud.life_steps];
}

// @param ago  steps before the last one
void begin(uint number, uint life, uint ago, inout Particle particle) {
  uint restart = uint(particle.velocity.w);
  vec3 place = chances(number, life, restart, 0u), push = chances(number, life, restart, 3u);
  Birth birth = birth_at(ago);
  // Within the step, each begins at a time of its own: a fast emitter leaves no clumps.
  float before = chance(number, life, restart, 7u) * cloud.step_seconds;
  vec3 offset = birth.offset.xyz - before * birth.velocity.xyz;
  particle.position = vec4(cloud.from_low + (cloud.from_high - cloud.from_low) * place + offset, 0.0);
  particle.velocity.xyz = cloud.start_velocity + cloud.velocity_spread * (2.0 * push - 1.0) +
                          cloud.inherit_velocity * birth.velocity.xyz;
  if (chance(number, life, restart, 6u) >= birth.offset.w) particle.velocity.w = -1.0;
}

vec3 air(vec3 position, float turn) {
  if (cloud.gust == 0.0) return cloud.wind;
  vec3 share = position / cloud.gust_size + turn;
  vec3 a = 2.0 * pi * (share - floor(share));
  vec2 x = cosine_sine(a.x), y = cosine_sine(a.y), z = cosine_sine(a.z);
  return cloud.wind + cloud.gust * vec3(z.y + y.x, x.y + z.x, y.y + x.x);
}

void main() {
  uint number = gl_GlobalInvocationID.x;
  if (number >= cloud.count) return;
  uint phase = phase_of(number), into = steps_into_life(phase);
  uint life = has_begun(phase) ? cloud.last_life : cloud.last_life - 1u;
  Particle particle;
  uint left;  // steps to go
  if (cloud.steps == 0u || cloud.steps > into) {
    particle.velocity.w = 0.0;
    begin(number, life, into, particle);
    left = into;
  } else {
    particle = particles[number];
    left = cloud.steps;
  }
  for (; left > 0u && particle.velocity.w >= 0.0; --left) {
    uint eddy = (cloud.last_eddy + cloud.gust_steps - (left - 1u) % cloud.gust_steps) % cloud.gust_steps;
    vec3 moving = air(particle.position.xyz, float(eddy) / float(cloud.gust_steps));
    precise vec3 velocity =
        particle.velocity.xyz + (cloud.step_seconds * cloud.gravity + cloud.drag_taken * (moving - particle.velocity.xyz));
    precise vec3 position = particle.position.xyz + cloud.step_seconds * velocity;
    particle.velocity.xyz = velocity;
    particle.position = vec4(position, particle.position.w + 1.0);
    if (any(lessThan(position, cloud.bounds_low)) || any(greaterThan(position, cloud.bounds_high))) {
      particle.velocity.w += 1.0;
      begin(number, life, left - 1u, particle);
    }
  }
  particles[number] = particle;
}
