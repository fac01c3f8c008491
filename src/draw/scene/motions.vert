// Moves what moves: the same as Motion::at in <periscena/scene/motion.h>, one object each, along with what it hangs on.
#include "periscena/bindings.glsl"
#include "periscena/cosine_sine.glsl"

// Captured into objects, as objects.glsl has them; what else they hold is there since the scene was loaded.
layout(xfb_buffer = 0, xfb_stride = 64) out;
layout(xfb_offset = 0) out vec3 world_x;
layout(xfb_offset = 16) out vec3 world_y;
layout(xfb_offset = 32) out vec3 world_z;
layout(xfb_offset = 48) out vec3 world_origin;

const int STILL = 0, SWING = 1, SPIN = 2, SLIDE = 3;

struct Mover {
  vec4 placement_x, placement_y, placement_z;  // after the motion: to the coordinates of what it hangs on, or to the world's
  vec4 placement_origin;
  vec4 axis;   // length 1; w: kind of motion
  vec4 pivot;  // w: period, seconds
  vec4 range;  // from, to (radians or metres), phase, unused
  vec4 hold;   // shares of the period that it rests at both ends
  uint above;  // 1 + the number of the mover that it hangs on, less than its own; 0: none
};

// The vertex' own, which devices read faster than storage.
layout(location = 0) in vec4 placement_x;
layout(location = 1) in vec4 placement_y;
layout(location = 2) in vec4 placement_z;
layout(location = 3) in vec4 placement_origin;
layout(location = 4) in vec4 axis;
layout(location = 5) in vec4 pivot;
layout(location = 6) in vec4 range;
layout(location = 7) in vec4 hold;
layout(location = 8) in uint above;

// Those that it hangs on.
layout(std430, binding = MOVER_STORAGE) readonly buffer Movers {
  Mover movers[];
};

uniform vec2 seconds = vec2(0.0);  // their sum: floats alone would be too coarse after hours

// Places points at linear * point + at. Lighter than mat4, whose last row is always the same.
struct Placing {
  mat3 linear;
  vec3 at;
};

Placing after(Placing second, Placing first) {
  return Placing(second.linear * first.linear, second.linear * first.at + second.at);
}

// About an axis through a point (Rodrigues).
Placing rotation(vec3 axis, float angle, vec3 about) {
  vec2 cs = cosine_sine(angle);
  mat3 crossing = mat3(0.0, axis.z, -axis.y, -axis.z, 0.0, axis.x, axis.y, -axis.x, 0.0);
  mat3 linear = cs.x * mat3(1.0) + cs.y * crossing + (1.0 - cs.x) * outerProduct(axis, axis);
  return Placing(linear, about - linear * about);
}

Placing motion_of(Mover mover) {
  int kind = int(mover.axis.w);
  double turns = (double(seconds.x) + double(seconds.y)) / double(mover.pivot.w) + double(mover.range.z);
  float share = float(turns - floor(turns));
  float out_of_rest = (1.0 - abs(2.0 * share - 1.0) - mover.hold.x) / (1.0 - mover.hold.x - mover.hold.y);
  float moving = clamp(out_of_rest, 0.0, 1.0);
  float ease = 0.5 - 0.5 * cosine_sine(pi * moving).x;
  float amount = mover.range.x + (mover.range.y - mover.range.x) * ease;
  Placing turned = rotation(mover.axis.xyz, kind == SPIN ? 2.0 * pi * share : amount, mover.pivot.xyz);
  bool turns_at_all = kind == SPIN || kind == SWING;
  vec3 slid = kind == SLIDE ? mover.axis.xyz * amount : vec3(0.0);
  return Placing(turns_at_all ? turned.linear : mat3(1.0), turns_at_all ? turned.at : slid);
}

Placing placed(Mover mover) {
  mat3 linear = mat3(mover.placement_x.xyz, mover.placement_y.xyz, mover.placement_z.xyz);
  return after(Placing(linear, mover.placement_origin.xyz), motion_of(mover));
}

void main() {
  Placing world =
      placed(Mover(placement_x, placement_y, placement_z, placement_origin, axis, pivot, range, hold, above));
  for (uint at = above; at > 0u; at = movers[at - 1u].above) world = after(placed(movers[at - 1u]), world);
  world_x = world.linear[0], world_y = world.linear[1], world_z = world.linear[2];
  world_origin = world.at;
}
