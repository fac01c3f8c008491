// What every pass knows about the frame.
#include "periscena/bindings.glsl"

layout(std140, binding = FRAME_BLOCK) uniform Frame {
  vec2 resolution;  // pixels of the targets that this pass draws into
  vec2 size;        // pixels of the frame
  float time;       // seconds, absolute
} frame;
