uniform float $strength, $start;

vec4 $step(vec4 color) {
  vec2 from_middle = (2.0 * uv - 1.0) * frame.resolution;
  float distance_ = sqrt(dot(from_middle, from_middle) / dot(frame.resolution, frame.resolution));
  return vec4(color.rgb * (1.0 - $strength * smoothstep($start, 1.0, distance_)), color.a);
}
