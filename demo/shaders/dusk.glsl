// The sky over Osier Lock at dusk, as a function of direction; nits, linear.

const vec3 to_sun = normalize(vec3(-0.8, 0.17, 0.5));

float hash(vec2 p) {
  p = fract(p * vec2(123.34, 456.21));
  p += dot(p, p + 45.32);
  return fract(p.x * p.y);
}

float value_noise(vec2 p) {
  vec2 cell = floor(p), f = fract(p);
  f = f * f * (3.0 - 2.0 * f);
  return mix(mix(hash(cell), hash(cell + vec2(1, 0)), f.x), mix(hash(cell + vec2(0, 1)), hash(cell + vec2(1, 1)), f.x), f.y);
}

float layered_noise(vec2 p) {
  float sum = 0.0, weight = 0.5;
  for (int i = 0; i < 5; ++i) {
    sum += weight * value_noise(p);
    p = mat2(1.6, 1.2, -1.2, 1.6) * p + 17.0;
    weight *= 0.5;
  }
  return sum;
}

vec3 dusk_sky(vec3 direction, float time) {
  float up = max(direction.y, 0.0);
  float toward_sun = max(dot(direction, to_sun), 0.0);
  vec3 zenith = vec3(90, 170, 460), middle = vec3(430, 420, 700), horizon = vec3(1900, 980, 560);
  vec3 sky = mix(mix(horizon, middle, smoothstep(0.0, 0.16, up)), zenith, smoothstep(0.1, 0.62, up));
  sky *= 0.75 + 0.55 * pow(toward_sun, 3.0);
  sky += vec3(5200, 2300, 700) * pow(toward_sun, 26.0);
  // Thin bands of cloud, lit from below by the sun.
  if (direction.y > 0.01) {
    vec2 place = direction.xz / (direction.y + 0.12) * vec2(0.8, 1.9) + vec2(0.012 * time, 0.0);
    float cloud = smoothstep(0.46, 0.86, layered_noise(place)) * smoothstep(0.01, 0.12, direction.y);
    vec3 lit = mix(vec3(980, 660, 720), vec3(3300, 1650, 820), 0.25 + 0.75 * pow(toward_sun, 2.0));
    sky = mix(sky, lit, 0.62 * cloud);
  }
  return sky;
}
