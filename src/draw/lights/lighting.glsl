// The lights of a pass, the sky around it, and its fog.
#include "periscena/bindings.glsl"

layout(std140, binding = LIGHT_BLOCK) uniform Lighting {
  vec3 sky;                 // nits of ambient light from above
  int light_count;
  vec3 ground;              // and from below
  int fog_kind;
  vec3 fog_color;           // nits
  float fog_start, fog_end, fog_density;
  float fog_fall;           // 1/m, by which the density falls with height, exponentially
  float fog_base;           // metres
  float sky_intensity;      // nits for a pixel of 1; 0 without an environment
  vec2 sky_turn;            // cosine and sine of its rotation
  float sky_roughest;       // the last of its levels
  // Irradiance over pi, in spherical harmonics, of the environment before it is turned.
  vec4 harmonics_0, harmonics_1, harmonics_2, harmonics_3, harmonics_4, harmonics_5, harmonics_6, harmonics_7,
      harmonics_8;
} lighting;

const int DIRECTIONAL = 0, POINT = 1, SPOT = 2;

struct LightSource {
  vec4 color;      // linear, lux or candela; w: kind
  vec4 position;   // metres, world; w: range, infinite as 0
  vec4 direction;  // that it shines in, length 1; w: number of its shadow, 0 for none
  vec4 cone;       // scale and offset of the cosine, see light_cone
};
// A few lie in a block of uniforms, which costs less to read.
#ifdef FEW_LIGHTS
layout(std140, binding = FEW_LIGHTS_BLOCK) uniform FewLights { LightSource lights[FEW_LIGHTS]; };
#else
layout(std430, binding = LIGHT_STORAGE) readonly buffer Lights { LightSource lights[]; };
#endif

// Which kinds there are: a bit for each.
#ifndef LIGHT_KINDS
#define LIGHT_KINDS 7
#endif
#if LIGHT_KINDS == 1
#define KIND_OF(light) DIRECTIONAL
#elif LIGHT_KINDS == 2
#define KIND_OF(light) POINT
#elif LIGHT_KINDS == 4
#define KIND_OF(light) SPOT
#else
#define KIND_OF(light) int(light.color.w)
#endif

// lux on a surface at `position` that faces the light. to_light gets its direction, length 1.
vec3 light_at(LightSource light, vec3 position, out vec3 to_light) {
  int kind = KIND_OF(light);
  if (kind == DIRECTIONAL) {
    to_light = -light.direction.xyz;
    return light.color.rgb;
  }
  vec3 way = light.position.xyz - position;
  float square = max(dot(way, way), 1e-8);
  to_light = way * inversesqrt(square);
  float share = square * light.position.w * light.position.w;
  float falloff = clamp(1.0 - share * share, 0.0, 1.0) / square;
  if (kind == SPOT) {
    float cone = clamp(dot(-to_light, light.direction.xyz) * light.cone.x + light.cone.y, 0.0, 1.0);
    falloff *= cone * cone;
  }
  return light.color.rgb * falloff;
}

uniform samplerCube sky_map;       // prefiltered: level k for roughness k / sky_roughest
uniform sampler2D split_sum_map;   // x: cosine between normal and view, y: roughness

// From the world to the environment as its images have it.
vec3 to_sky(vec3 direction) {
  vec2 turn = lighting.sky_turn;
  return vec3(turn.x * direction.x - turn.y * direction.z, direction.y, turn.y * direction.x + turn.x * direction.z);
}

// Irradiance over pi on a surface that faces n.
vec3 sky_irradiance(vec3 n) {
  n = to_sky(n);
  vec3 sum = 0.282095 * lighting.harmonics_0.rgb + 0.488603 * n.y * lighting.harmonics_1.rgb +
             0.488603 * n.z * lighting.harmonics_2.rgb + 0.488603 * n.x * lighting.harmonics_3.rgb +
             1.092548 * n.x * n.y * lighting.harmonics_4.rgb + 1.092548 * n.y * n.z * lighting.harmonics_5.rgb +
             0.315392 * (3.0 * n.z * n.z - 1.0) * lighting.harmonics_6.rgb +
             1.092548 * n.x * n.z * lighting.harmonics_7.rgb +
             0.546274 * (n.x * n.x - n.y * n.y) * lighting.harmonics_8.rgb;
  return max(sum, 0.0) * lighting.sky_intensity;
}

// Light from around a direction, as wide as a lobe of that roughness.
vec3 sky_light(vec3 direction, float roughness) {
  return textureLod(sky_map, to_sky(direction), roughness * lighting.sky_roughest).rgb * lighting.sky_intensity;
}
