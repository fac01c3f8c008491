// How exposed linear light, 0 and more, becomes 0..1 for a screen. 0 becomes 0. CURVE is one of these, see ToneCurve.
#define CLIP 0
#define REINHARD 1
#define FILM 2
#define HABLE 3
#define NARKOWICZ 4
#define ACES 5
#define UCHIMURA 6
#define LOTTES 7
#define PBR_NEUTRAL 8

#if CURVE == HABLE
vec3 hable(vec3 x) { return (x * (0.15 * x + 0.05) + 0.004) / (x * (0.15 * x + 0.5) + 0.06) - 0.004 / 0.06; }
#endif

vec3 tone_curve(vec3 x, float white) {
#if CURVE == REINHARD
  x = x * (1.0 + x / (white * white)) / (1.0 + x);
#elif CURVE == FILM
  x = x * (2.6 * x + 0.05) / (x * (2.45 * x + 0.62) + 0.16);
#elif CURVE == HABLE
  x = hable(x) / hable(vec3(white));
#elif CURVE == NARKOWICZ
  x = x * (2.51 * x + 0.03) / (x * (2.43 * x + 0.59) + 0.14);
#elif CURVE == ACES
  const mat3 into = mat3(0.59719, 0.07600, 0.02840, 0.35458, 0.90834, 0.13383, 0.04823, 0.01566, 0.83777);
  const mat3 out_of = mat3(1.60475, -0.10208, -0.00327, -0.53108, 1.10813, -0.07276, -0.07367, -0.00605, 1.07602);
  x = into * x;
  x = (x * (x + 0.0245786) - 0.000090537) / (x * (0.983729 * x + 0.4329510) + 0.238081);
  x = out_of * x;
#elif CURVE == UCHIMURA
  // Most, slope, start and length of the straight part, toe.
  const float most = 1.0, slope = 1.0, start = 0.22, length_ = 0.4, toe = 1.33;
  const float l0 = (most - start) * length_ / slope, s0 = start + l0, s1 = start + slope * l0, c2 = slope * most / (most - s1);
  vec3 low = start * pow(x / start, vec3(toe)), middle = start + slope * (x - start), high = most - (most - s1) * exp(-c2 * (x - s0) / most);
  vec3 past_toe = smoothstep(0.0, start, x), past_line = step(s0, x);
  x = low * (1.0 - past_toe) + middle * (past_toe - past_line) + high * past_line;
#elif CURVE == LOTTES
  const float contrast = 1.6, shoulder = 0.977, middle_in = 0.18, middle_out = 0.267;
  float power = contrast * shoulder, w = pow(white, contrast), ws = pow(white, power);
  const float m = pow(middle_in, contrast), ms = pow(middle_in, power);
  float b = (-m + w * middle_out) / ((ws - ms) * middle_out), c = (ws * m - w * ms * middle_out) / ((ws - ms) * middle_out);
  x = min(x, vec3(white));
  x = pow(x, vec3(contrast)) / (pow(x, vec3(power)) * b + c);
#elif CURVE == PBR_NEUTRAL
  const float start = 0.8 - 0.04, fading = 0.15;
  float least = min(x.r, min(x.g, x.b));
  x -= least < 0.08 ? least - 6.25 * least * least : 0.04;
  float peak = max(x.r, max(x.g, x.b));
  float bent = 1.0 - (1.0 - start) * (1.0 - start) / (peak + (1.0 - start) - start), share = 1.0 - 1.0 / (fading * (peak - bent) + 1.0);
  x = peak < start ? x : mix(x * bent / max(peak, 1e-6), vec3(bent), share);
#endif
  return clamp(x, 0.0, 1.0);
}
