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

// About an axis through a point (Rodrigues).
mat4 rotation(vec3 axis, float angle, vec3 about) {
  vec2 cs = cosine_sine(angle);
  mat3 crossing = mat3(0.0, axis.z, -axis.y, -axis.z, 0.0, axis.x, axis.y, -axis.x, 0.0);
  mat3 linear = cs.x * mat3(1.0) + cs.y * crossing + (1.0 - cs.x) * outerProduct(axis, axis);
  return mat4(vec4(linear[0], 0.0), vec4(linear[1], 0.0), vec4(linear[2], 0.0), vec4(about - linear * about, 1.0));
}

mat4 motion_of(Mover mover) {
  int kind = int(mover.axis.w);
  if (kind == STILL) return mat4(1.0);
  double turns = (double(seconds.x) + double(seconds.y)) / double(mover.pivot.w) + double(mover.range.z);
  float share = float(turns - floor(turns));
  if (kind == SPIN) return rotation(mover.axis.xyz, 2.0 * pi * share, mover.pivot.xyz);
  float out_of_rest = (1.0 - abs(2.0 * share - 1.0) - mover.hold.x) / (1.0 - mover.hold.x - mover.hold.y);
  float moving = clamp(out_of_rest, 0.0, 1.0);
  float ease = 0.5 - 0.5 * cosine_sine(pi * moving).x;
  float amount = mover.range.x + (mover.range.y - mover.range.x) * ease;
  if (kind == SWING) return rotation(mover.axis.xyz, amount, mover.pivot.xyz);
  mat4 slide = mat4(1.0);
  slide[3].xyz = mover.axis.xyz * amount;
  return slide;
}

void main() {
  int number = int(gl_GlobalInvocationID.x);
  if (number >= mover_count) return;
  mat4 world = movers[number].placement * motion_of(movers[number]);
  for (int above = movers[number].parent; above >= 0; above = movers[above].parent)
    world = movers[above].placement * motion_of(movers[above]) * world;
  uint node = movers[number].node;
  objects[node].world = world;
  // Cofactors, as Transform::normal_matrix.
  mat3 linear = mat3(world);
  mat3 normals = mat3(cross(linear[1], linear[2]), cross(linear[2], linear[0]), cross(linear[0], linear[1]));
  if (determinant(linear) < 0.0) normals = -normals;
  objects[node].normals = mat3x4(vec4(normals[0], 0.0), vec4(normals[1], 0.0), vec4(normals[2], 0.0));
}
