uniform float $strength;

vec4 $step(sampler2D from) {
  vec2 pixel = 1.0 / vec2(textureSize(from, 0));
  vec4 middle = texture(from, uv);
  vec3 left = texture(from, uv - vec2(pixel.x, 0.0)).rgb, right = texture(from, uv + vec2(pixel.x, 0.0)).rgb;
  vec3 below = texture(from, uv - vec2(0.0, pixel.y)).rgb, above = texture(from, uv + vec2(0.0, pixel.y)).rgb;
  vec3 least = min(middle.rgb, min(min(left, right), min(below, above))), most = max(middle.rgb, max(max(left, right), max(below, above)));
  return vec4(clamp(middle.rgb + $strength * (middle.rgb - 0.25 * (left + right + below + above)), least, most), middle.a);
}
