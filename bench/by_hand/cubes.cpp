// Twenty thousand cubes of five materials, each of which turns, by hand: one call with instances.

#include "by_hand/hand.h"

#include <string>

namespace {

constexpr const char* vertex = R"(#version 450 core
layout(location = 0) in vec3 position;
layout(location = 1) in vec3 normal;
layout(location = 2) in vec4 place;     // w: edge
layout(location = 3) in vec2 turn;      // turns a second; of a turn at time 0
layout(location = 4) in uint material;
layout(std140, binding = 0) uniform Frame { mat4 to_clip; float time; vec3 eye, to_light, lux; };
struct Material { vec4 color; vec4 metallic_roughness; };
layout(std140, binding = 1) uniform Materials { Material materials[5]; };
out vec3 world, world_normal;
flat out vec3 base, f0;
flat out float alpha_square;
void main() {
  float angle = 6.2831853 * fract(turn.x * time + turn.y), c = cos(angle), s = sin(angle);
  mat3 rotation = mat3(c, 0.0, -s, 0.0, 1.0, 0.0, s, 0.0, c);
  world = place.xyz + place.w * (rotation * position);
  world_normal = rotation * normal;
  vec4 color = materials[material].color;
  vec2 mr = materials[material].metallic_roughness.xy;
  base = color.rgb * (1.0 - mr.x) / 3.14159265;
  f0 = mix(vec3(0.04), color.rgb, mr.x);
  alpha_square = mr.y * mr.y * mr.y * mr.y;
  gl_Position = to_clip * vec4(world, 1.0);
}
)";

constexpr const char* fragment = R"(#version 450 core
in vec3 world, world_normal;
flat in vec3 base, f0;
flat in float alpha_square;
layout(std140, binding = 0) uniform Frame { mat4 to_clip; float time; vec3 eye, to_light, lux; };
layout(location = 0) out vec4 color;
void main() {
  vec3 n = world_normal, v = normalize(eye - world), h = normalize(to_light + v);
  float nl = max(dot(n, to_light), 0.0), nv = max(dot(n, v), 1e-3), nh = clamp(dot(n, h), 0.0, 1.0);
  float away = 1.0 - dot(v, h), square = away * away, d = nh * nh * (alpha_square - 1.0) + 1.0;
  vec3 fresnel = f0 + (1.0 - f0) * (square * square * away);
  float seen = 0.5 / (nl * sqrt(nv * nv * (1.0 - alpha_square) + alpha_square) + nv * sqrt(nl * nl * (1.0 - alpha_square) + alpha_square));
  color = vec4(lux * nl * ((1.0 - fresnel) * base + fresnel * (alpha_square / (3.14159265 * d * d) * seen)), 1.0);
}
)";

struct Instance {
  float place[4], turn[2];
  std::uint32_t material, unused;
};

struct FrameBlock {
  Matrix4 to_clip;
  float time, unused[3];
  float eye[4], to_light[4], lux[4];
};

}  // namespace

int main(int argc, char** argv) {
  TwinOptions options = read_twin_options(argc, argv);
  return run_twin(options, [&options]() -> Twin {
    by_hand::open_device();
    const int width = options.width, height = options.height;
    const GLuint color = make_texture(GL_SRGB8_ALPHA8, width, height);
    const GLuint target = make_framebuffer(color, make_texture(GL_DEPTH_COMPONENT24, width, height));
    const by_hand::Mesh mesh = by_hand::make_mesh(frames::cube(), false);
    std::vector<Instance> instances;
    for (int i = 0; i < frames::cube_count; ++i) {
      const frames::Cube cube = frames::cube(i);
      instances.push_back({{cube.at[0], cube.at[1], cube.at[2], cube.edge},
                           {1 / cube.period, cube.phase},
                           static_cast<std::uint32_t>(cube.material),
                           0});
    }
    glVertexArrayVertexBuffer(mesh.array, 1, by_hand::buffer_of(instances), 0, sizeof(Instance));
    glVertexArrayBindingDivisor(mesh.array, 1, 1);
    glVertexArrayAttribFormat(mesh.array, 2, 4, GL_FLOAT, GL_FALSE, 0);
    glVertexArrayAttribFormat(mesh.array, 3, 2, GL_FLOAT, GL_FALSE, offsetof(Instance, turn));
    glVertexArrayAttribIFormat(mesh.array, 4, 1, GL_UNSIGNED_INT, offsetof(Instance, material));
    for (const GLuint location : {2u, 3u, 4u}) {
      glEnableVertexArrayAttrib(mesh.array, location);
      glVertexArrayAttribBinding(mesh.array, location, 1);
    }
    std::vector<float> materials;
    for (const frames::CubeMaterial& material : frames::cube_materials) {
      for (const float value : {material.color[0], material.color[1], material.color[2], 1.0f, material.metallic,
                                material.roughness, 0.0f, 0.0f})
        materials.push_back(value);
    }
    FrameBlock frame{by_hand::camera_of(frames::field_pose, width, height, 1, 400), 0, {}, {}, {}, {}};
    float length = 0;
    for (const float one : frames::field_way) length += one * one;
    for (int i = 0; i < 3; ++i) {
      frame.eye[i] = frames::field_pose.eye[i];
      frame.to_light[i] = -frames::field_way[i] / std::sqrt(length);
      frame.lux[i] = frames::field_lux;
    }
    const GLuint block = make_buffer(&frame, sizeof(frame), GL_DYNAMIC_STORAGE_BIT);
    glEnable(GL_DEPTH_TEST);
    glEnable(GL_CULL_FACE);
    glEnable(GL_FRAMEBUFFER_SRGB);
    glBindFramebuffer(GL_FRAMEBUFFER, target);
    glViewport(0, 0, width, height);
    glUseProgram(by_hand::program(vertex, fragment));
    glBindVertexArray(mesh.array);
    glBindBufferBase(GL_UNIFORM_BUFFER, 0, block);
    glBindBufferBase(GL_UNIFORM_BUFFER, 1, by_hand::buffer_of(materials));
    return {[=](double seconds) {
              const float background[4] = {0.05f, 0.07f, 0.1f, 1}, far = 1, time = static_cast<float>(seconds);
              glNamedBufferSubData(block, offsetof(FrameBlock, time), sizeof(float), &time);
              glClearNamedFramebufferfv(target, GL_COLOR, 0, background);
              glClearNamedFramebufferfv(target, GL_DEPTH, 0, &far);
              glDrawElementsInstanced(GL_TRIANGLES, mesh.count, GL_UNSIGNED_SHORT, nullptr, frames::cube_count);
            },
            [=] { return by_hand::picture_of(color, width, height); }};
  });
}
