// Light that a target of half floats holds: what is no number is none, as it would spread.
vec3 contained(vec3 light) { return mix(clamp(light, -65504.0, 65504.0), vec3(0.0), isnan(light)); }
vec4 contained(vec4 light) { return mix(clamp(light, -65504.0, 65504.0), vec4(0.0), isnan(light)); }
