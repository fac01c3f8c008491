// 0..1, as the eye sees it.
#include "periscena/encode.glsl"

float brightness_of(vec3 light) { return encoded_of(vec3(dot(clamp(light, 0.0, 1.0), vec3(0.2126, 0.7152, 0.0722)))).x; }
