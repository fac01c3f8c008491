// How much of a pixel a letter covers.
layout(location = 0) in vec2 texel;
layout(location = 1) flat in vec4 ink;
layout(location = 2) flat in vec2 page;  // its number; 1 for distances

uniform sampler2DArray letters;

const float distance_spread = 8.0;  // texels, as GlyphAtlas has it

float stored_at(vec2 place) { return texture(letters, vec3(place / vec2(textureSize(letters, 0).xy), page.x)).r; }

// Of a square whose side is so many texels.
float coverage_at(vec2 place, float side) {
  float inside = (stored_at(place) * 255.0 - 128.0) / 128.0 * distance_spread;  // texels
  return clamp(0.5 + inside / max(side, 1e-6), 0.0, 1.0);
}

float glyph_coverage() {
  if (page.y == 0.0) return stored_at(texel);
  vec2 across = dFdx(texel), up = dFdy(texel);
  float texels_a_pixel = sqrt(0.5) * length(vec4(across, up));
  // Quarters of the pixel, each by itself: strokes of small letters are thinner than one.
  vec2 a = 0.25 * (across + up), b = 0.25 * (across - up);
  float side = 0.5 * texels_a_pixel;
  return 0.25 * (coverage_at(texel + a, side) + coverage_at(texel - a, side) + coverage_at(texel + b, side) +
                 coverage_at(texel - b, side));
}
