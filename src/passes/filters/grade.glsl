uniform vec3 $lift, $gamma, $gain;
uniform float $saturation;

vec4 $step(vec4 color) {
  vec3 c = $gain * (color.rgb + $lift * (1.0 - color.rgb));
#ifdef $GAMMA
  c = pow(max(c, 0.0), 1.0 / $gamma);
#endif
  c = clamp(c, 0.0, 1.0);
  float grey = dot(c, vec3(0.2126, 0.7152, 0.0722));
  return vec4(clamp(mix(vec3(grey), c, $saturation), 0.0, 1.0), color.a);
}
