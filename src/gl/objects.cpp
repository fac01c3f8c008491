#include "gl/api.h"
#include "gl/formats.h"

#include <periscena/base/error.h>
#include <periscena/gl/buffer.h>
#include <periscena/gl/framebuffer.h>
#include <periscena/gl/query.h>
#include <periscena/gl/sampler.h>
#include <periscena/gl/texture.h>
#include <periscena/gl/vertex_array.h>

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cstring>

namespace periscena::gl {
namespace {

GLenum label_kind(ObjectKind kind) {
  switch (kind) {
    case ObjectKind::buffer: return GL_BUFFER;
    case ObjectKind::texture: return GL_TEXTURE;
    case ObjectKind::sampler: return GL_SAMPLER;
    case ObjectKind::vertex_array: return GL_VERTEX_ARRAY;
    case ObjectKind::framebuffer: return GL_FRAMEBUFFER;
    case ObjectKind::query: return GL_QUERY;
    case ObjectKind::shader: return GL_SHADER;
    case ObjectKind::program: break;
  }
  return GL_PROGRAM;
}

/// One call that makes a name.
template <class Create>
std::uint32_t one(Create create) {
  GLuint name = 0;
  create(1, &name);
  return name;
}

/// The driver says that it has no memory left only through the error flag.
void expect_memory(std::size_t bytes, std::string_view label) {
  bool out_of_memory = false;
  for (GLenum code = glGetError(); code != GL_NO_ERROR; code = glGetError()) out_of_memory |= code == GL_OUT_OF_MEMORY;
  if (!out_of_memory) return;
  fail("out-of-memory", {}, fmt::format("the device has no {} bytes left for \"{}\"", bytes, label),
       "make targets smaller, or close other programs");
}

void flip_rows(Image& image) {
  const std::size_t row = image.row_bytes();
  std::byte* pixels = image.bytes().data();
  for (int top = 0, bottom = image.height() - 1; top < bottom; ++top, --bottom) {
    std::swap_ranges(pixels + static_cast<std::size_t>(top) * row, pixels + static_cast<std::size_t>(top + 1) * row,
                     pixels + static_cast<std::size_t>(bottom) * row);
  }
}

/// Where and how pixels go to and come from memory, set plainly for a transfer and then put back: in an adopted context
/// a pixel buffer may be bound, or rows may be skipped.
class PlainPixelTransfer {
 public:
  PlainPixelTransfer(bool pack)
      : buffer_target_(pack ? GL_PIXEL_PACK_BUFFER : GL_PIXEL_UNPACK_BUFFER), names_(pack ? pack_names : unpack_names) {
    glGetIntegerv(pack ? GL_PIXEL_PACK_BUFFER_BINDING : GL_PIXEL_UNPACK_BUFFER_BINDING, &buffer_);
    if (buffer_) glBindBuffer(buffer_target_, 0);
    for (std::size_t i = 0; i < names_.size(); ++i) {
      glGetIntegerv(names_[i], &values_[i]);
      glPixelStorei(names_[i], i == 0 ? 1 : 0);
    }
  }
  PlainPixelTransfer(const PlainPixelTransfer&) = delete;
  PlainPixelTransfer& operator=(const PlainPixelTransfer&) = delete;
  ~PlainPixelTransfer() {
    for (std::size_t i = 0; i < names_.size(); ++i) glPixelStorei(names_[i], values_[i]);
    if (buffer_) glBindBuffer(buffer_target_, static_cast<GLuint>(buffer_));
  }

 private:
  static constexpr std::array<GLenum, 4> pack_names{GL_PACK_ALIGNMENT, GL_PACK_ROW_LENGTH, GL_PACK_SKIP_ROWS,
                                                    GL_PACK_SKIP_PIXELS};
  static constexpr std::array<GLenum, 4> unpack_names{GL_UNPACK_ALIGNMENT, GL_UNPACK_ROW_LENGTH, GL_UNPACK_SKIP_ROWS,
                                                      GL_UNPACK_SKIP_PIXELS};

  GLenum buffer_target_;
  const std::array<GLenum, 4>& names_;
  GLint buffer_ = 0;
  std::array<GLint, 4> values_{};
};

const char* incomplete_reason(GLenum status) {
  switch (status) {
    case GL_FRAMEBUFFER_UNDEFINED: return "the default framebuffer does not exist";
    case GL_FRAMEBUFFER_INCOMPLETE_ATTACHMENT: return "an attachment can't be drawn into";
    case GL_FRAMEBUFFER_INCOMPLETE_MISSING_ATTACHMENT: return "nothing is attached";
    case GL_FRAMEBUFFER_UNSUPPORTED: return "the driver does not support this combination of formats";
    case GL_FRAMEBUFFER_INCOMPLETE_MULTISAMPLE: return "attachments have different sample counts";
    case GL_FRAMEBUFFER_INCOMPLETE_LAYER_TARGETS: return "some attachments are layered and some are not";
    default: return "unknown reason";
  }
}

}  // namespace

template <ObjectKind kind>
ObjectName<kind>::~ObjectName() {
  if (name_ == 0) return;
  if constexpr (kind == ObjectKind::buffer) glDeleteBuffers(1, &name_);
  if constexpr (kind == ObjectKind::texture) glDeleteTextures(1, &name_);
  if constexpr (kind == ObjectKind::sampler) glDeleteSamplers(1, &name_);
  if constexpr (kind == ObjectKind::vertex_array) glDeleteVertexArrays(1, &name_);
  if constexpr (kind == ObjectKind::framebuffer) glDeleteFramebuffers(1, &name_);
  if constexpr (kind == ObjectKind::query) glDeleteQueries(1, &name_);
  if constexpr (kind == ObjectKind::shader) glDeleteShader(name_);
  if constexpr (kind == ObjectKind::program) glDeleteProgram(name_);
}

template <ObjectKind kind>
void ObjectName<kind>::set_label(std::string_view label) const {
  constexpr std::size_t longest = 255;  // MAX_LABEL_LENGTH is at least 256
  glObjectLabel(label_kind(kind), name_, static_cast<GLsizei>(std::min(label.size(), longest)), label.data());
}

template class ObjectName<ObjectKind::buffer>;
template class ObjectName<ObjectKind::texture>;
template class ObjectName<ObjectKind::sampler>;
template class ObjectName<ObjectKind::vertex_array>;
template class ObjectName<ObjectKind::framebuffer>;
template class ObjectName<ObjectKind::query>;
template class ObjectName<ObjectKind::shader>;
template class ObjectName<ObjectKind::program>;

Buffer Buffer::make(std::size_t size, const void* data, std::uint32_t flags, std::string_view label) {
  if (size == 0) {
    throw Mistake("empty-buffer", {}, fmt::format("buffer \"{}\" would hold 0 bytes", label),
                  "GL has no empty buffers: skip it");
  }
  Buffer buffer;
  buffer.size_ = size;
  buffer.name_ = ObjectName<ObjectKind::buffer>(one(glCreateBuffers));
  glNamedBufferStorage(buffer.name(), static_cast<GLsizeiptr>(size), data, flags);
  expect_memory(size, label);
  buffer.name_.set_label(label);
  return buffer;
}

Buffer Buffer::holding(std::span<const std::byte> bytes, std::string_view label) {
  return make(bytes.size(), bytes.data(), 0, label);
}

Buffer Buffer::writable(std::size_t bytes, std::string_view label) {
  Buffer buffer = make(bytes, nullptr, GL_DYNAMIC_STORAGE_BIT, label);
  glClearNamedBufferData(buffer.name(), GL_R8UI, GL_RED_INTEGER, GL_UNSIGNED_BYTE, nullptr);
  return buffer;
}

void Buffer::write(std::size_t offset, std::span<const std::byte> bytes) const {
  if (offset > size_ || bytes.size() > size_ - offset) {
    throw Mistake("outside-buffer", {},
                  fmt::format("{} bytes at {} don't fit in a buffer of {}", bytes.size(), offset, size_),
                  "make the buffer larger");
  }
  glNamedBufferSubData(name(), static_cast<GLintptr>(offset), static_cast<GLsizeiptr>(bytes.size()), bytes.data());
}

Texture::Texture(int width, int height, Format format, std::string_view label)
    : width_(width), height_(height), format_(format) {
  if (width < 1 || height < 1) {
    throw Mistake("bad-size", {}, fmt::format("texture \"{}\" is {} x {} pixels", label, width, height),
                  "both must be at least 1");
  }
  name_ =
      ObjectName<ObjectKind::texture>(one([](GLsizei n, GLuint* name) { glCreateTextures(GL_TEXTURE_2D, n, name); }));
  glTextureStorage2D(name(), 1, gl_format(format).internal, width, height);
  expect_memory(
      static_cast<std::size_t>(width) * static_cast<std::size_t>(height) * static_cast<std::size_t>(info(format).bytes),
      label);
  name_.set_label(label);
}

Image Texture::read() const {
  const GlFormat& format = gl_format(format_);
  Image image(width_, height_, format.read_into);
  const PlainPixelTransfer plain(true);
  glGetTextureImage(name(), 0, format.read_as, format.read_type, static_cast<GLsizei>(image.bytes().size()),
                    image.bytes().data());
  flip_rows(image);
  return image;
}

void Texture::upload(const Image& image) const {
  if (image.width() != width_ || image.height() != height_) {
    throw Mistake(
        "size-mismatch", {},
        fmt::format("an image of {} x {} for a texture of {} x {}", image.width(), image.height(), width_, height_),
        "resize one of them");
  }
  const GlFormat& format = gl_format(format_);
  if (image.format() != format.read_into || info(format_).depth) {
    throw Mistake("image-format", {},
                  fmt::format("an image of {} for a texture of {}", to_string(image.format()), to_string(format_)),
                  fmt::format("give it as {}", to_string(format.read_into)));
  }
  Image upside_down = image;
  flip_rows(upside_down);
  const PlainPixelTransfer plain(false);
  glTextureSubImage2D(name(), 0, 0, 0, width_, height_, format.read_as, format.read_type, upside_down.bytes().data());
}

Sampler::Sampler(Filter filter, Wrap wrap, std::string_view label) : name_(one(glCreateSamplers)) {
  const GLint filter_code = filter == Filter::linear ? GL_LINEAR : GL_NEAREST;
  const GLint wrap_code = wrap == Wrap::clamp    ? GL_CLAMP_TO_EDGE
                          : wrap == Wrap::repeat ? GL_REPEAT
                                                 : GL_MIRRORED_REPEAT;
  glSamplerParameteri(name(), GL_TEXTURE_MIN_FILTER, filter_code);
  glSamplerParameteri(name(), GL_TEXTURE_MAG_FILTER, filter_code);
  glSamplerParameteri(name(), GL_TEXTURE_WRAP_S, wrap_code);
  glSamplerParameteri(name(), GL_TEXTURE_WRAP_T, wrap_code);
  name_.set_label(label);
}

VertexArray::VertexArray(std::string_view label) : name_(one(glCreateVertexArrays)) {
  name_.set_label(label);
}

void VertexArray::add_floats(std::uint32_t attribute, std::uint32_t slot, int components, std::uint32_t offset) const {
  glEnableVertexArrayAttrib(name(), attribute);
  glVertexArrayAttribFormat(name(), attribute, components, GL_FLOAT, GL_FALSE, offset);
  glVertexArrayAttribBinding(name(), attribute, slot);
}

void VertexArray::add_integer(std::uint32_t attribute, std::uint32_t slot, std::uint32_t offset) const {
  glEnableVertexArrayAttrib(name(), attribute);
  glVertexArrayAttribIFormat(name(), attribute, 1, GL_UNSIGNED_INT, offset);
  glVertexArrayAttribBinding(name(), attribute, slot);
}

void VertexArray::set_vertices(std::uint32_t slot, const Buffer& buffer, int stride) const {
  glVertexArrayVertexBuffer(name(), slot, buffer.name(), 0, stride);
}

void VertexArray::set_per_instance(std::uint32_t slot) const {
  glVertexArrayBindingDivisor(name(), slot, 1);
}

void VertexArray::set_indices(const Buffer& buffer) const {
  glVertexArrayElementBuffer(name(), buffer.name());
}

Framebuffer::Framebuffer(std::span<const Texture* const> colors, const Texture* depth, std::string_view label)
    : name_(one(glCreateFramebuffers)) {
  name_.set_label(label);
  std::string attached;
  std::vector<int> order;
  for (std::size_t i = 0; i < colors.size(); ++i) {
    glNamedFramebufferTexture(name(), GL_COLOR_ATTACHMENT0 + static_cast<GLenum>(i), colors[i]->name(), 0);
    attached += fmt::format("colour {} is {} of {} x {}; ", i, to_string(colors[i]->format()), colors[i]->width(),
                            colors[i]->height());
    order.push_back(static_cast<int>(i));
  }
  if (depth) {
    glNamedFramebufferTexture(name(), GL_DEPTH_ATTACHMENT, depth->name(), 0);
    attached += fmt::format("depth is {} of {} x {}", to_string(depth->format()), depth->width(), depth->height());
  }
  route_outputs(order);
  const GLenum status = glCheckNamedFramebufferStatus(name(), GL_DRAW_FRAMEBUFFER);
  if (status == GL_FRAMEBUFFER_COMPLETE) return;
  fail("framebuffer-incomplete", {},
       fmt::format("the driver refuses to draw into \"{}\": {} ({})", label, incomplete_reason(status), attached),
       "choose formats that `periscena device` lists as renderable");
}

void Framebuffer::route_outputs(std::span<const int> order) const {
  std::vector<GLenum> buffers;
  for (const int attachment : order) {
    buffers.push_back(attachment < 0 ? GL_NONE : GL_COLOR_ATTACHMENT0 + static_cast<GLenum>(attachment));
  }
  if (buffers.empty()) {
    glNamedFramebufferDrawBuffer(name(), GL_NONE);
  } else {
    glNamedFramebufferDrawBuffers(name(), static_cast<GLsizei>(buffers.size()), buffers.data());
  }
}

void Framebuffer::clear_color(int output, const float (&linear)[4]) const {
  glClearNamedFramebufferfv(name(), GL_COLOR, output, linear);
}

void Framebuffer::clear_depth(float depth) const {
  glClearNamedFramebufferfv(name(), GL_DEPTH, 0, &depth);
}

TimerQuery::TimerQuery(std::string_view label)
    : name_(one([](GLsizei n, GLuint* name) { glCreateQueries(GL_TIME_ELAPSED, n, name); })) {
  name_.set_label(label);
}

void TimerQuery::begin() const {
  glBeginQuery(GL_TIME_ELAPSED, name());
}

void TimerQuery::end() const {
  glEndQuery(GL_TIME_ELAPSED);
}

std::optional<std::uint64_t> TimerQuery::result_if_ready() const {
  GLuint ready = GL_FALSE;
  glGetQueryObjectuiv(name(), GL_QUERY_RESULT_AVAILABLE, &ready);
  if (!ready) return std::nullopt;
  return wait();
}

std::uint64_t TimerQuery::wait() const {
  GLuint64 nanoseconds = 0;
  glGetQueryObjectui64v(name(), GL_QUERY_RESULT, &nanoseconds);
  return nanoseconds;
}

}  // namespace periscena::gl
