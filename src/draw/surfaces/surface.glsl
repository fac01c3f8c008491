// A surface at a point. The same as Surface in <periscena/scene/shading.h>.
const int METALLIC_ROUGHNESS = 0, BLINN_PHONG = 1, UNLIT = 2;

// Where a point is, and how the mesh lies there.
struct SurfacePoint {
  vec3 position;   // metres, world
  vec3 normal;     // length 1, of the mesh, on the viewer's side
  vec3 plane;      // length 1, of the triangle itself, on the viewer's side
  vec3 tangent;    // length 1, to the right in the texture's image
  vec3 bitangent;  // length 1, up in the image
  vec2 uv;
  vec2 second_uv;
  vec4 color;      // of the mesh
  vec3 to_eye;     // length 1
  float time;      // seconds
  bool shadowed;   // do shadows fall on it?
};

struct Surface {
  int shading;
  vec3 base_color;
  float alpha;
  float metallic;
  float roughness;
  vec3 specular;    // of blinn_phong, with its exponent
  float shininess;
  vec3 normal;      // length 1, world
  vec3 emission;    // nits
  float occlusion;  // 0..1, of ambient light
};

// Which way the plane lies that shadows fall on. Triangles that light does not reach, though their smooth surface says so, get
// no hard edge of their own.
vec3 receiver_normal(Surface surface, SurfacePoint point, vec3 to_light) {
  return dot(point.plane, to_light) > 0.0 ? point.plane : surface.normal;
}

// Which kinds of shading there are: a bit for each. Where there is one, compilers leave out what the others do.
#ifndef SHADINGS
#define SHADINGS 7
#endif
#if SHADINGS == 1
#define SHADING_OF(number) METALLIC_ROUGHNESS
#elif SHADINGS == 2
#define SHADING_OF(number) BLINN_PHONG
#elif SHADINGS == 4
#define SHADING_OF(number) UNLIT
#else
#define SHADING_OF(number) (number)
#endif
