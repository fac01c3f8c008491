// A textured model in one light that casts shadows, before a sky, through a tone curve, by hand; with one sample or
// four.

#include "by_hand/hand.h"

namespace {

constexpr const char* casters = R"(#version 450 core
layout(location = 0) in vec3 position;
layout(std140, binding = 1) uniform Object { mat4 to_world; };
layout(std140, binding = 0) uniform Frame { mat4 to_clip, to_map, to_sky; };
void main() { gl_Position = to_map * (to_world * vec4(position, 1.0)); }
)";

constexpr const char* surface_vertex = R"(#version 450 core
layout(location = 0) in vec3 position;
layout(location = 1) in vec3 normal;
layout(location = 2) in vec2 uv;
layout(std140, binding = 0) uniform Frame { mat4 to_clip, to_map, to_sky; };
layout(std140, binding = 1) uniform Object { mat4 to_world; };
out vec3 world, world_normal, map_place;
out vec2 place;
void main() {
  vec4 at = to_world * vec4(position, 1.0);
  world = at.xyz;
  world_normal = mat3(to_world) * normal;
  map_place = (to_map * vec4(at.xyz + 0.002 * world_normal, 1.0)).xyz * 0.5 + 0.5;
  place = uv;
  gl_Position = to_clip * at;
}
)";

// Four comparisons between texels are a tent of 3 x 3.
constexpr const char* surface = R"(#version 450 core
in vec3 world, world_normal, map_place;
in vec2 place;
layout(binding = 0) uniform sampler2D base_colors;
layout(binding = 1) uniform sampler2DShadow shadow_map;
layout(std140, binding = 2) uniform Scene { vec4 eye, to_light, lux, sky, ground; };
layout(location = 0) uniform float roughness;
layout(location = 0) out vec4 color;
void main() {
  vec3 base = texture(base_colors, place).rgb;
  vec3 n = normalize(world_normal), v = normalize(eye.xyz - world), h = normalize(to_light.xyz + v);
  float nl = max(dot(n, to_light.xyz), 0.0), nv = max(dot(n, v), 1e-3), nh = clamp(dot(n, h), 0.0, 1.0);
  const float texel = 0.5 / 2048.0;
  float lit = 0.25 * (texture(shadow_map, map_place + vec3(-texel, -texel, 0.0)) + texture(shadow_map, map_place + vec3(texel, -texel, 0.0)) +
                      texture(shadow_map, map_place + vec3(-texel, texel, 0.0)) + texture(shadow_map, map_place + vec3(texel, texel, 0.0)));
  float a2 = roughness * roughness * roughness * roughness, d = nh * nh * (a2 - 1.0) + 1.0;
  float away = 1.0 - dot(v, h), square = away * away, fresnel = 0.04 + 0.96 * square * square * away;
  float seen = 0.5 / (nl * sqrt(nv * nv * (1.0 - a2) + a2) + nv * sqrt(nl * nl * (1.0 - a2) + a2));
  vec3 light = lux.rgb * (lit * nl * 0.31830989) * ((1.0 - fresnel) * base + fresnel * a2 / (d * d) * seen);
  vec4 r = roughness * vec4(-1.0, -0.0275, -0.572, 0.022) + vec4(1.0, 0.0425, 1.04, -0.04);
  float share = min(r.x * r.x, exp2(-9.28 * nv)) * r.x + r.y;
  float mirrored = 0.04 * (r.z - 1.04 * share) + 1.04 * share + r.w;
  light += (1.0 - mirrored) * base * mix(ground.rgb, sky.rgb, 0.5 + 0.5 * n.y);
  light += mirrored * mix(ground.rgb, sky.rgb, 0.5 + 0.5 * (2.0 * dot(n, v) * n.y - v.y));
  color = vec4(light, 1.0);
}
)";

constexpr const char* sky_vertex = R"(#version 450 core
layout(std140, binding = 0) uniform Frame { mat4 to_clip, to_map, to_sky; };
out vec3 way;
void main() {
  vec4 corner = vec4(gl_VertexID == 1 ? 3.0 : -1.0, gl_VertexID == 2 ? 3.0 : -1.0, 1.0, 1.0);
  way = mat3(to_sky) * vec3(corner.xy * vec2(to_sky[3][0], to_sky[3][1]), -1.0);
  gl_Position = corner;
}
)";
constexpr const char* sky_fragment = R"(#version 450 core
in vec3 way;
layout(binding = 2) uniform samplerCube sky;
layout(location = 0) out vec4 color;
void main() { color = vec4(textureLod(sky, way, 0.0).rgb, 1.0); }
)";

constexpr const char* finish = R"(#version 450 core
layout(binding = 3) uniform sampler2D light;
layout(location = 0) uniform float exposure;
layout(location = 0) out vec4 color;
void main() {
  vec3 x = exposure * texelFetch(light, ivec2(gl_FragCoord.xy), 0).rgb;
  color = vec4(x * (2.6 * x + 0.05) / (x * (2.45 * x + 0.62) + 0.16), 1.0);
}
)";
constexpr const char* finish_samples = R"(#version 450 core
layout(binding = 3) uniform sampler2DMS light;
layout(location = 0) uniform float exposure;
layout(location = 0) out vec4 color;
void main() {
  ivec2 at = ivec2(gl_FragCoord.xy);
  vec3 x = exposure * 0.25 * (texelFetch(light, at, 0).rgb + texelFetch(light, at, 1).rgb + texelFetch(light, at, 2).rgb + texelFetch(light, at, 3).rgb);
  color = vec4(x * (2.6 * x + 0.05) / (x * (2.45 * x + 0.62) + 0.16), 1.0);
}
)";

constexpr int map_size = 2048;

struct SceneBlock {
  float eye[4], to_light[4], lux[4], sky[4], ground[4];
};

/// The panorama on a cube.
GLuint sky_cube() {
  constexpr int size = 256;
  const std::vector<float> light = frames::sky();
  GLuint cube = 0;
  glCreateTextures(GL_TEXTURE_CUBE_MAP, 1, &cube);
  glTextureStorage2D(cube, 1, GL_RGBA16F, size, size);
  std::vector<float> face(3 * size * size);
  for (int side = 0; side < 6; ++side) {
    for (int i = 0; i < size * size; ++i) {
      const float s = (2 * static_cast<float>(i % size) + 1) / size - 1,
                  t = (2 * static_cast<float>(i / size) + 1) / size - 1;
      const float ways[6][3] = {{1, -t, -s}, {-1, -t, s}, {s, 1, t}, {s, -1, -t}, {s, -t, 1}, {-s, -t, -1}};
      const auto& [x, y, z] = ways[side];
      const float u = (0.5f + std::atan2(x, -z) / (2 * frames::pi)) * frames::sky_width - 0.5f;
      const float v = std::acos(y / std::sqrt(x * x + y * y + z * z)) / frames::pi * frames::sky_height - 0.5f;
      const float left = std::floor(u), top = std::floor(v);
      for (int channel = 0; channel < 3; ++channel) {
        float sum = 0;
        for (int corner = 0; corner < 4; ++corner) {
          const int column = (static_cast<int>(left) + corner % 2 + frames::sky_width) % frames::sky_width;
          const int row = std::min(std::max(static_cast<int>(top) + corner / 2, 0), frames::sky_height - 1);
          const float across = corner % 2 ? u - left : 1 - (u - left), down = corner / 2 ? v - top : 1 - (v - top);
          sum += across * down * light[static_cast<std::size_t>(3 * (row * frames::sky_width + column) + channel)];
        }
        face[static_cast<std::size_t>(3 * i + channel)] = sum;
      }
    }
    glTextureSubImage3D(cube, 0, 0, 0, side, size, size, 1, GL_RGB, GL_FLOAT, face.data());
  }
  return cube;
}

GLuint paving() {
  constexpr int levels = 10;
  GLuint texture = 0;
  glCreateTextures(GL_TEXTURE_2D, 1, &texture);
  glTextureStorage2D(texture, levels, GL_SRGB8_ALPHA8, frames::texture_size, frames::texture_size);
  glTextureSubImage2D(texture, 0, 0, 0, frames::texture_size, frames::texture_size, GL_RGBA, GL_UNSIGNED_BYTE,
                      frames::paving().data());
  glGenerateTextureMipmap(texture);
  glTextureParameteri(texture, GL_TEXTURE_MIN_FILTER, GL_LINEAR_MIPMAP_LINEAR);
  return texture;
}

GLuint samples_of(GLenum format, int width, int height) {
  GLuint texture = 0;
  glCreateTextures(GL_TEXTURE_2D_MULTISAMPLE, 1, &texture);
  glTextureStorage2DMultisample(texture, 4, format, width, height, GL_TRUE);
  return texture;
}

}  // namespace

int main(int argc, char** argv) {
  TwinOptions options = read_twin_options(argc, argv);
  return run_twin(options, [&options]() -> Twin {
    by_hand::open_device();
    const int width = options.width, height = options.height;
    const bool many = options.samples > 1;
    const GLuint light = many ? samples_of(GL_RGBA16F, width, height) : make_texture(GL_RGBA16F, width, height);
    const GLuint lit = make_framebuffer(light, many ? samples_of(GL_DEPTH_COMPONENT24, width, height)
                                                    : make_texture(GL_DEPTH_COMPONENT24, width, height));
    const GLuint output = make_texture(GL_SRGB8_ALPHA8, width, height), target = make_framebuffer(output);
    const GLuint map = make_texture(GL_DEPTH_COMPONENT24, map_size, map_size), map_target = make_framebuffer(0, map);
    for (const GLenum filter : {GLenum(GL_TEXTURE_MIN_FILTER), GLenum(GL_TEXTURE_MAG_FILTER)})
      glTextureParameteri(map, filter, GL_LINEAR);
    glTextureParameteri(map, GL_TEXTURE_COMPARE_MODE, GL_COMPARE_REF_TO_TEXTURE);
    for (const GLenum way : {GLenum(GL_TEXTURE_WRAP_S), GLenum(GL_TEXTURE_WRAP_T)})
      glTextureParameteri(map, way, GL_CLAMP_TO_BORDER);
    const float lit_beyond[4] = {1, 1, 1, 1};
    glTextureParameterfv(map, GL_TEXTURE_BORDER_COLOR, lit_beyond);

    const by_hand::Mesh knot = by_hand::make_mesh(frames::knot(360, 48), true),
                        ground = by_hand::make_mesh(frames::ground(12), true);
    const GLuint cast = by_hand::program(casters, nullptr), shaded = by_hand::program(surface_vertex, surface);
    const GLuint sky = by_hand::program(sky_vertex, sky_fragment);
    const GLuint develop = by_hand::program(by_hand::whole_picture, many ? finish_samples : finish);
    glProgramUniform1f(develop, 0, 1 / (1.2f * std::exp2(frames::model_ev100)));

    float length = 0;
    for (const float one : frames::sun_way) length += one * one;
    SceneBlock scene{};
    float sun[3];
    for (int i = 0; i < 3; ++i) {
      scene.eye[i] = frames::model_pose.eye[i];
      scene.to_light[i] = -frames::sun_way[i] / std::sqrt(length);
      scene.lux[i] = frames::sun_lux * frames::sun_color[i];
      scene.sky[i] = frames::sky_nits[i];
      scene.ground[i] = frames::ground_nits[i];
      sun[i] = 4 * scene.to_light[i] + frames::model_pose.target[i];
    }
    const Matrix4 view = look_at(frames::model_pose.eye, frames::model_pose.target);
    const float slope = std::tan(frames::model_pose.fov_degrees * frames::pi / 360);
    Matrix4 to_sky{};  // the view's rotation, to and fro; the last column is how wide the picture looks
    for (std::size_t i = 0; i < 3; ++i) {
      for (std::size_t k = 0; k < 3; ++k) to_sky[4 * i + k] = view[4 * k + i];
    }
    to_sky[12] = slope * static_cast<float>(width) / static_cast<float>(height);
    to_sky[13] = slope;
    const Matrix4 frame[3] = {by_hand::camera_of(frames::model_pose, width, height, 0.1f, 100),
                              parallel(1.08f, 1.08f, 2, 6) * look_at(sun, frames::model_pose.target), to_sky};
    glBindBufferBase(GL_UNIFORM_BUFFER, 0, make_buffer(frame, sizeof(frame), 0));
    glBindBufferBase(GL_UNIFORM_BUFFER, 2, make_buffer(&scene, sizeof(scene), 0));
    const GLuint turned = make_buffer(nullptr, sizeof(Matrix4), GL_DYNAMIC_STORAGE_BIT);
    const Matrix4 still = translation(0, 0, 0);
    const GLuint resting = make_buffer(&still, sizeof(still), 0);
    const GLuint textures[] = {paving(), map, sky_cube(), light};
    glBindTextures(0, 4, textures);
    glEnable(GL_TEXTURE_CUBE_MAP_SEAMLESS);
    glEnable(GL_CULL_FACE);
    glEnable(GL_FRAMEBUFFER_SRGB);
    return {[=](double seconds) {
              const float far = 1;
              const Matrix4 placement = translation(0, frames::knot_height, 0) *
                                        about_y(static_cast<float>(2 * frames::pi * seconds / frames::knot_period));
              glNamedBufferSubData(turned, 0, sizeof(placement), placement.data());
              glEnable(GL_DEPTH_TEST);
              glBindFramebuffer(GL_FRAMEBUFFER, map_target);
              glViewport(0, 0, map_size, map_size);
              glClearNamedFramebufferfv(map_target, GL_DEPTH, 0, &far);
              glEnable(GL_POLYGON_OFFSET_FILL);
              glPolygonOffset(2, 2);
              glUseProgram(cast);
              glBindVertexArray(knot.array);
              glBindBufferBase(GL_UNIFORM_BUFFER, 1, turned);
              glDrawElements(GL_TRIANGLES, knot.count, GL_UNSIGNED_SHORT, nullptr);
              glDisable(GL_POLYGON_OFFSET_FILL);

              glBindFramebuffer(GL_FRAMEBUFFER, lit);
              glViewport(0, 0, width, height);
              glClearNamedFramebufferfv(lit, GL_DEPTH, 0, &far);
              glUseProgram(shaded);
              glProgramUniform1f(shaded, 0, frames::knot_roughness);
              glDrawElements(GL_TRIANGLES, knot.count, GL_UNSIGNED_SHORT, nullptr);
              glProgramUniform1f(shaded, 0, frames::paving_roughness);
              glBindBufferBase(GL_UNIFORM_BUFFER, 1, resting);
              glBindVertexArray(ground.array);
              glDrawElements(GL_TRIANGLES, ground.count, GL_UNSIGNED_SHORT, nullptr);
              glUseProgram(sky);
              glDepthFunc(GL_LEQUAL);
              by_hand::draw_whole_picture();
              glDepthFunc(GL_LESS);

              glDisable(GL_DEPTH_TEST);
              glBindFramebuffer(GL_FRAMEBUFFER, target);
              glUseProgram(develop);
              by_hand::draw_whole_picture();
            },
            [=] { return by_hand::picture_of(output, width, height); }};
  });
}
