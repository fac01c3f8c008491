// How bright each pixel is, as the eye sees it.
#include "periscena/fullscreen.glsl"
#include "periscena/brightness.glsl"

uniform sampler2D from;

layout(location = 0) out float bright;

void main() { bright = brightness_of(texelFetch(from, ivec2(gl_FragCoord.xy), 0).rgb); }
