// The demo frame in hand-written OpenGL 4.5, as a good engineer would write it for this frame alone: direct state
// access, immutable storage, per-object data in a storage buffer, one multi-draw for all objects of one state, state
// set once where it does not change. Meshes, matrices, GLSL and what never changes on the device (vertices, materials,
// textures) are the library's, so both twins draw the same thing; each frame's work is written here.
// In one file, as such programs are.

#include "hand_gl.h"
#include "twin.h"

#include "draw/lights/lighting.h"
#include "draw/surfaces/surface_program.h"

#include <periscena/frame/frame_file.h>
#include <periscena/gl/bindings.h>
#include <periscena/gl/device.h>
#include <periscena/gl/shader_text.h>
#include <periscena/image/files.h>
#include <periscena/math/bounds.h>
#include <periscena/passes/pass_kind.h>

#include <epoxy/gl.h>
#include <fmt/format.h>

#include <algorithm>
#include <cstring>
#include <numeric>

using namespace periscena;

namespace {

struct CameraData {
  Mat4 view, projection, view_projection, inverse_view_projection;
  Vec3 eye;
  float near, far, padding[3];
  Vec4 towards_eye;
};

struct FrameData {
  Vec2 resolution, size;
  float time, padding[3];
};

struct Command {
  GLuint count, instances, first_index;
  GLint base_vertex;
  GLuint base_instance;
};

/// A pass over the whole picture: its program, where it draws, what it samples.
struct FullscreenPass {
  GLuint program, framebuffer;
  int width, height;
  GLuint textures[2], samplers[2];
  int texture_count;
};

/// Objects that one call draws.
struct Batch {
  std::uint32_t state;
  bool mirrored, blended;
  std::size_t first, count;
};

/// The scene as a camera sees it.
struct SceneView {
  GLuint framebuffer, camera, commands;
  int width, height;
  Frustum frustum;
  Vec3 eye;
  std::vector<Command> listed, sent;
  std::vector<Batch> batches;
  std::vector<std::pair<float, std::uint32_t>> seen_blended;
};

class LockByHand {
 public:
  LockByHand(int width, int height, gl::Device& device)
      : width_(width),
        height_(height),
        shared_scene_(
            std::make_shared<Scene>(read_scene_file(PERISCENA_SOURCE_FOLDER "/demo/generated/osier_lock.glb"))),
        scene_(*shared_scene_),
        buffers_(shared_scene_, device),
        dress_(buffers_.materials().dress(nullptr)),
        kinds_(buffers_.materials().kinds(), std::vector<bool>(buffers_.materials().states().size(), true),
               batch::Programs::families) {
    make_targets();
    make_scene();
    make_blocks();
    make_passes();
    make_surface_programs(device);
    glClipControl(GL_LOWER_LEFT, GL_ZERO_TO_ONE);
    glEnable(GL_FRAMEBUFFER_SRGB);
    glEnable(GL_TEXTURE_CUBE_MAP_SEAMLESS);
    glDepthFunc(GL_GREATER);
    glCullFace(GL_BACK);
    glBindVertexArray(empty_array_);
    gl::State ignored;
    buffers_.bind(ignored, *dress_);
    buffers_.materials().bind(ignored, buffers_.materials().states()[0]);
    glBindBufferBase(GL_UNIFORM_BUFFER, gl::binding::light_block, lighting_);
    glBindBufferBase(GL_UNIFORM_BUFFER, gl::binding::few_lights_block, lights_);
    const GLuint texels[] = {texels_of(GL_RGBA32UI, objects_), dress_->number_texels.name(),
                             buffers_.materials().texels().name()};
    glBindTextures(first_texels, 3, texels);
  }

  void run(double seconds) {
    move_nodes(seconds);
    write_frame_data(static_cast<float>(seconds));
    glBindBufferBase(GL_UNIFORM_BUFFER, gl::binding::camera_block, mirror_.camera);
    run_scene(mirror_, 6);
    glInvalidateNamedFramebufferData(mirror_.framebuffer, 1, &depth_attachment);
    glBlitNamedFramebuffer(mirror_.framebuffer, mirror_resolved_, 0, 0, mirror_size, mirror_size, 0, 0, mirror_size,
                           mirror_size, GL_COLOR_BUFFER_BIT, GL_NEAREST);
    glInvalidateNamedFramebufferData(mirror_.framebuffer, 1, &color_attachment);
    glBindBufferBase(GL_UNIFORM_BUFFER, gl::binding::camera_block, main_.camera);
    run_scene(main_, 0);
    for (int i = 1; i < 6; ++i) run_fullscreen(i);
  }

  Image read() const {
    Image image(width_, height_, Format::rgba8_srgb);
    std::vector<std::byte> rows(image.bytes().size());
    glGetTextureImage(output_, 0, GL_RGBA, GL_UNSIGNED_BYTE, static_cast<GLsizei>(rows.size()), rows.data());
    const std::size_t row = image.row_bytes();
    for (std::size_t y = 0; y < static_cast<std::size_t>(height_); ++y) {
      std::memcpy(image.bytes().data() + y * row, rows.data() + (static_cast<std::size_t>(height_) - 1 - y) * row, row);
    }
    return image;
  }

 private:
  static constexpr int mirror_size = 256;
  static constexpr GLint first_texels = 12;  ///< units of what vertex programs read
  static constexpr GLenum color_attachment = GL_COLOR_ATTACHMENT0, depth_attachment = GL_DEPTH_ATTACHMENT;

  void make_targets() {
    const int w = 2 * width_, h = 2 * height_, qw = (width_ + 3) / 4, qh = (height_ + 3) / 4;
    color_ = make_texture(GL_RGBA16F, w, h);
    depth_ = make_texture(GL_DEPTH_COMPONENT32F, w, h);
    air_ = make_texture(GL_RGBA16F, w, h);
    for (GLuint& glow : glow_) glow = make_texture(GL_RGBA16F, qw, qh);
    output_ = make_texture(GL_SRGB8_ALPHA8, width_, height_);
    main_.framebuffer = make_framebuffer(color_, depth_);
    main_.width = w;
    main_.height = h;
    mirror_texture_ = make_texture(GL_RGBA16F, mirror_size, mirror_size);
    mirror_resolved_ = make_framebuffer(mirror_texture_);
    mirror_.width = mirror_.height = mirror_size;
    GLuint buffers[2];
    glCreateRenderbuffers(2, buffers);
    glNamedRenderbufferStorageMultisample(buffers[0], 4, GL_RGBA16F, mirror_size, mirror_size);
    glNamedRenderbufferStorageMultisample(buffers[1], 4, GL_DEPTH_COMPONENT32F, mirror_size, mirror_size);
    glCreateFramebuffers(1, &mirror_.framebuffer);
    glNamedFramebufferRenderbuffer(mirror_.framebuffer, color_attachment, GL_RENDERBUFFER, buffers[0]);
    glNamedFramebufferRenderbuffer(mirror_.framebuffer, depth_attachment, GL_RENDERBUFFER, buffers[1]);
  }

  void make_scene() {
    for (const Mesh& mesh : scene_.meshes()) mesh_spheres_.push_back(mesh.bounds().sphere());
    const auto& nodes = scene_.nodes();
    worlds_.assign(nodes.size(), Transform::identity());
    scene_.world_transforms(0, worlds_);
    objects_data_.resize(nodes.size());
    spheres_.resize(nodes.size());
    const std::vector<bool> moves = scene_.moving_nodes();
    for (std::uint32_t i = 0; i < nodes.size(); ++i) {
      if (moves[i]) moving_.push_back(i);
      write_object(i);
      if (nodes[i].mesh.valid()) (dress_->traits[i].blended ? blended_ : drawn_).push_back(i);
    }
    // By state, mirrored objects after the others for the other winding, equal meshes together.
    std::sort(drawn_.begin(), drawn_.end(), [&](std::uint32_t a, std::uint32_t b) {
      return std::tuple(dress_->traits[a].state, worlds_[a].mirrors(), nodes[a].mesh.index, a) <
             std::tuple(dress_->traits[b].state, worlds_[b].mirrors(), nodes[b].mesh.index, b);
    });
    objects_ =
        make_buffer(objects_data_.data(), objects_data_.size() * sizeof(draw::ObjectBlock), GL_DYNAMIC_STORAGE_BIT);
    for (SceneView* view : {&main_, &mirror_}) {
      view->listed.reserve(nodes.size());
      view->batches.reserve(nodes.size());
      view->seen_blended.reserve(nodes.size());
      view->commands = make_buffer(nullptr, nodes.size() * sizeof(Command), GL_DYNAMIC_STORAGE_BIT);
    }
    std::vector<std::uint32_t> numbers(shared_scene_->nodes().size());
    std::iota(numbers.begin(), numbers.end(), 0u);
    node_numbers_ = gl::Buffer::holding(std::as_bytes(std::span(numbers)), "node numbers");
    vertices_ = buffers_.meshes().vertex_array(node_numbers_);
    vertex_array_ = vertices_->name();
    index_type_ = buffers_.meshes().index_bytes() == 2 ? GL_UNSIGNED_SHORT : GL_UNSIGNED_INT;
    glCreateVertexArrays(1, &empty_array_);
  }

  void make_camera(SceneView& seen, const char* name) {
    const Camera& camera = scene_.find_view(name)->camera;
    const Transform view = camera.view();
    const Projection lens = camera.projection(static_cast<float>(seen.width) / static_cast<float>(seen.height));
    CameraData data{};
    data.view = view.matrix();
    data.projection = lens.matrix();
    data.view_projection = data.projection * data.view;
    data.inverse_view_projection = view.inverse().matrix() * lens.inverse();
    data.eye = camera.eye;
    data.near = camera.near;
    data.far = camera.far;
    data.towards_eye = Vec4(camera.eye.x(), camera.eye.y(), camera.eye.z(), 1);
    seen.eye = camera.eye;
    seen.frustum = Frustum::of(data.view_projection, camera.depth);
    seen.camera = make_buffer(&data, sizeof data, 0);
  }

  void make_lighting() {
    Environment dusk{"dusk",
                     {std::make_shared<const Image>(read_image(PERISCENA_SOURCE_FOLDER "/demo/generated/dusk.hdr"))}};
    const EnvironmentLight light = light_of(dusk, default_cache());
    draw::LightingBlock block;
    block.light_count = 1;
    block.set_environment(dusk, light);
    lighting_ = make_buffer(&block, sizeof block, 0);
    const draw::LightBlock sun = draw::LightBlock::of(*scene_.find_light("sun"), Transform::identity());
    lights_ = make_buffer(&sun, sizeof sun, 0);
    const CubeImage& cube = light.specular;
    glCreateTextures(GL_TEXTURE_CUBE_MAP, 1, &sky_);
    glTextureStorage2D(sky_, static_cast<GLsizei>(cube.levels.size()), GL_RGBA16F, cube.size, cube.size);
    for (int level = 0; level < static_cast<int>(cube.levels.size()); ++level) {
      for (int face = 0; face < 6; ++face) {
        const int size = cube.level_size(level);
        std::vector<Vec4> rgba;  // three channels are rounded otherwise by some drivers
        for (const Vec3& pixel : cube.levels[static_cast<std::size_t>(level)][static_cast<std::size_t>(face)])
          rgba.push_back({pixel.x(), pixel.y(), pixel.z(), 1});
        glTextureSubImage3D(sky_, level, 0, 0, face, size, size, 1, GL_RGBA, GL_FLOAT, rgba.data());
      }
    }
    split_sum_ = make_texture(GL_RG32F, 64, 64);
    glTextureSubImage2D(split_sum_, 0, 0, 0, 64, 64, GL_RG, GL_FLOAT, split_sum_table(64, 256).data());
    sky_sampler_ = make_sampler(GL_LINEAR);
    glSamplerParameteri(sky_sampler_, GL_TEXTURE_MIN_FILTER, GL_LINEAR_MIPMAP_LINEAR);
  }

  void make_blocks() {
    make_camera(main_, "towpath");
    make_camera(mirror_, "mirror");
    make_lighting();
    GLint alignment = 256;
    glGetIntegerv(GL_UNIFORM_BUFFER_OFFSET_ALIGNMENT, &alignment);
    frame_stride_ = std::max<std::size_t>(static_cast<std::size_t>(alignment), sizeof(FrameData));
    frame_bytes_.resize(pass_count * frame_stride_);
    frame_ = make_buffer(nullptr, frame_bytes_.size(), GL_DYNAMIC_STORAGE_BIT);
  }

  void make_passes() {
    const auto library = passes::pass_shaders();
    const auto triangle = gl::ShaderText::embedded("periscena/fullscreen.vert", library);
    const auto demo = [&](const char* name) {
      return gl::ShaderText::file(std::string(PERISCENA_SOURCE_FOLDER "/demo/shaders/") + name, library);
    };
    const GLuint linear = make_sampler(GL_LINEAR), nearest = make_sampler(GL_NEAREST);
    linear_ = linear;
    const int w = 2 * width_, h = 2 * height_, qw = (width_ + 3) / 4, qh = (height_ + 3) / 4;
    passes_[0] = {link(triangle, demo("sky.frag")), main_.framebuffer, w, h, {}, {}, 0};
    passes_[1] = {link(triangle, demo("water_and_air.frag")),
                  make_framebuffer(air_),
                  w,
                  h,
                  {color_, depth_},
                  {linear, nearest},
                  2};
    passes_[2] = {link(triangle, demo("bright.frag")), make_framebuffer(glow_[0]), qw, qh, {air_}, {linear}, 1};
    passes_[3] = {link(triangle, demo("spread.frag")), make_framebuffer(glow_[1]), qw, qh, {glow_[0]}, {linear}, 1};
    passes_[4] = {link(triangle, demo("spread.frag")), make_framebuffer(glow_[2]), qw, qh, {glow_[1]}, {linear}, 1};
    passes_[5] = {link(triangle, demo("finish.frag")),
                  make_framebuffer(output_),
                  width_,
                  height_,
                  {air_, glow_[2]},
                  {linear, linear},
                  2};
    passes_[6] = {link(triangle, demo("sky.frag")), mirror_.framebuffer, mirror_size, mirror_size, {}, {}, 0};
    const auto at = [](GLuint program, const char* name) { return glGetUniformLocation(program, name); };
    glProgramUniform1i(passes_[1].program, at(passes_[1].program, "scene"), 0);
    glProgramUniform1i(passes_[1].program, at(passes_[1].program, "depth"), 1);
    glProgramUniform1f(passes_[2].program, at(passes_[2].program, "threshold_nits"), 3600);
    glProgramUniform2f(passes_[3].program, at(passes_[3].program, "direction"), 1, 0);
    glProgramUniform2f(passes_[4].program, at(passes_[4].program, "direction"), 0, 1);
    glProgramUniform1i(passes_[5].program, at(passes_[5].program, "scene"), 0);
    glProgramUniform1i(passes_[5].program, at(passes_[5].program, "glow"), 1);
    glProgramUniform1f(passes_[5].program, at(passes_[5].program, "exposure_ev100"), 10.2f);
    glProgramUniform1f(passes_[5].program, at(passes_[5].program, "glow_share"), 0.5f);
    for (std::size_t i = 0; i < pass_count; ++i) {
      const FrameData data{Vec2(static_cast<float>(passes_[i].width), static_cast<float>(passes_[i].height)),
                           Vec2(static_cast<float>(width_), static_cast<float>(height_)),
                           0,
                           {}};
      std::memcpy(frame_bytes_.data() + i * frame_stride_, &data, sizeof data);
    }
  }

  /// The library's, for each family of materials.
  void make_surface_programs(const gl::Device& device) {
    const auto library = passes::pass_shaders();
    const draw::SurfaceTexts texts(buffers_, device, {});
    const std::vector<std::string> lit{"FEW_LIGHTS 1", "LIGHT_KINDS 1", "LIGHT_COUNT 1", "NO_AMBIENT", "FOG_KIND 0"};
    const auto at = [](GLuint program, const std::string& name) { return glGetUniformLocation(program, name.c_str()); };
    for (const draw::SurfaceKind& kind : kinds_.kinds) {
      const gl::ProgramDescription text =
          texts.of(kind, "lock", gl::ShaderText::embedded("periscena/surface.vert", library),
                   gl::ShaderText::embedded("periscena/forward.frag", library), lit);
      for (const bool with_mirror : {false, true}) {
        const GLuint program = link(text.vertex, text.fragment);
        for (std::size_t i = 0; i < draw::map_count; ++i)
          glProgramUniform1i(program, at(program, std::string(material_maps[i].name) + "s"), static_cast<GLint>(i));
        glProgramUniform1i(program, at(program, "sky_map"), 6);
        glProgramUniform1i(program, at(program, "split_sum_map"), 7);
        for (int i = 1; i <= 4; ++i) glProgramUniform1i(program, at(program, fmt::format("picture_{}", i)), i + 7);
        glProgramUniform1i(program, at(program, "pictures"), with_mirror);
        GLint texels = first_texels;
        for (const char* name : {"object_texels", "material_number_texels", "material_texels"})
          glProgramUniform1i(program, at(program, name), texels++);
        surface_programs_[with_mirror].push_back(program);
      }
    }
  }

  void write_object(std::uint32_t i) {
    const Node& node = scene_.nodes()[i];
    draw::ObjectBlock& data = objects_data_[i];
    data.place(worlds_[i]);
    if (node.mesh.valid()) spheres_[i] = mesh_spheres_[node.mesh.index].transformed(worlds_[i]);
  }

  /// Only what moves is computed and sent, in runs of neighbours.
  void move_nodes(double seconds) {
    for (const std::uint32_t i : moving_) {
      const Node& node = scene_.nodes()[i];
      const Transform local = node.local(seconds);
      worlds_[i] = node.parent.valid() ? local.then(worlds_[node.parent.index]) : local;
      write_object(i);
    }
    for (std::size_t first = 0; first < moving_.size();) {
      std::size_t end = first + 1;
      while (end < moving_.size() && moving_[end] == moving_[end - 1] + 1) ++end;
      glNamedBufferSubData(objects_, static_cast<GLintptr>(moving_[first] * sizeof(draw::ObjectBlock)),
                           static_cast<GLsizeiptr>((end - first) * sizeof(draw::ObjectBlock)),
                           &objects_data_[moving_[first]]);
      first = end;
    }
    list_visible(mirror_);
    list_visible(main_);
  }

  void list_visible(SceneView& view) {
    view.listed.clear();
    view.batches.clear();
    view.seen_blended.clear();
    const auto append = [&](std::uint32_t i, bool blended) {
      const std::uint32_t state = dress_->traits[i].state;
      const bool mirrored = worlds_[i].mirrors();
      if (view.batches.empty() || view.batches.back().state != state || view.batches.back().mirrored != mirrored ||
          view.batches.back().blended != blended)
        view.batches.push_back({state, mirrored, blended, view.listed.size(), 0});
      ++view.batches.back().count;
      const gl::DrawCommand command = buffers_.meshes().command({scene_.nodes()[i].mesh.index, i, 1});
      view.listed.push_back({command.index_count, 1, command.first_index, command.base_vertex, i});
    };
    for (const std::uint32_t i : drawn_) {
      if (view.frustum.may_see(spheres_[i])) append(i, false);
    }
    for (const std::uint32_t i : blended_) {
      if (view.frustum.may_see(spheres_[i]))
        view.seen_blended.emplace_back(-(spheres_[i].center - view.eye).squared_norm(), i);
    }
    std::sort(view.seen_blended.begin(), view.seen_blended.end());
    for (const auto& [distance, i] : view.seen_blended) append(i, true);
    const bool same = view.listed.size() == view.sent.size() &&
                      std::memcmp(view.listed.data(), view.sent.data(), view.listed.size() * sizeof(Command)) == 0;
    if (same) return;
    view.sent = view.listed;
    glNamedBufferSubData(view.commands, 0, static_cast<GLsizeiptr>(view.listed.size() * sizeof(Command)),
                         view.listed.data());
  }

  void write_frame_data(float time) {
    for (std::size_t i = 0; i < pass_count; ++i)
      std::memcpy(frame_bytes_.data() + i * frame_stride_ + offsetof(FrameData, time), &time, sizeof time);
    glNamedBufferSubData(frame_, 0, static_cast<GLsizeiptr>(frame_bytes_.size()), frame_bytes_.data());
  }

  void run_fullscreen(int index) {
    const FullscreenPass& pass = passes_[index];
    const bool after_scene = index == 1;
    if (after_scene) glDisable(GL_DEPTH_TEST);
    if (after_scene) glDisable(GL_CULL_FACE);
    begin(index);
    glUseProgram(pass.program);
    for (int i = 0; i < pass.texture_count; ++i) {
      glBindTextureUnit(static_cast<GLuint>(i), pass.textures[i]);
      glBindSampler(static_cast<GLuint>(i), pass.samplers[i]);
    }
    if (after_scene) glBindVertexArray(empty_array_);
    glDrawArrays(GL_TRIANGLES, 0, 3);
  }

  void begin(int index) {
    const FullscreenPass& pass = passes_[index];
    glBindFramebuffer(GL_DRAW_FRAMEBUFFER, pass.framebuffer);
    glViewport(0, 0, pass.width, pass.height);
    glBindBufferRange(GL_UNIFORM_BUFFER, gl::binding::frame_block, frame_,
                      static_cast<GLintptr>(static_cast<std::size_t>(index) * frame_stride_), sizeof(FrameData));
  }

  /// At the far end, where no surface is.
  void draw_sky(int index) {
    glUseProgram(passes_[index].program);
    glDisable(GL_CULL_FACE);
    glDepthMask(GL_FALSE);
    glDepthFunc(GL_GEQUAL);
    glBindVertexArray(empty_array_);
    glDrawArrays(GL_TRIANGLES, 0, 3);
    glDepthFunc(GL_GREATER);
  }

  /// What is solid, the sky, what is blended.
  void run_scene(const SceneView& view, int sky) {
    begin(sky);
    glEnable(GL_DEPTH_TEST);
    glEnable(GL_CULL_FACE);
    const float far = 0;
    glClearNamedFramebufferfv(view.framebuffer, GL_DEPTH, 0, &far);
    glBindVertexArray(vertex_array_);
    glBindBuffer(GL_DRAW_INDIRECT_BUFFER, view.commands);
    bool clockwise = false, blending = false;
    std::uint32_t state = ~0u;
    for (const Batch& batch : view.batches) {
      if (batch.blended && !blending) {
        draw_sky(sky);
        glEnable(GL_CULL_FACE);
        glBindVertexArray(vertex_array_);
        glEnable(GL_BLEND);
        glBlendFunc(GL_ONE, GL_ONE_MINUS_SRC_ALPHA);
        blending = true;
        state = ~0u;
      }
      if (batch.state != state) {
        glUseProgram(surface_programs_[&view == &main_][kinds_.of_state[batch.state]]);
        bind_textures(batch.state, &view == &main_);
      }
      state = batch.state;
      if (batch.mirrored != clockwise) glFrontFace(batch.mirrored ? GL_CW : GL_CCW);
      clockwise = batch.mirrored;
      glMultiDrawElementsIndirect(GL_TRIANGLES, index_type_,
                                  reinterpret_cast<const void*>(batch.first * sizeof(Command)),
                                  static_cast<GLsizei>(batch.count), 0);
    }
    if (clockwise) glFrontFace(GL_CCW);
    if (!blending) draw_sky(sky);
    if (blending) glDisable(GL_BLEND);
    glDepthMask(GL_TRUE);
  }

  void bind_textures(std::uint32_t number, bool with_mirror) const {
    const draw::MaterialState& state = buffers_.materials().states()[number];
    GLuint textures[9], samplers[9];
    for (std::size_t i = 0; i < draw::map_count; ++i) {
      textures[i] = buffers_.materials().textures().array(state.textures.arrays[i]).name();
      samplers[i] = buffers_.materials().textures().sampler_at(state.textures.samplers[i]).name();
    }
    textures[6] = sky_;
    samplers[6] = sky_sampler_;
    textures[7] = split_sum_;
    samplers[7] = textures[8] = samplers[8] = 0;
    samplers[7] = linear_;
    if (with_mirror) {
      textures[8] = mirror_texture_;
      samplers[8] = linear_;
    }
    glBindTextures(0, with_mirror ? 9 : 8, textures);
    glBindSamplers(0, with_mirror ? 9 : 8, samplers);
  }

  int width_, height_;
  std::shared_ptr<const Scene> shared_scene_;
  const Scene& scene_;
  draw::SceneBuffers buffers_;
  gl::Buffer node_numbers_;
  std::optional<gl::VertexArray> vertices_;
  std::shared_ptr<const draw::Dress> dress_;
  draw::SurfaceKinds kinds_;
  std::vector<GLuint> surface_programs_[2];  ///< by kind: without the mirror's picture, and with it
  GLuint color_ = 0, depth_ = 0, air_ = 0, glow_[3] = {}, output_ = 0, mirror_texture_ = 0, mirror_resolved_ = 0,
         linear_ = 0, sky_ = 0, split_sum_ = 0, sky_sampler_ = 0;
  SceneView main_{}, mirror_{};
  std::vector<Sphere> mesh_spheres_, spheres_;
  std::vector<Transform> worlds_;
  std::vector<draw::ObjectBlock> objects_data_;
  std::vector<std::uint32_t> moving_, drawn_, blended_;
  static constexpr std::size_t pass_count = 7;
  std::size_t frame_stride_ = 0;
  GLenum index_type_ = GL_UNSIGNED_SHORT;
  GLuint objects_ = 0, vertex_array_ = 0, empty_array_ = 0, lighting_ = 0, lights_ = 0, frame_ = 0;
  std::vector<std::byte> frame_bytes_;
  FullscreenPass passes_[pass_count] = {};
};

}  // namespace

int main(int argc, char** argv) {
  const TwinOptions options = read_twin_options(argc, argv);
  return run_twin(options, [&] {
    static gl::Device device = gl::Device::headless();  // opening a context by hand is the same EGL calls
    const auto lock = std::make_shared<LockByHand>(options.width, options.height, device);
    return Twin{[=](double seconds) { lock->run(seconds); }, [=] { return lock->read(); }};
  });
}
