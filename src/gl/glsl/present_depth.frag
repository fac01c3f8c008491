// Copies depth into a part of a framebuffer, as it is stored; where sizes differ, that of the nearest pixel.
uniform sampler2D depth;
uniform vec4 part;  // left, bottom, width, height, pixels

void main() {
  ivec2 size = textureSize(depth, 0);
  ivec2 pixel = ivec2((gl_FragCoord.xy - part.xy) / part.zw * vec2(size));
  gl_FragDepth = texelFetch(depth, clamp(pixel, ivec2(0), size - 1), 0).r;
}
