// Moves what moves: the same as Motion::at in <periscena/scene/motion.h>, one object each, along with what it hangs on.
#include "periscena/bindings.glsl"
#include "periscena/cosine_sine.glsl"

layout(local_size_x = 64) in;

struct Object {
  mat4 world;
  mat3x4 normals;
  uint colors, second_uv;
};
layout(std430, binding = OBJECT_STORAGE) buffer Objects {
  Object objects[];
};

const int STILL = 0, SWING = 1, SPIN = 2, SLIDE = 3;

struct Mover {
  mat4 placement;  // after the motion: to the coordinates of what it hangs on, or to the world's
  vec4 axis;       // length 1; w: kind of motion
  vec4 pivot;      // w: period, seconds
  vec4 range;      // from, to (radians or metres), phase, unused
  vec4 hold;       // shares of the period that it rests at both ends
  int parent;      // number of the mover that it hangs on, less than its own; -1: none
  uint node;
};
layout(std430, binding = MOVER_STORAGE) readonly buffer Movers {
  Mover movers[];
};

uniform vec2 seconds = vec2(0.0);  // their sum: floats alone would be too coarse after hours
uniform int mover_count = 0;

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

Placing motion_of(int number) {
  vec4 axis = movers[number].axis;
  int kind = int(axis.w);
  if (kind == STILL) return Placing(mat3(1.0), vec3(0.0));
  vec4 pivot = movers[number].pivot;
  vec3 range = movers[number].range.xyz;
  double turns = (double(seconds.x) + double(seconds.y)) / double(pivot.w) + double(range.z);
  float share = float(turns - floor(turns));
  if (kind == SPIN) return rotation(axis.xyz, 2.0 * pi * share, pivot.xyz);
  vec2 hold = movers[number].hold.xy;
  float out_of_rest = (1.0 - abs(2.0 * share - 1.0) - hold.x) / (1.0 - hold.x - hold.y);
  float moving = clamp(out_of_rest, 0.0, 1.0);
  float ease = 0.5 - 0.5 * cosine_sine(pi * moving).x;
  float amount = range.x + (range.y - range.x) * ease;
  if (kind == SWING) return rotation(axis.xyz, amount, pivot.xyz);
  return Placing(mat3(1.0), axis.xyz * amount);
}

Placing placed(int number) {
  mat4 placement = movers[number].placement;
  return after(Placing(mat3(placement), placement[3].xyz), motion_of(number));
}

void main() {
  int number = int(gl_GlobalInvocationID.x);
  if (number >= mover_count) return;
  Placing world = placed(number);
  for (int above = movers[number].parent; above >= 0; above = movers[above].parent) world = after(placed(above), world);
  uint node = movers[number].node;
  // Cofactors, as Transform::normal_matrix.
  mat3 linear = world.linear;
  mat3 normals = mat3(cross(linear[1], linear[2]), cross(linear[2], linear[0]), cross(linear[0], linear[1]));
  if (determinant(linear) < 0.0) normals = -normals;
  // The last rows are there since the scene was loaded.
  for (int i = 0; i < 3; ++i) {
    objects[node].world[i].xyz = linear[i];
    objects[node].normals[i].xyz = normals[i];
  }
  objects[node].world[3].xyz = world.at;
}
