uniform vec3 $lift, $gamma, $gain;
uniform float $saturation;

vec4 $step(vec4 color) {
  vec3 c = color.rgb;
#ifdef $LIFT
  c += $lift * (1.0 - c);
#endif
  c *= $gain;
#ifdef $GAMMA
  c = pow(max(c, 0.0), 1.0 / $gamma);
#endif
  c = clamp(c, 0.0, 1.0);
#ifdef $SATURATION
  c = clamp(mix(vec3(dot(c, vec3(0.2126, 0.7152, 0.0722))), c, $saturation), 0.0, 1.0);
#endif
  return vec4(c, color.a);
}
