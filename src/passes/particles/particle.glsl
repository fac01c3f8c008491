// One of a cloud, and what holds for all of it.
#include "periscena/bindings.glsl"

struct Particle {
  vec4 position;  // metres, world; w: steps since it began
  vec4 velocity;  // m/s; w: how often it began anew in this life; -1: none was emitted
};

layout(std140, binding = CLOUD_BLOCK) uniform Cloud {
  vec3 from_low;
  float step_seconds;
  vec3 from_high;
  float drag_taken;         // of the air's velocity, in a step
  vec3 start_velocity;
  float gust;
  vec3 velocity_spread;
  float gust_size;
  vec3 gravity;
  float size;               // metres or pixels
  vec3 wind;
  float size_spread;        // share by which it varies
  vec3 bounds_low;
  float spin;               // radians a second, at most
  vec3 bounds_high;
  float fade_steps;         // in which they come and go
  vec4 tint;                // linear; alpha not multiplied in
  uint count, seed;
  uint life_steps, gust_steps;
  uint last_life, last_into;  // the last step is number last_life * life_steps + last_into
  uint last_eddy;             // the last step's number, within the eddies' round
  uint steps;                 // to go on by, from where the particles stand; 0: from the beginning of each life
  float past_step;            // seconds since the last whole step
  uint in_pixels;             // 1: sizes are pixels
  uint has_births;            // 1: the emitter moves, starts or stops
  float inherit_velocity;     // share of the emitter's that they begin with
} cloud;

uint scramble(uint value) {
  uint state = value * 747796405u + 2891336453u;
  uint word = ((state >> ((state >> 28u) + 4u)) ^ state) * 277803737u;
  return (word >> 22u) ^ word;
}

float to_share(uint bits) { return float(bits >> 8) * (1.0 / 16777216.0); }

uint phase_of(uint number) { return scramble(number ^ scramble(cloud.seed)) % cloud.life_steps; }

// Has its life begun in the round that the last step is in?
bool has_begun(uint phase) { return cloud.last_into >= phase; }

uint steps_into_life(uint phase) {
  return has_begun(phase) ? cloud.last_into - phase : cloud.last_into + cloud.life_steps - phase;
}
