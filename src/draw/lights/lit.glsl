// Light from a surface towards the eye: from all lights, from around, and its own.
#include "periscena/brdf.glsl"
#include "periscena/lights.glsl"

#ifdef PRELIT
#include "periscena/kept_light.glsl"
uniform sampler2D light_diffuse, light_specular;

vec3 light_from_lights(Surface surface, SurfacePoint point) {
  ivec2 at = ivec2(gl_FragCoord.xy);
  return from_kept_light(KeptLight(texelFetch(light_diffuse, at, 0), texelFetch(light_specular, at, 0)), surface);
}
#else
float lights_asked = 0.0;  // by now

vec3 light_from_lights(Surface surface, SurfacePoint point) {
  vec3 sum = vec3(0.0);
  EACH_LIGHT_NEAR(i, point.position) {
    lights_asked += 1.0;
    vec3 to_light;
    vec3 lux = light_at(lights[i], point.position, to_light);
    float facing = max(dot(surface.normal, to_light), 0.0);
    if (facing > 0.0 && point.shadowed) lux *= share_past_shadows(i, point.position, receiver_normal(surface, point, to_light), to_light);
#ifdef OWN_SHADOW
    // Of a light without a place, from afar.
    for (bool asks = facing > 0.0; asks; asks = false)
      lux *= own_shadow(point.position, surface.normal, to_light, KIND_OF(lights[i]) == DIRECTIONAL ? 1e6 : distance(lights[i].position.xyz, point.position));
#endif
    sum += brdf(surface, to_light, point.to_eye) * lux * facing;
  }
  return sum;
}
#endif

// Light from all around: ambient lights as an even glow, the environment by the split sum. What a pass has neither of is not
// asked for.
vec3 light_from_around(Surface surface, SurfacePoint point) {
#if defined(NO_AMBIENT) && defined(NO_ENVIRONMENT)
  return vec3(0.0);
#else
  vec3 irradiance = vec3(0.0);
#ifndef NO_AMBIENT
  irradiance += mix(lighting.ground, lighting.sky, 0.5 + 0.5 * surface.normal.y);
#endif
#ifndef NO_ENVIRONMENT
  irradiance += sky_irradiance(surface.normal);
#endif
  if (surface.shading == BLINN_PHONG) return surface.base_color * irradiance * surface.occlusion;
  float n_dot_v = clamp(dot(surface.normal, point.to_eye), 0.0, 1.0);
  vec2 split = textureLod(split_sum_map, vec2(n_dot_v, surface.roughness), 0.0).xy;
  vec3 f0 = mix(vec3(0.04), surface.base_color, surface.metallic);
  vec3 mirrored = f0 * split.x + split.y;
  vec3 r = reflect(-point.to_eye, surface.normal), around = vec3(0.0);
#ifndef NO_ENVIRONMENT
  around += sky_light(r, surface.roughness);
#endif
#ifndef NO_AMBIENT
  around += mix(lighting.ground, lighting.sky, 0.5 + 0.5 * r.y);
#endif
  vec3 diffuse = (1.0 - mirrored) * (1.0 - surface.metallic) * surface.base_color * irradiance;
  return (diffuse + mirrored * around) * surface.occlusion;
#endif
}

vec3 shade(Surface surface, SurfacePoint point) {
  if (surface.shading == UNLIT) return surface.base_color + surface.emission;
  return light_from_lights(surface, point) + light_from_around(surface, point) + surface.emission;
}
