// One value for a pixel from its samples: the first, or the least or greatest of each channel. The runner puts the types
// (SAMPLER, VALUE) and the kind of target (DEPTH, LAYERS) before this text.
#ifdef DEPTH
#define VALUE float
#else
layout(location = 0) out VALUE color;
#endif

#ifdef LAYERS
uniform int layer;
#define FETCH(sample) texelFetch(source, ivec3(gl_FragCoord.xy, layer), sample)
#else
#define FETCH(sample) texelFetch(source, ivec2(gl_FragCoord.xy), sample)
#endif

uniform SAMPLER source;
uniform int rule;  // 0 first, 1 least, 2 greatest
uniform int samples;

void main() {
#ifdef DEPTH
  VALUE value = FETCH(0).r;
#else
  VALUE value = FETCH(0);
#endif
  for (int i = 1; rule != 0 && i < samples; ++i) {
#ifdef DEPTH
    VALUE other = FETCH(i).r;
#else
    VALUE other = FETCH(i);
#endif
    value = rule == 1 ? min(value, other) : max(value, other);
  }
#ifdef DEPTH
  gl_FragDepth = value;
#else
  color = value;
#endif
}
