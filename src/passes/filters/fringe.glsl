uniform float $strength;

vec4 $step(sampler2D from) {
  vec2 away = (uv - 0.5) * $strength;
  vec4 middle = texture(from, uv);
  return vec4(texture(from, uv - away).r, middle.g, texture(from, uv + away).b, middle.a);
}
