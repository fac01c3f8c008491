// Two quads for each tile of 16 x 16 pixels: the full rows of blocks that its edges fill, see edge_place.glsl, and the blocks of
// the last. An instance for each tile.
uniform usampler2DArray edge_tiles;
uniform int sample_here;

layout(location = 0) out vec2 uv;

void main() {
  ivec2 tiles = textureSize(edge_tiles, 0).xy, tile = ivec2(gl_InstanceID % tiles.x, gl_InstanceID / tiles.x);
  int blocks = (int(texelFetch(edge_tiles, ivec3(tile, sample_here), 0).r) + 7) / 8, rows = blocks / 4;
  bool rest = gl_VertexID >= 6;
  ivec4 box = rest ? ivec4(0, 2 * rows, 4 * (blocks % 4), 2) : ivec4(0, 0, 16, 2 * rows);  // corner, size
  int vertex = gl_VertexID % 6;
  ivec2 corner = ivec2(vertex % 3 == 1 || vertex == 3 ? 1 : 0, vertex % 3 == 2 || vertex == 3 ? 1 : 0);
  uv = vec2(tile * 16 + box.xy + corner * box.zw) / vec2(tiles * 16);
  gl_Position = vec4(uv * 2.0 - 1.0, 0.0, 1.0);
}
