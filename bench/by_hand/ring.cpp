// One ring of brass in one light, by hand: example 01.

#include "by_hand/hand.h"

namespace {

constexpr const char* vertex = R"(#version 450 core
layout(location = 0) in vec3 position;
layout(location = 1) in vec3 normal;
layout(std140, binding = 0) uniform Frame { mat4 to_clip, to_world; };
out vec3 world, world_normal;
void main() {
  vec4 at = to_world * vec4(position, 1.0);
  world = at.xyz;
  world_normal = mat3(to_world) * normal;
  gl_Position = to_clip * at;
}
)";

// Rough to the full, so that the distribution is even, and what a lobe sends back from around is the same from
// everywhere.
constexpr const char* fragment = R"(#version 450 core
in vec3 world, world_normal;
layout(location = 0) out vec4 color;
const vec3 brass = vec3(0.72, 0.42, 0.12), eye = vec3(0.0, 0.4, 2.8);
const vec3 to_light = normalize(vec3(0.6, 0.7, 1.0));
const vec3 sky = vec3(0.16, 0.18, 0.22), ground = vec3(0.05, 0.04, 0.03);
const float mirrored = 0.0157;
void main() {
  vec3 n = normalize(world_normal), v = normalize(eye - world), h = normalize(to_light + v);
  float nl = max(dot(n, to_light), 0.0), nv = max(dot(n, v), 1e-3);
  float away = 1.0 - dot(v, h), square = away * away;
  float fresnel = 0.04 + 0.96 * square * square * away;
  const float pi = 3.14159265;
  vec3 light = 3.0 * nl * ((1.0 - fresnel) * brass / pi + fresnel * 0.5 / (pi * (nl + nv)));
  light += (1.0 - mirrored) * brass * mix(ground, sky, 0.5 + 0.5 * n.y);
  light += mirrored * mix(ground, sky, 0.5 + 0.5 * (2.0 * dot(n, v) * n.y - v.y));
  color = vec4(light, 1.0);
}
)";

frames::Shape ring() {
  constexpr int along = 128, around = 64;
  frames::Shape shape;
  for (int row = 0; row <= around; ++row) {
    const float b = 2 * frames::pi * static_cast<float>(row) / around;
    for (int column = 0; column <= along; ++column) {
      const float a = 2 * frames::pi * static_cast<float>(column) / along, r = 0.6f + 0.25f * std::cos(b);
      frames::Corner corner{};
      const float normal[3] = {std::cos(b) * std::cos(a), std::sin(b), -std::cos(b) * std::sin(a)};
      const float position[3] = {r * std::cos(a), 0.25f * std::sin(b), -r * std::sin(a)};
      for (int i = 0; i < 3; ++i) corner.normal[i] = normal[i], corner.position[i] = position[i];
      shape.corners.push_back(corner);
    }
  }
  for (std::uint32_t row = 0; row < around; ++row) {
    for (std::uint32_t column = 0; column < along; ++column) {
      const std::uint32_t a = row * (along + 1) + column, b = a + along + 1;
      for (const std::uint32_t corner : {a, a + 1, b, b, a + 1, b + 1}) shape.indices.push_back(corner);
    }
  }
  return shape;
}

}  // namespace

int main(int argc, char** argv) {
  TwinOptions options = read_twin_options(argc, argv);
  return run_twin(options, [&options]() -> Twin {
    by_hand::open_device();
    const int width = options.width, height = options.height;
    const GLuint color = make_texture(GL_SRGB8_ALPHA8, width, height);
    const GLuint target = make_framebuffer(color, make_texture(GL_DEPTH_COMPONENT24, width, height));
    const by_hand::Mesh mesh = by_hand::make_mesh(ring(), false);
    const GLuint program = by_hand::program(vertex, fragment);
    Matrix4 matrices[2] = {by_hand::camera_of({{0, 0.4f, 2.8f}, {0, 0, 0}, 40}, width, height, 0.1f, 100), Matrix4{}};
    const GLuint block = make_buffer(matrices, sizeof(matrices), GL_DYNAMIC_STORAGE_BIT);
    const Matrix4 placement = about_y(25 * frames::pi / 180) * about_x(60 * frames::pi / 180);
    glEnable(GL_DEPTH_TEST);
    glEnable(GL_CULL_FACE);
    glEnable(GL_FRAMEBUFFER_SRGB);
    glBindFramebuffer(GL_FRAMEBUFFER, target);
    glViewport(0, 0, width, height);
    glUseProgram(program);
    glBindVertexArray(mesh.array);
    glBindBufferBase(GL_UNIFORM_BUFFER, 0, block);
    return {[=](double seconds) {
              const float background[4] = {0.05f, 0.07f, 0.1f, 1}, far = 1;
              const Matrix4 world = placement * about_z(static_cast<float>(2 * frames::pi * seconds / 8));
              glNamedBufferSubData(block, sizeof(Matrix4), sizeof(Matrix4), world.data());
              glClearNamedFramebufferfv(target, GL_COLOR, 0, background);
              glClearNamedFramebufferfv(target, GL_DEPTH, 0, &far);
              glDrawElements(GL_TRIANGLES, mesh.count, GL_UNSIGNED_SHORT, nullptr);
            },
            [=] { return by_hand::picture_of(color, width, height); }};
  });
}
