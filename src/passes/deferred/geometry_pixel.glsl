// The surface at a pixel, from a geometry buffer.
#include "periscena/fullscreen.glsl"
#include "periscena/camera.glsl"
#include "periscena/geometry_buffer.glsl"

// With several samples, pixels at edges are lit sample by sample, all others once.
#ifdef SAMPLES
#define KEPT sampler2DMS
#ifndef EVERY_SAMPLE
uniform usampler2D edges;  // 1: samples differ
#endif
#ifdef EACH_SAMPLE
const uint lit_here = 1u;
// A draw for each sample, which writes that one alone: drivers do not agree on programs that run for each sample.
uniform int sample_here;
uniform vec2 place_in_pixel;  // 0..1
#else
const uint lit_here = 0u;
const int sample_here = 0;
const vec2 place_in_pixel = vec2(0.5);
#endif
#else
#define KEPT sampler2D
const int sample_here = 0;
#endif

uniform KEPT depth;
uniform KEPT normal;
uniform KEPT material;
#ifdef READS_POSITION
uniform KEPT position;
#endif
uniform float background;  // depth where nothing is

vec3 towards_eye(vec3 from) {
  bool perspective = camera.projection[2][3] != 0.0;
  return normalize(perspective ? camera.eye - from : vec3(camera.view[0][2], camera.view[1][2], camera.view[2][2]));
}

// In the middle of the pixel, where it is lit once: depth is flat over the picture, and samples lie about the middle.
float kept_depth(ivec2 at) {
#if defined(SAMPLES) && !defined(EACH_SAMPLE)
  float sum = 0.0;
  for (int i = 0; i < SAMPLES; ++i) sum += texelFetch(depth, at, i).r;
  return sum / float(SAMPLES);
#else
  return texelFetch(depth, at, sample_here).r;
#endif
}

// Is it this invocation's to light? False where nothing was drawn, and of pixels that are lit by another draw.
// Ask it by `if … else discard`: what follows a discard alone still runs its loops on some devices.
bool is_to_light(ivec2 at) {
#if defined(SAMPLES) && !defined(EVERY_SAMPLE)
  if (texelFetch(edges, at, 0).r != lit_here) return false;
#endif
  return texelFetch(depth, at, sample_here).r != background;
}

Surface surface_at_pixel(vec3 base_color, vec3 emission, out SurfacePoint point) {
  ivec2 at = ivec2(gl_FragCoord.xy);
#ifdef SAMPLES
  vec2 here = (vec2(at) + place_in_pixel) / frame.resolution;
#else
  vec2 here = uv;
#endif
  float seen = kept_depth(at);
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
  point.to_eye = towards_eye(point.position);
  point.time = frame.time;
  return surface;
}
