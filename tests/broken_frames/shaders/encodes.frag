uniform sampler2D scene;
out vec4 color;

void main() {
  vec3 light = texelFetch(scene, ivec2(gl_FragCoord.xy), 0).rgb;
  color = vec4(pow(light, vec3(1.0 / 2.2)), 1.0);
}
