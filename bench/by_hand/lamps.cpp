// A geometry buffer, sixty-four lamps that reach a few metres, and a tone curve, by hand. Which lamps reach a tile of
// 32 x 32 pixels is found on the CPU for each frame; what is lit goes through the tone curve at once.

#include "by_hand/hand.h"

#include <algorithm>

namespace {

constexpr const char* vertex = R"(#version 450 core
layout(location = 0) in vec3 position;
layout(location = 1) in vec3 normal;
layout(location = 2) in vec3 at;
layout(location = 3) in vec3 size;
layout(location = 4) in vec4 material;
layout(std140, binding = 0) uniform Frame { mat4 to_clip, from_clip; vec4 eye; };
out vec3 world_normal;
flat out vec4 kept;
void main() {
  world_normal = normal;
  kept = material;
  gl_Position = to_clip * vec4(at + size * position, 1.0);
}
)";

constexpr const char* surface = R"(#version 450 core
in vec3 world_normal;
flat in vec4 kept;
layout(location = 0) out vec4 color_roughness;
layout(location = 1) out vec2 normal;
void main() {
  color_roughness = kept;
  vec3 n = world_normal / (abs(world_normal.x) + abs(world_normal.y) + abs(world_normal.z));
  normal = n.z >= 0.0 ? n.xy : (1.0 - abs(n.yx)) * vec2(n.x >= 0.0 ? 1.0 : -1.0, n.y >= 0.0 ? 1.0 : -1.0);
}
)";

constexpr const char* light = R"(#version 450 core
struct Lamp { vec4 place; vec4 color; };  // w: one over the range
layout(std140, binding = 0) uniform Frame { mat4 to_clip, from_clip; vec4 eye; };
layout(std140, binding = 1) uniform Lamps { Lamp lamps[64]; };
layout(binding = 0) uniform sampler2D color_roughness;
layout(binding = 1) uniform sampler2D normals;
layout(binding = 2) uniform sampler2D depths;
layout(binding = 3) uniform usampler2D lists;
layout(location = 0) uniform float exposure;
in vec2 uv;
layout(location = 0) out vec4 color;

vec3 from_lamp(Lamp lamp, vec3 world, vec3 n, vec3 v, float nv, vec3 base, float a2) {
  vec3 way = lamp.place.xyz - world;
  float square = dot(way, way), share = square * lamp.place.w * lamp.place.w;
  float nl = dot(n, way);
  if (nl <= 0.0 || share >= 1.0) return vec3(0.0);
  vec3 l = way * inversesqrt(square), h = normalize(l + v);
  nl *= inversesqrt(square);
  float nh = clamp(dot(n, h), 0.0, 1.0), d = nh * nh * (a2 - 1.0) + 1.0, away = 1.0 - dot(v, h), two = away * away;
  float fresnel = 0.04 + 0.96 * two * two * away;
  float seen = 0.5 / (nl * sqrt(nv * nv * (1.0 - a2) + a2) + nv * sqrt(nl * nl * (1.0 - a2) + a2));
  float lux = (1.0 - share * share) / square * nl * 0.31830989;
  return lamp.color.rgb * lux * ((1.0 - fresnel) * base + fresnel * a2 / (d * d) * seen);
}

void main() {
  ivec2 at = ivec2(gl_FragCoord.xy);
  float depth = texelFetch(depths, at, 0).r;
  vec3 sum = vec3(0.0);
  if (depth < 1.0) {
    vec4 kept = texelFetch(color_roughness, at, 0), there = from_clip * vec4(vec3(uv, depth) * 2.0 - 1.0, 1.0);
    vec2 o = texelFetch(normals, at, 0).xy;
    vec3 n = vec3(o, 1.0 - abs(o.x) - abs(o.y)), world = there.xyz / there.w;
    if (n.z < 0.0) n.xy = (1.0 - abs(n.yx)) * vec2(n.x >= 0.0 ? 1.0 : -1.0, n.y >= 0.0 ? 1.0 : -1.0);
    n = normalize(n);
    vec3 v = normalize(eye.xyz - world);
    float nv = max(dot(n, v), 1e-3), a2 = kept.a * kept.a * kept.a * kept.a;
    uvec2 list = texelFetch(lists, at / 32, 0).xy;
    for (uint bits = list.x; bits != 0u; bits &= bits - 1u) sum += from_lamp(lamps[findLSB(bits)], world, n, v, nv, kept.rgb, a2);
    for (uint bits = list.y; bits != 0u; bits &= bits - 1u) sum += from_lamp(lamps[32 + findLSB(bits)], world, n, v, nv, kept.rgb, a2);
  }
  vec3 x = exposure * sum;
  color = vec4(x * (2.6 * x + 0.05) / (x * (2.45 * x + 0.62) + 0.16), depth < 1.0 ? 1.0 : 0.0);
}
)";

constexpr int tile = 32;

struct Instance {
  float at[3], size[3], material[4];
};

struct FrameBlock {
  Matrix4 to_clip, from_clip;
  float eye[4];
};

/// By Cramer's rule.
Matrix4 inverse(const Matrix4& m) {
  const auto at = [&](std::size_t row, std::size_t column) { return static_cast<double>(m[4 * column + row]); };
  double cofactors[4][4];
  for (std::size_t r = 0; r < 4; ++r) {
    for (std::size_t c = 0; c < 4; ++c) {
      double minor[3][3];
      for (std::size_t i = 0; i < 3; ++i) {
        for (std::size_t k = 0; k < 3; ++k) minor[i][k] = at(i + (i >= r), k + (k >= c));
      }
      const double determinant = minor[0][0] * (minor[1][1] * minor[2][2] - minor[1][2] * minor[2][1]) -
                                 minor[0][1] * (minor[1][0] * minor[2][2] - minor[1][2] * minor[2][0]) +
                                 minor[0][2] * (minor[1][0] * minor[2][1] - minor[1][1] * minor[2][0]);
      cofactors[r][c] = (r + c) % 2 ? -determinant : determinant;
    }
  }
  double whole = 0;
  for (std::size_t c = 0; c < 4; ++c) whole += at(0, c) * cofactors[0][c];
  Matrix4 found{};
  for (std::size_t r = 0; r < 4; ++r) {
    for (std::size_t c = 0; c < 4; ++c) found[4 * r + c] = static_cast<float>(cofactors[r][c] / whole);
  }
  return found;
}

/// By tile, a bit for each lamp whose ball may show there: the rectangle around its eight corners.
void find_lists(const Matrix4& to_clip, const std::vector<frames::Lamp>& lamps, int across, int down,
                std::vector<std::uint64_t>& lists) {
  std::fill(lists.begin(), lists.end(), 0);
  for (std::size_t n = 0; n < lamps.size(); ++n) {
    float least[2] = {1, 1}, most[2] = {-1, -1};
    for (int corner = 0; corner < 8; ++corner) {
      float p[4];
      for (std::size_t row = 0; row < 4; ++row) {
        p[row] = to_clip[12 + row];
        for (std::size_t i = 0; i < 3; ++i)
          p[row] += to_clip[4 * i + row] * (lamps[n].at[i] + (corner >> i & 1 ? lamps[n].range : -lamps[n].range));
      }
      for (int i = 0; i < 2; ++i) {
        const float place = p[3] > 0 ? p[i] / p[3] : 0;
        least[i] = p[3] > 0 ? std::min(least[i], place) : -1;
        most[i] = p[3] > 0 ? std::max(most[i], place) : 1;
      }
    }
    const auto tile_at = [](float place, int count) {
      return std::clamp(static_cast<int>((0.5f + 0.5f * place) * static_cast<float>(count)), 0, count - 1);
    };
    if (most[0] < -1 || most[1] < -1 || least[0] > 1 || least[1] > 1) continue;
    for (int y = tile_at(least[1], down); y <= tile_at(most[1], down); ++y) {
      for (int x = tile_at(least[0], across); x <= tile_at(most[0], across); ++x)
        lists[static_cast<std::size_t>(y * across + x)] |= std::uint64_t(1) << n;
    }
  }
}

}  // namespace

int main(int argc, char** argv) {
  TwinOptions options = read_twin_options(argc, argv);
  return run_twin(options, [&options]() -> Twin {
    by_hand::open_device();
    const int width = options.width, height = options.height;
    const GLuint kept = make_texture(GL_SRGB8_ALPHA8, width, height),
                 normals = make_texture(GL_RG16_SNORM, width, height);
    const GLuint depth = make_texture(GL_DEPTH_COMPONENT24, width, height), buffer = make_framebuffer(kept, depth);
    glNamedFramebufferTexture(buffer, GL_COLOR_ATTACHMENT1, normals, 0);
    const GLenum both[] = {GL_COLOR_ATTACHMENT0, GL_COLOR_ATTACHMENT1};
    glNamedFramebufferDrawBuffers(buffer, 2, both);
    const GLuint output = make_texture(GL_SRGB8_ALPHA8, width, height), target = make_framebuffer(output);
    const int across = (width + tile - 1) / tile, down = (height + tile - 1) / tile;
    const GLuint lists = make_texture(GL_RG32UI, across, down);

    const by_hand::Mesh mesh = by_hand::make_mesh(frames::cube(), false);
    std::vector<Instance> instances;
    for (int i = 0; i < frames::pillars_across * frames::pillars_across; ++i) {
      const frames::Pillar pillar = frames::pillar(i);
      Instance one{};
      for (int k = 0; k < 3; ++k)
        one.at[k] = pillar.at[k], one.size[k] = pillar.size[k], one.material[k] = pillar.color[k];
      one.material[3] = pillar.roughness;
      instances.push_back(one);
    }
    instances.push_back(
        {{0, -0.5f, 0},
         {2 * frames::hall_half, 1, 2 * frames::hall_half},
         {frames::floor_color[0], frames::floor_color[1], frames::floor_color[2], frames::floor_roughness}});
    glVertexArrayVertexBuffer(mesh.array, 1, by_hand::buffer_of(instances), 0, sizeof(Instance));
    glVertexArrayBindingDivisor(mesh.array, 1, 1);
    for (GLuint i = 0; i < 3; ++i) {
      glEnableVertexArrayAttrib(mesh.array, 2 + i);
      glVertexArrayAttribFormat(mesh.array, 2 + i, i == 2 ? 4 : 3, GL_FLOAT, GL_FALSE, 12 * i);
      glVertexArrayAttribBinding(mesh.array, 2 + i, 1);
    }
    const auto count = static_cast<GLsizei>(instances.size());

    std::vector<frames::Lamp> lamps;
    std::vector<float> lamp_block;
    for (int i = 0; i < frames::lamp_count; ++i) {
      const frames::Lamp lamp = frames::lamp(i);
      lamps.push_back(lamp);
      for (const float one : lamp.at) lamp_block.push_back(one);
      lamp_block.push_back(1 / lamp.range);
      for (const float one : lamp.color) lamp_block.push_back(lamp.candela * one);
      lamp_block.push_back(0);
    }
    FrameBlock frame{by_hand::camera_of(frames::hall_pose, width, height, 0.1f, 100), {}, {}};
    frame.from_clip = inverse(frame.to_clip);
    for (int i = 0; i < 3; ++i) frame.eye[i] = frames::hall_pose.eye[i];
    const Matrix4 to_clip = frame.to_clip;
    // Tiles are whole, also where the picture ends within one.
    const Matrix4 to_tiles = Matrix4{static_cast<float>(width) / static_cast<float>(across * tile),
                                     0,
                                     0,
                                     0,
                                     0,
                                     static_cast<float>(height) / static_cast<float>(down * tile),
                                     0,
                                     0,
                                     0,
                                     0,
                                     1,
                                     0,
                                     static_cast<float>(width) / static_cast<float>(across * tile) - 1,
                                     static_cast<float>(height) / static_cast<float>(down * tile) - 1,
                                     0,
                                     1} *
                             to_clip;
    glBindBufferBase(GL_UNIFORM_BUFFER, 0, make_buffer(&frame, sizeof(frame), 0));
    glBindBufferBase(GL_UNIFORM_BUFFER, 1, by_hand::buffer_of(lamp_block));
    const GLuint keep = by_hand::program(vertex, surface), shade = by_hand::program(by_hand::whole_picture, light);
    glProgramUniform1f(shade, 0, 1 / (1.2f * std::exp2(frames::hall_ev100)));
    const GLuint textures[] = {kept, normals, depth, lists};
    glBindTextures(0, 4, textures);
    const GLuint nearest = make_sampler(GL_NEAREST);
    for (GLuint unit = 0; unit < 4; ++unit) glBindSampler(unit, nearest);
    glEnable(GL_CULL_FACE);
    glEnable(GL_FRAMEBUFFER_SRGB);
    glViewport(0, 0, width, height);
    std::vector<std::uint64_t> masks(static_cast<std::size_t>(across * down));
    return {[=](double) mutable {
              const float far = 1;
              glEnable(GL_DEPTH_TEST);
              glBindFramebuffer(GL_FRAMEBUFFER, buffer);
              glClearNamedFramebufferfv(buffer, GL_DEPTH, 0, &far);
              glUseProgram(keep);
              glBindVertexArray(mesh.array);
              glDrawElementsInstanced(GL_TRIANGLES, mesh.count, GL_UNSIGNED_SHORT, nullptr, count);
              find_lists(to_tiles, lamps, across, down, masks);
              glTextureSubImage2D(lists, 0, 0, 0, across, down, GL_RG_INTEGER, GL_UNSIGNED_INT, masks.data());
              glDisable(GL_DEPTH_TEST);
              glBindFramebuffer(GL_FRAMEBUFFER, target);
              glUseProgram(shade);
              by_hand::draw_whole_picture();
            },
            [=] { return by_hand::picture_of(output, width, height); }};
  });
}
