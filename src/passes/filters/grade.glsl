uniform vec3 $lift, $gamma, $gain;
uniform float $saturation;

vec4 $step(vec4 color) {
  vec3 c = encoded_of(clamp(color.rgb, 0.0, 1.0));
  c = light_of(clamp(pow(max($gain * (c + $lift * (1.0 - c)), 0.0), 1.0 / $gamma), 0.0, 1.0));
  float grey = dot(c, vec3(0.2126, 0.7152, 0.0722));
  return vec4(max(mix(vec3(grey), c, $saturation), 0.0), color.a);
}
