#pragma once

#include "field.h"
#include "hand_gl.h"

#include "draw/scene/scene_buffers.h"
#include "draw/surfaces/surface_program.h"

#include <periscena/gl/frame_runner.h>
#include <periscena/passes/pass_kind.h>

#include <algorithm>
#include <cmath>
#include <numbers>
#include <optional>

inline GLuint bound(GLenum what, GLuint index) {
  GLint name = 0;
  glGetIntegeri_v(what, index, &name);
  return static_cast<GLuint>(name);
}

/// What lights a field, as programs of the library are told.
inline const std::vector<std::string> field_light{"FEW_LIGHTS 1",   "LIGHT_KINDS 1", "LIGHT_COUNT 1",
                                                  "NO_ENVIRONMENT", "NO_AMBIENT",    "FOG_KIND 0"};

/// Draws a field by multi-draw, as a good engineer writes it for this one scene, into targets that are bound and
/// cleared. Takes what Periscena drew in this context before over: its camera, lights and frame blocks.
class HandField {
 public:
  HandField(const Field& field, bool moving, gl::Device& device, const gl::ShaderText& fragment, int width, int height)
      : field_(field),
        moving_(moving),
        size_{width, height},
        buffers_(field.scene, device),
        kinds_(buffers_.materials().kinds(), std::vector<bool>(buffers_.materials().states().size(), true),
               batch::Programs::families) {
    for (GLuint i = 0; i < uniform_blocks_.size(); ++i) uniform_blocks_[i] = bound(GL_UNIFORM_BUFFER_BINDING, i);
    sort(*buffers_.materials().dress(nullptr));
    const draw::SurfaceTexts texts(buffers_, device, {});
    for (const draw::SurfaceKind& kind : kinds_.kinds) {
      programs_.emplace_back(
          device, texts.of(kind, "by hand", gl::ShaderText::embedded("periscena/surface.vert", passes::pass_shaders()),
                           fragment, field_light));
    }
    texels_ = {texels_of(GL_RGBA32UI, objects_), texels_of(GL_R32UI, material_numbers_),
               buffers_.materials().texels().name()};
  }

  void draw(double seconds) {
    if (moving_) {
      turn(seconds);
      glNamedBufferSubData(objects_, 0, static_cast<GLsizeiptr>(blocks_.size() * sizeof(draw::ObjectBlock)),
                           blocks_.data());
    }
    const auto w = static_cast<float>(size_[0]), h = static_cast<float>(size_[1]);
    const float block[8] = {w, h, w, h, static_cast<float>(seconds), 0, 0, 0};
    glNamedBufferSubData(uniform_blocks_[gl::binding::frame_block], 0, sizeof block, block);
    glDisable(GL_BLEND);
    glEnable(GL_CULL_FACE);
    glEnable(GL_DEPTH_TEST);
    glDepthFunc(GL_GREATER);
    glDepthMask(GL_TRUE);
    for (GLuint i = 0; i < uniform_blocks_.size(); ++i) {
      if (uniform_blocks_[i]) glBindBufferBase(GL_UNIFORM_BUFFER, i, uniform_blocks_[i]);
    }
    glBindVertexArray(vertices_->name());
    glBindBuffer(GL_DRAW_INDIRECT_BUFFER, commands_);
    for (const Run& run : runs_) {
      draw::SurfaceProgram& surface = programs_[kinds_.of_state[run.state]];
      gl::State unknown;
      surface.program.use(unknown);
      surface.put_maps(buffers_, buffers_.materials().states()[run.state]);
      const char* const names[] = {"object_texels", "material_number_texels", "material_texels"};
      for (std::size_t i = 0; i < texels_.size(); ++i) surface.textures.put(surface.program, names[i], texels_[i], 0);
      const auto count = static_cast<GLsizei>(surface.textures.textures.size());
      glBindTextures(0, count, surface.textures.textures.data());
      glBindSamplers(0, count, surface.textures.samplers.data());
      glMultiDrawElementsIndirect(GL_TRIANGLES, GL_UNSIGNED_SHORT,
                                  reinterpret_cast<const void*>(run.first * sizeof(gl::DrawCommand)), run.count, 0);
    }
  }

  std::size_t calls() const { return runs_.size(); }

 private:
  struct Run {
    std::size_t first;
    int count;
    std::uint32_t state;
  };

  /// The field's objects stay where they are, so what is in view does, too.
  void sort(const draw::Dress& dress) {
    const auto meshes = batch::mesh_bounds(*field_.scene);
    const auto& nodes = field_.scene->nodes();
    const Mat4 view_projection =
        field_.camera.projection(static_cast<float>(size_[0]) / static_cast<float>(size_[1])).matrix() *
        field_.camera.view().matrix();
    const Frustum frustum = Frustum::of(view_projection, field_.camera.depth);
    std::vector<std::uint32_t> order;
    for (std::uint32_t i = 0; i < nodes.size(); ++i) {
      if (frustum.may_see(Sphere{field_.turns[i].at, meshes[nodes[i].mesh.index].radius})) order.push_back(i);
    }
    std::stable_sort(order.begin(), order.end(), [&](std::uint32_t a, std::uint32_t b) {
      return std::pair(dress.traits[a].state, nodes[a].mesh.index) <
             std::pair(dress.traits[b].state, nodes[b].mesh.index);
    });
    std::vector<gl::DrawCommand> commands;
    std::vector<std::uint32_t> numbers, materials;
    const std::uint32_t* last = nullptr;
    for (const std::uint32_t& i : order) {
      const bool same_state = last && dress.traits[*last].state == dress.traits[i].state;
      const auto at = static_cast<std::uint32_t>(numbers.size());
      if (!same_state) runs_.push_back({commands.size(), 0, dress.traits[i].state});
      if (same_state && nodes[*last].mesh == nodes[i].mesh) {
        ++commands.back().instances;
      } else {
        commands.push_back(buffers_.meshes().command({nodes[i].mesh.index, at, 1}));
        ++runs_.back().count;
      }
      last = &i;
      numbers.push_back(at);
      materials.push_back(nodes[i].material.index);
      draw::ObjectBlock block;
      block.origin = field_.turns[i].at;
      blocks_.push_back(block);
      turns_.push_back(field_.turns[i]);
    }
    objects_ = make_buffer(blocks_.data(), blocks_.size() * sizeof(draw::ObjectBlock), GL_DYNAMIC_STORAGE_BIT);
    material_numbers_ = make_buffer(materials.data(), materials.size() * sizeof(std::uint32_t), 0);
    commands_ = make_buffer(commands.data(), commands.size() * sizeof(gl::DrawCommand), 0);
    nodes_ = gl::Buffer::holding(std::as_bytes(std::span(numbers)), "objects by hand");
    vertices_ = buffers_.meshes().vertex_array(nodes_);
  }

  void turn(double seconds) {
    for (std::size_t i = 0; i < blocks_.size(); ++i) {
      const auto angle = static_cast<float>(2 * std::numbers::pi * std::fmod(seconds / turns_[i].period, 1.0));
      const float c = std::cos(angle), s = std::sin(angle);
      blocks_[i].x = {c, 0, -s};
      blocks_[i].z = {s, 0, c};
    }
  }

  const Field& field_;
  bool moving_;
  std::array<int, 2> size_;
  draw::SceneBuffers buffers_;
  draw::SurfaceKinds kinds_;
  std::vector<draw::SurfaceProgram> programs_;  ///< by kind
  gl::Buffer nodes_;
  std::optional<gl::VertexArray> vertices_;
  std::vector<draw::ObjectBlock> blocks_;
  std::vector<Turn> turns_;
  std::vector<Run> runs_;
  std::array<GLuint, 7> uniform_blocks_{};
  std::array<GLuint, 3> texels_{};
  GLuint objects_ = 0, material_numbers_ = 0, commands_ = 0;
};
