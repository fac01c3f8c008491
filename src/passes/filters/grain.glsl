uniform float $strength, $rate;

vec4 $step(vec4 color) {
  vec3 c = encoded_of(clamp(color.rgb, 0.0, 1.0));
  uint picture = uint(int(floor(frame.time * $rate)));
  // The sum of six even ones is nearly normal; its deviation is the root of a half.
  vec3 even = random_at(uvec3(gl_FragCoord.xy, 2u * picture)) + random_at(uvec3(gl_FragCoord.xy, 2u * picture + 1u));
  float noise = (even.x + even.y + even.z - 3.0) * 1.41421356;
  float grey = dot(c, vec3(0.2126, 0.7152, 0.0722));
  // None in black and white.
  return vec4(light_of(clamp(c + noise * $strength * 4.0 * grey * (1.0 - grey), 0.0, 1.0)), color.a);
}
