// The surface at a pixel, from a geometry buffer.
#include "periscena/fullscreen.glsl"
#include "periscena/camera.glsl"
#include "periscena/edge_place.glsl"
#include "periscena/geometry_buffer.glsl"

// With several samples, each surface of a pixel at an edge is lit, or each sample where lights have quads; all other pixels once.
// FIRST_SURFACE: all pixels are lit where their first sample is, edges too, whose other surfaces are GATHERED after that.
#ifdef SAMPLES
#define KEPT sampler2DMS
#ifndef EVERY_SAMPLE
uniform usampler2DArray edges;  // over 0: samples differ
#endif
#ifdef EACH_SAMPLE
const bool lit_here = true;
// A draw for each sample, which writes that one alone: drivers do not agree on programs that run for each sample.
uniform int sample_here;
uniform vec2 place_in_pixel;  // 0..1
#elif defined(FIRST_SURFACE)
const int sample_here = 0;
uniform vec2 place_in_pixel;
#else
const bool lit_here = false;
const int sample_here = 0;
const vec2 place_in_pixel = vec2(0.5);
#endif
#if (defined(GATHERED) || defined(FIRST_SURFACE)) && SAMPLES <= 8
#define TOGETHER
uniform mat4 sample_places = mat4(0.5);  // of eight samples, two in each column

vec2 place_of_sample(int i) { return (i & 1) == 0 ? sample_places[i >> 1].xy : sample_places[i >> 1].zw; }
#endif
#ifdef FIRST_SURFACE
// A bit for each that shows what the first does.
int samples_like_first(ivec2 at) {
  uint entry = texelFetch(edges, ivec3(at, 0), 0).r;
  return entry == 0u ? -1 : edge_samples(entry);
}
#endif
#else
#define KEPT sampler2D
const int sample_here = 0;
#endif

// The pixel that is lit, which with edges side by side is not where it is drawn; outside of the picture: none.
#ifdef GATHERED
uniform usampler2DArray edge_list;

ivec2 pixel_here() {
  ivec2 there = ivec2(gl_FragCoord.xy);
  int pixel = int(texelFetch(edge_list, ivec3(there, sample_here), 0).r) - 1;
  return pixel < 0 ? ivec2(-1) : there / 16 * 16 + ivec2(pixel & 15, pixel >> 4);
}
#define PIXEL_HERE pixel_here()
#else
#define PIXEL_HERE ivec2(gl_FragCoord.xy)
#endif

uniform KEPT depth;
uniform KEPT normal;
uniform KEPT material;
#ifdef READS_POSITION
uniform KEPT position;
#endif
uniform float background;  // depth where nothing is

// Where in the pixel it is lit, and the depth there: in the middle of the samples that are lit as one, as depth is flat over the
// picture.
float kept_depth(ivec2 at, out vec2 place) {
#ifndef SAMPLES
  place = vec2(0.5);
  return texelFetch(depth, at, 0).r;
#else
  place = place_in_pixel;
#ifdef TOGETHER
#ifdef FIRST_SURFACE
  int samples = samples_like_first(at);
#else
  int samples = edge_samples(texelFetch(edges, ivec3(at, sample_here), 0).r);
#endif
  float whole = 0.0, sum = 0.0;
  place = vec2(0.0);
  for (int i = 0; i < SAMPLES; ++i) {
    float share = float((samples >> i) & 1);
    whole += share;
    sum += share * texelFetch(depth, at, i).r;
    place += share * place_of_sample(i);
  }
  place /= max(whole, 1.0);
  return sum / max(whole, 1.0);
#elif defined(EACH_SAMPLE) || defined(FIRST_SURFACE)
  return texelFetch(depth, at, sample_here).r;
#else
  float sum = 0.0;
  for (int i = 0; i < SAMPLES; ++i) sum += texelFetch(depth, at, i).r;
  return sum / float(SAMPLES);
#endif
#endif
}

// Is it this invocation's to light? False where nothing was drawn, and of pixels that are lit by another draw.
// Ask it by `if … else discard`: what follows a discard alone still runs its loops on some devices.
bool is_to_light(ivec2 at) {
#ifdef GATHERED
  if (at.x < 0) return false;
#elif defined(SAMPLES) && !defined(EVERY_SAMPLE) && !defined(FIRST_SURFACE)
  if ((texelFetch(edges, ivec3(at, 0), 0).r != 0u) != lit_here) return false;
#endif
  return texelFetch(depth, at, sample_here).r != background;
}

Surface surface_at_pixel(vec3 base_color, vec3 emission, out SurfacePoint point) {
  ivec2 at = PIXEL_HERE;
  vec2 place;
  float seen = kept_depth(at, place);
#ifdef SAMPLES
  vec2 here = (vec2(at) + place) / frame.resolution;
#else
  vec2 here = uv;
#endif
  vec4 normals = texelFetch(normal, at, sample_here);
  Surface surface = kept_surface(normals, texelFetch(material, at, sample_here), base_color, emission, point.shadowed);
#ifdef READS_POSITION
  point.position = texelFetch(position, at, sample_here).xyz;
#else
  point.position = world_position(here, seen);
#endif
  point.normal = point.plane = from_octahedral(normals.zw);
  point.tangent = point.bitangent = vec3(0.0);
  point.uv = point.second_uv = vec2(0.0);
  point.color = vec4(1.0);
  point.to_eye = normalize(way_to_eye(point.position));
  point.time = frame.time;
  return surface;
}
