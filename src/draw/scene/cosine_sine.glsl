// Circles, the same on every device.
const float pi = 3.14159265358979;

// Sine and cosine, good to 2e-7: a driver's own may be as coarse as 5e-4, which is millimetres on a long gate.
// Taylor's series on an eighth of a turn either way, and the quarter turns by exchange. angle: -2 pi to 2 pi
vec2 cosine_sine(float angle) {
  float quarter = round(angle * (2.0 / pi));
  // pi / 2 in two parts, the first with few enough digits that its product is exact (Cody and Waite, 1980).
  float x = (angle - quarter * 1.5703125) - quarter * 4.83826794897e-4, x2 = x * x;
  float s = x * (1.0 + x2 * (-1.0 / 6.0 + x2 * (1.0 / 120.0 + x2 * (-1.0 / 5040.0 + x2 / 362880.0))));
  float c = 1.0 + x2 * (-0.5 + x2 * (1.0 / 24.0 + x2 * (-1.0 / 720.0 + x2 / 40320.0)));
  int turned = int(quarter);
  vec2 cs = (turned & 1) != 0 ? vec2(-s, c) : vec2(c, s);
  return (turned & 2) != 0 ? -cs : cs;
}
