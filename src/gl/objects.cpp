#include "gl/api.h"
#include "gl/capabilities.h"
#include "gl/new_names.h"

#include <periscena/base/error.h>
#include <periscena/gl/buffer.h>
#include <periscena/gl/query.h>
#include <periscena/gl/sampler.h>
#include <periscena/gl/vertex_array.h>
#include <periscena/gl/vertex_capture.h>

#include <fmt/format.h>

#include <algorithm>

namespace periscena::gl {
namespace {

GLenum label_kind(ObjectKind kind) {
  switch (kind) {
    case ObjectKind::buffer: return GL_BUFFER;
    case ObjectKind::texture: return GL_TEXTURE;
    case ObjectKind::renderbuffer: return GL_RENDERBUFFER;
    case ObjectKind::sampler: return GL_SAMPLER;
    case ObjectKind::vertex_array: return GL_VERTEX_ARRAY;
    case ObjectKind::framebuffer: return GL_FRAMEBUFFER;
    case ObjectKind::query: return GL_QUERY;
    case ObjectKind::shader: return GL_SHADER;
    case ObjectKind::transform_feedback: return GL_TRANSFORM_FEEDBACK;
    case ObjectKind::program: break;
  }
  return GL_PROGRAM;
}

}  // namespace

void expect_memory(std::size_t bytes, std::string_view label) {
  bool out_of_memory = false;
  for (GLenum code = glGetError(); code != GL_NO_ERROR; code = glGetError()) out_of_memory |= code == GL_OUT_OF_MEMORY;
  if (!out_of_memory) return;
  fail("out-of-memory", {}, fmt::format("the device has no {} bytes left for \"{}\"", bytes, label),
       "make targets smaller, or close other programs");
}

template <ObjectKind kind>
ObjectName<kind>::~ObjectName() {
  if (name_ == 0 || borrowed_) return;
  if constexpr (kind == ObjectKind::buffer) glDeleteBuffers(1, &name_);
  if constexpr (kind == ObjectKind::texture) glDeleteTextures(1, &name_);
  if constexpr (kind == ObjectKind::renderbuffer) glDeleteRenderbuffers(1, &name_);
  if constexpr (kind == ObjectKind::sampler) glDeleteSamplers(1, &name_);
  if constexpr (kind == ObjectKind::vertex_array) glDeleteVertexArrays(1, &name_);
  if constexpr (kind == ObjectKind::framebuffer) glDeleteFramebuffers(1, &name_);
  if constexpr (kind == ObjectKind::query) glDeleteQueries(1, &name_);
  if constexpr (kind == ObjectKind::shader) glDeleteShader(name_);
  if constexpr (kind == ObjectKind::program) glDeleteProgram(name_);
  if constexpr (kind == ObjectKind::transform_feedback) glDeleteTransformFeedbacks(1, &name_);
}

template <ObjectKind kind>
void ObjectName<kind>::set_label(std::string_view label) const {
  constexpr std::size_t longest = 255;  // MAX_LABEL_LENGTH is at least 256
  glObjectLabel(label_kind(kind), name_, static_cast<GLsizei>(std::min(label.size(), longest)), label.data());
}

template class ObjectName<ObjectKind::buffer>;
template class ObjectName<ObjectKind::texture>;
template class ObjectName<ObjectKind::renderbuffer>;
template class ObjectName<ObjectKind::sampler>;
template class ObjectName<ObjectKind::vertex_array>;
template class ObjectName<ObjectKind::framebuffer>;
template class ObjectName<ObjectKind::query>;
template class ObjectName<ObjectKind::shader>;
template class ObjectName<ObjectKind::program>;
template class ObjectName<ObjectKind::transform_feedback>;

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

Buffer Buffer::mapped(std::size_t bytes, std::string_view label, std::byte*& memory) {
  constexpr GLbitfield how = GL_MAP_WRITE_BIT | GL_MAP_PERSISTENT_BIT | GL_MAP_COHERENT_BIT;
  Buffer buffer = make(bytes, nullptr, how, label);
  memory = static_cast<std::byte*>(glMapNamedBufferRange(buffer.name(), 0, static_cast<GLsizeiptr>(bytes), how));
  if (!memory) {
    fail("out-of-memory", {}, fmt::format("the driver does not map the {} bytes of \"{}\"", bytes, label),
         "close other programs");
  }
  return buffer;
}

void Buffer::expect_inside(std::size_t offset, std::size_t bytes) const {
  if (offset <= size_ && bytes <= size_ - offset) return;
  throw Mistake("outside-buffer", {}, fmt::format("{} bytes at {} don't fit in a buffer of {}", bytes, offset, size_),
                "make the buffer larger");
}

void Buffer::copy_from(const Buffer& other, std::size_t bytes) const {
  expect_inside(0, bytes);
  other.expect_inside(0, bytes);
  glCopyNamedBufferSubData(other.name(), name(), 0, 0, static_cast<GLsizeiptr>(bytes));
}

void Buffer::read(std::size_t offset, std::span<std::byte> bytes) const {
  expect_inside(offset, bytes.size());
  glMemoryBarrier(GL_BUFFER_UPDATE_BARRIER_BIT);
  glGetNamedBufferSubData(name(), static_cast<GLintptr>(offset), static_cast<GLsizeiptr>(bytes.size()), bytes.data());
}

void Buffer::write(std::size_t offset, std::span<const std::byte> bytes) const {
  expect_inside(offset, bytes.size());
  glNamedBufferSubData(name(), static_cast<GLintptr>(offset), static_cast<GLsizeiptr>(bytes.size()), bytes.data());
}

float anisotropy_limit() {
  if (is_llvmpipe() || !epoxy_has_gl_extension("GL_EXT_texture_filter_anisotropic")) return 1;
  GLfloat most = 1;
  glGetFloatv(GL_MAX_TEXTURE_MAX_ANISOTROPY_EXT, &most);
  return most;
}

Sampler::Sampler(const Sampling& sampling, std::string_view label) : name_(one(glCreateSamplers)) {
  const bool nearest = sampling.filter == Filter::nearest || sampling.filter == Filter::nearest_levels;
  const GLint larger = nearest ? GL_NEAREST : GL_LINEAR;
  const GLint smaller = sampling.filter == Filter::linear_levels    ? GL_LINEAR_MIPMAP_LINEAR
                        : sampling.filter == Filter::nearest_levels ? GL_NEAREST_MIPMAP_NEAREST
                                                                    : larger;
  const auto wrap_code = [](Wrap wrap) {
    return wrap == Wrap::clamp ? GL_CLAMP_TO_EDGE : wrap == Wrap::repeat ? GL_REPEAT : GL_MIRRORED_REPEAT;
  };
  glSamplerParameteri(name(), GL_TEXTURE_MIN_FILTER, smaller);
  glSamplerParameteri(name(), GL_TEXTURE_MAG_FILTER, larger);
  glSamplerParameteri(name(), GL_TEXTURE_WRAP_S, wrap_code(sampling.wrap_u));
  glSamplerParameteri(name(), GL_TEXTURE_WRAP_T, wrap_code(sampling.wrap_v));
  if (const float most = anisotropy_limit(); sampling.anisotropy > 1 && most > 1)
    glSamplerParameterf(name(), GL_TEXTURE_MAX_ANISOTROPY_EXT, std::min(sampling.anisotropy, most));
  name_.set_label(label);
}

Sampler Sampler::comparing(Compare compare, Filter filter, std::string_view label) {
  Sampler sampler(filter, Wrap::clamp, label);
  glSamplerParameteri(sampler.name(), GL_TEXTURE_COMPARE_MODE, GL_COMPARE_REF_TO_TEXTURE);
  glSamplerParameteri(sampler.name(), GL_TEXTURE_COMPARE_FUNC,
                      static_cast<GLint>(GL_NEVER + static_cast<GLenum>(compare)));
  return sampler;
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

VertexCapture::VertexCapture(const Buffer& into, std::size_t offset, std::size_t bytes, std::string_view label)
    : name_(one(glCreateTransformFeedbacks)) {
  into.expect_inside(offset, bytes);
  glTransformFeedbackBufferRange(name(), 0, into.name(), static_cast<GLintptr>(offset), static_cast<GLsizeiptr>(bytes));
  name_.set_label(label);
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
