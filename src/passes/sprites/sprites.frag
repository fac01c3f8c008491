// A cell of a sheet, tinted. Neighbours on the sheet do not bleed in.
layout(location = 0) noperspective in vec2 texel;
layout(location = 1) flat in vec4 edges;
layout(location = 2) flat in float layer;
layout(location = 3) flat in vec4 tint;

uniform sampler2DArray sheets;  // linear, multiplied with alpha
uniform vec2 layer_size;        // pixels
uniform float least_alpha = 0.0;

layout(location = 0) out vec4 color;

void main() {
  vec4 found = textureLod(sheets, vec3(clamp(texel, edges.xy, edges.zw) / layer_size, layer), 0.0);
  color = found * vec4(tint.rgb * tint.a, tint.a);
  if (least_alpha > 0.0) {
    if (color.a < least_alpha) discard;
    color = vec4(color.rgb / color.a, 1.0);
  }
}
