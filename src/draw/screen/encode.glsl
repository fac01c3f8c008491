// sRGB by hand (IEC 61966-2-1), for steps that mean what the eye sees; what is written to a target stays light.
vec3 encoded_of(vec3 light) { return mix(1.055 * pow(max(light, 0.0), vec3(1.0 / 2.4)) - 0.055, 12.92 * light, lessThanEqual(light, vec3(0.0031308))); }
vec3 light_of(vec3 encoded) { return mix(pow((max(encoded, 0.0) + 0.055) / 1.055, vec3(2.4)), encoded / 12.92, lessThanEqual(encoded, vec3(0.04045))); }

// 0..1, as good as random, by pixel (Jarzynski and Olano, "Hash Functions for GPU Rendering", JCGT 9(3), 2020: pcg3d).
vec3 random_at(uvec3 v) {
  v = v * 1664525u + 1013904223u;
  v.x += v.y * v.z;
  v.y += v.z * v.x;
  v.z += v.x * v.y;
  v ^= v >> 16u;
  v.x += v.y * v.z;
  v.y += v.z * v.x;
  v.z += v.x * v.y;
  return vec3(v >> 8u) / 16777216.0;
}
