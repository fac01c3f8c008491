// Quads over the tiles of 16 x 16 pixels in which samples differ; an instance for each tile.
uniform usampler2DArray edge_tiles;
uniform vec4 picture = vec4(1.0);  // pixels

layout(location = 0) out vec2 uv;

void main() {
  int across = textureSize(edge_tiles, 0).x;
  ivec2 tile = ivec2(gl_InstanceID % across, gl_InstanceID / across);  // of the first sample, where all edges are
  bool has_edges = texelFetch(edge_tiles, ivec3(tile, 0), 0).r != 0u;
  vec2 corner = vec2(gl_VertexID % 3 == 1 || gl_VertexID == 3 ? 1.0 : 0.0, gl_VertexID % 3 == 2 || gl_VertexID == 3 ? 1.0 : 0.0);
  uv = min((vec2(tile) + (has_edges ? corner : vec2(0.0))) * 16.0 / picture.xy, vec2(1.0));
  gl_Position = vec4(uv * 2.0 - 1.0, 0.0, 1.0);
}
