// Motions over the picture, as shares of its width and height.

uniform vec2 jitter = vec2(0.0);  // of the view, in clip space

// From two places in clip space. What was behind the eye has come from far outside of the picture.
vec2 motion(vec4 now, vec4 before) {
  return clamp(0.5 * (now.xy / now.w - before.xy / max(before.w, 1e-4)), -2.0, 2.0);
}
