uniform float $strength, $rate;

vec4 $step(vec4 color) {
  vec3 c = color.rgb;
  uint picture = uint(int(floor(frame.time * $rate)));
  // The sum of three even ones is nearly normal; its deviation is a half.
  vec3 even = random_at(uvec3(gl_FragCoord.xy, picture));
  float noise = (even.x + even.y + even.z - 1.5) * 2.0;
  float grey = dot(c, vec3(0.2126, 0.7152, 0.0722));
  // None in black and white.
  return vec4(clamp(c + noise * $strength * 4.0 * grey * (1.0 - grey), 0.0, 1.0), color.a);
}
