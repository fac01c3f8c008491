// What a fragment program of kind "fullscreen" has at hand.
#include "periscena/frame.glsl"

layout(location = 0) in vec2 uv;  // 0..1 over the picture, lower left first
