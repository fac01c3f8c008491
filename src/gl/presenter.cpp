#include <periscena/gl/presenter.h>

#include "gl/api.h"
#include "gl/embedded.h"
#include "gl/new_names.h"
#include "gl/pixel_transfer.h"
#include "gl/saved_state.h"

#include <periscena/base/error.h>
#include <periscena/gl/program.h>

#include <fmt/format.h>

#include <optional>

namespace periscena::gl {
namespace {

[[noreturn]] void refuse(std::string problem, const char* help) {
  throw Mistake("not-presentable", {}, std::move(problem), help);
}

/// Of one sample and one layer.
void expect_flat(const TextureDescription& is, const char* fault, const char* help) {
  if (is.samples > 1) fault = "several samples a pixel";
  if (is.shape != TargetShape::flat) fault = "several layers";
  if (fault) refuse(fmt::format("a picture of {} with {} can't be shown", info(is.format).name, fault), help);
}

void expect_colors(const Texture& picture) {
  const FormatInfo& format = info(picture.format());
  expect_flat(picture.description(), format.color() && !format.integer() ? nullptr : "no colours",
              "show the frame's output, or a flat target of colours that was resolved");
}

void expect_depth(const Texture& picture) {
  expect_flat(picture.description(), info(picture.format()).depth ? nullptr : "no depth",
              "name a flat target of depth that was resolved");
}

/// @throws Mistake "not-presentable"
void expect_depth_in(const OutsideFramebuffer& into) {
  const bool own = into.name == 0;
  GLint kind = GL_NONE, bits = 0;
  const auto read = [&](GLenum what, GLint& value) {
    glGetNamedFramebufferAttachmentParameteriv(into.name, own ? GL_DEPTH : GL_DEPTH_ATTACHMENT, what, &value);
  };
  read(GL_FRAMEBUFFER_ATTACHMENT_OBJECT_TYPE, kind);
  if (kind != GL_NONE) read(GL_FRAMEBUFFER_ATTACHMENT_DEPTH_SIZE, bits);
  if (bits == 0)
    refuse(
        "the framebuffer has no depth that the frame's could be copied into",
        own ? "make the window with depth (WindowOptions::depth)" : "attach a texture or renderbuffer of depth to it");
}

/// Until it goes out of scope, the library's own state; then an adopted context has its own back.
class OwnState {
 public:
  explicit OwnState(Device& device) : state_(device.state()) {
    if (device.restores_state()) {
      saved_.emplace();
      state_.forget();
    }
    state_.set_conventions();
  }
  OwnState(const OwnState&) = delete;
  OwnState& operator=(const OwnState&) = delete;
  ~OwnState() {
    if (saved_) state_.forget();
  }

 private:
  State& state_;
  std::optional<SavedState> saved_;
};

}  // namespace

struct Presenter::DepthCopy {
  explicit DepthCopy(Device& device)
      : program(device, {"present depth", ShaderText::embedded("periscena/one_triangle.vert", gl_texts()),
                         ShaderText::embedded("periscena/present_depth.frag", gl_texts())}),
        part(program.uniform<Vec4>("part")),
        unit(static_cast<std::uint32_t>(program.sampler_unit("depth"))),
        vertices(one(glCreateVertexArrays)) {}

  Program program;
  Uniform<Vec4> part;
  std::uint32_t unit;
  ObjectName<ObjectKind::vertex_array> vertices;
};

Presenter::Presenter(Device& device) : device_(device), source_(one(glCreateFramebuffers)) {
  source_.set_label("presented");
}

void Presenter::present(const Texture& picture, const OutsideFramebuffer& into, const PixelRect& part,
                        const std::array<float, 4>& around) {
  expect_colors(picture);
  const OwnState own(device_);
  State& state = device_.state();
  state.encode_srgb(false);
  const PixelRect whole{0, 0, into.width, into.height};
  if (part != whole) {
    state.open_write_masks(true, false, false);
    glClearNamedFramebufferfv(into.name, GL_COLOR, 0, around.data());
  }
  // Another texture may have this one's name by now, so it is attached each time.
  glNamedFramebufferTexture(source_.get(), GL_COLOR_ATTACHMENT0, picture.name(), 0);
  const bool same_size = part.width == picture.width() && part.height == picture.height();
  const int bottom = into.height - part.y - part.height;
  glBlitNamedFramebuffer(source_.get(), into.name, 0, 0, picture.width(), picture.height(), part.x, bottom,
                         part.x + part.width, bottom + part.height, GL_COLOR_BUFFER_BIT,
                         same_size ? GL_NEAREST : GL_LINEAR);
  state.encode_srgb(true);
}

void Presenter::present_depth(const Texture& depth, const OutsideFramebuffer& into, const PixelRect& part) {
  expect_depth(depth);
  expect_depth_in(into);
  if (part.width <= 0 || part.height <= 0) return;
  const OwnState own(device_);
  if (!depth_copy_) depth_copy_ = std::make_shared<DepthCopy>(device_);
  State& state = device_.state();
  const auto left = static_cast<float>(part.x), bottom = static_cast<float>(into.height - part.y - part.height);
  const auto width = static_cast<float>(part.width), height = static_cast<float>(part.height);
  state.bind_draw_framebuffer(into.name);
  const std::array<float, 4> viewport{left, bottom, width, height};
  state.set_viewports({&viewport, 1});
  state.apply({.depth = {true, true, Compare::always}, .write = {false, false, false, false}});
  depth_copy_->program.set(depth_copy_->part, Vec4(left, bottom, width, height));
  depth_copy_->program.use(state);
  state.bind_texture(depth_copy_->unit, depth.name(), 0);
  state.bind_vertex_array(depth_copy_->vertices.get());
  glDrawArrays(GL_TRIANGLES, 0, 3);
  state.bind_draw_framebuffer(0);  // theirs may go, and its name with it
}

Image Presenter::read(const OutsideFramebuffer& from) const {
  Image image(from.width, from.height, Format::rgba8);
  const PlainPixelTransfer plain(true);
  GLint bound = 0;
  glGetIntegerv(GL_READ_FRAMEBUFFER_BINDING, &bound);
  glBindFramebuffer(GL_READ_FRAMEBUFFER, from.name);
  glReadPixels(0, 0, from.width, from.height, GL_RGBA, GL_UNSIGNED_BYTE, image.bytes().data());
  glBindFramebuffer(GL_READ_FRAMEBUFFER, static_cast<GLuint>(bound));
  flip_rows(image);
  return image;
}

}  // namespace periscena::gl
