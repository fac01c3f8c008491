// Entries lie in rows of 4,096.
uniform sampler2D $table;
uniform vec3 $lowest, $highest;
uniform int $size;
uniform float $strength;
uniform bool $by_channel;

vec3 $entry(int index) { return texelFetch($table, ivec2(index & 4095, index >> 12), 0).rgb; }

vec4 $step(vec4 color) {
  vec3 place = clamp((color.rgb - $lowest) / ($highest - $lowest), 0.0, 1.0) * float($size - 1);
  ivec3 low = min(ivec3(place), ivec3($size - 2));
  vec3 share = place - vec3(low), to = vec3(0.0);
  if ($by_channel) {
    for (int i = 0; i < 3; ++i) to[i] = mix($entry(low[i])[i], $entry(low[i] + 1)[i], share[i]);
  } else {
    for (int corner = 0; corner < 8; ++corner) {
      ivec3 up = ivec3(corner & 1, (corner >> 1) & 1, corner >> 2), at = low + up;
      vec3 weight = mix(1.0 - share, share, equal(up, ivec3(1)));
      to += weight.x * weight.y * weight.z * $entry(at.x + $size * (at.y + $size * at.z));
    }
  }
  return vec4(mix(color.rgb, to, $strength), color.a);
}
