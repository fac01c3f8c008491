#include "gl/api.h"
#include "gl/formats.h"
#include "gl/new_names.h"
#include "gl/pixel_transfer.h"

#include <periscena/base/error.h>
#include <periscena/gl/framebuffer.h>

#include <fmt/format.h>

#include <algorithm>
#include <array>

namespace periscena::gl {
namespace {

GLenum texture_target(const TextureDescription& d) {
  if (d.shape == TargetShape::cube) return GL_TEXTURE_CUBE_MAP;
  if (d.shape == TargetShape::array) return d.samples > 1 ? GL_TEXTURE_2D_MULTISAMPLE_ARRAY : GL_TEXTURE_2D_ARRAY;
  return d.samples > 1 ? GL_TEXTURE_2D_MULTISAMPLE : GL_TEXTURE_2D;
}

std::size_t bytes_of(const TextureDescription& d) {
  return static_cast<std::size_t>(d.width) * static_cast<std::size_t>(d.height) * static_cast<std::size_t>(d.layers) *
         static_cast<std::size_t>(d.samples) * static_cast<std::size_t>(info(d.format).bytes);
}

void expect_size(int width, int height, std::string_view label) {
  if (width >= 1 && height >= 1) return;
  throw Mistake("bad-size", {}, fmt::format("texture \"{}\" is {} x {} pixels", label, width, height),
                "both must be at least 1");
}

GLint level_parameter(GLuint texture, GLenum what) {
  GLint value = 0;
  glGetTextureLevelParameteriv(texture, 0, what, &value);
  return value;
}

}  // namespace

Texture::Texture(const TextureDescription& description, std::string_view label) : description_(description) {
  TextureDescription& d = description_;
  expect_size(d.width, d.height, label);
  if (d.shape == TargetShape::cube) d.layers = 6;
  GLint largest = 0;
  glGetIntegerv(GL_MAX_TEXTURE_SIZE, &largest);
  if (largest > 0 && std::max(d.width, d.height) > largest) {
    throw Mistake(
        "over-device-limit", {},
        fmt::format("texture \"{}\" is {} x {} pixels, over the {} of this device", label, d.width, d.height, largest),
        "make it smaller");
  }
  const GLenum target = texture_target(d);
  const GLenum internal = gl_format(d.format).internal;
  name_ = ObjectName<ObjectKind::texture>(one([&](GLsizei n, GLuint* name) { glCreateTextures(target, n, name); }));
  // Fixed places of the samples, so that textures and renderbuffers may stand in one framebuffer (OpenGL 4.5, 9.4.2).
  switch (target) {
    case GL_TEXTURE_2D_ARRAY: glTextureStorage3D(name(), d.levels, internal, d.width, d.height, d.layers); break;
    case GL_TEXTURE_2D_MULTISAMPLE:
      glTextureStorage2DMultisample(name(), d.samples, internal, d.width, d.height, GL_TRUE);
      break;
    case GL_TEXTURE_2D_MULTISAMPLE_ARRAY:
      glTextureStorage3DMultisample(name(), d.samples, internal, d.width, d.height, d.layers, GL_TRUE);
      break;
    default: glTextureStorage2D(name(), d.levels, internal, d.width, d.height);
  }
  expect_memory(bytes_of(d), label);
  if (d.samples > 1) d.samples = level_parameter(name(), GL_TEXTURE_SAMPLES);
  name_.set_label(label);
}

Texture Texture::view(const Texture& of, const TextureViewPart& part, std::string_view label) {
  Texture view;
  view.description_ = of.description_;
  TextureDescription& d = view.description_;
  d.format = part.format;
  const int first_level = part.level == all_levels ? 0 : part.level;
  const int first_layer = part.layer == all_layers ? 0 : part.layer;
  if (part.level != all_levels) {
    d.width = std::max(1, d.width >> part.level);
    d.height = std::max(1, d.height >> part.level);
    d.levels = 1;
  }
  if (part.layer != all_layers) {
    d.shape = TargetShape::flat;
    d.layers = 1;
  }
  if (part.as_array) d.shape = TargetShape::array;
  // A view wants a name that has never been bound: not one of glCreateTextures.
  view.name_ = ObjectName<ObjectKind::texture>(one(glGenTextures));
  glTextureView(view.name(), texture_target(d), of.name(), gl_format(d.format).internal,
                static_cast<GLuint>(first_level), static_cast<GLuint>(d.levels), static_cast<GLuint>(first_layer),
                static_cast<GLuint>(d.layers));
  view.name_.set_label(label);
  return view;
}

Texture Texture::adopt(std::uint32_t name, Place place) {
  if (!glIsTexture(name)) {
    throw Mistake("not-a-texture", std::move(place), fmt::format("{} is no texture of this context", name),
                  "hand over the name of a texture that has storage");
  }
  Texture adopted;
  adopted.name_ = ObjectName<ObjectKind::texture>::borrow(name);
  TextureDescription& d = adopted.description_;
  const auto format = format_of(static_cast<GLenum>(level_parameter(name, GL_TEXTURE_INTERNAL_FORMAT)));
  if (!format) {
    throw Mistake("unknown-format", std::move(place),
                  fmt::format("texture {} has the internal format 0x{:X}", name,
                              level_parameter(name, GL_TEXTURE_INTERNAL_FORMAT)),
                  "make it with one of the sized formats that `periscena device` lists");
  }
  d.format = *format;
  d.width = level_parameter(name, GL_TEXTURE_WIDTH);
  d.height = level_parameter(name, GL_TEXTURE_HEIGHT);
  d.samples = std::max(1, level_parameter(name, GL_TEXTURE_SAMPLES));
  GLint target = 0, levels = 1, immutable = GL_FALSE;
  glGetTextureParameteriv(name, GL_TEXTURE_TARGET, &target);
  glGetTextureParameteriv(name, GL_TEXTURE_IMMUTABLE_FORMAT, &immutable);
  if (immutable) glGetTextureParameteriv(name, GL_TEXTURE_IMMUTABLE_LEVELS, &levels);
  d.levels = levels;
  d.shape = target == GL_TEXTURE_CUBE_MAP                                                ? TargetShape::cube
            : target == GL_TEXTURE_2D_ARRAY || target == GL_TEXTURE_2D_MULTISAMPLE_ARRAY ? TargetShape::array
                                                                                         : TargetShape::flat;
  d.layers = d.shape == TargetShape::cube ? 6 : std::max(1, level_parameter(name, GL_TEXTURE_DEPTH));
  return adopted;
}

namespace {

void expect_one_sample(const TextureDescription& description) {
  if (description.samples > 1) {
    throw Mistake("multisampled", {}, "a multisampled texture can't be read back as it is", "resolve it first");
  }
}

}  // namespace

/// Pixels of one layer, as read() has them.
struct Texture::Region {
  int x = 0, y = 0, width = 1, height = 1;  ///< from the lower left
  int level = 0, layer = 0;
};

Format Texture::read_into(const Buffer& buffer, std::size_t offset, const Region& region) const {
  expect_one_sample(description_);
  const GlFormat format = gl_format(description_.format);
  const std::size_t bytes = static_cast<std::size_t>(region.width) * static_cast<std::size_t>(region.height) *
                            static_cast<std::size_t>(info(format.read_into).bytes);
  buffer.expect_inside(offset, bytes);
  const PlainPixelTransfer plain(true);
  glBindBuffer(GL_PIXEL_PACK_BUFFER, buffer.name());
  glGetTextureSubImage(name(), region.level, region.x, region.y, region.layer, region.width, region.height, 1,
                       format.read_as, format.read_type, static_cast<GLsizei>(bytes), reinterpret_cast<void*>(offset));
  glBindBuffer(GL_PIXEL_PACK_BUFFER, 0);
  return format.read_into;
}

Format Texture::read_pixel_into(const Buffer& buffer, std::size_t offset, int x, int y) const {
  return read_into(buffer, offset, {.x = x, .y = height() - 1 - y});
}

Format Texture::read_level_into(const Buffer& buffer, int level, int layer) const {
  return read_into(buffer, 0,
                   {.width = std::max(1, width() >> level),
                    .height = std::max(1, height() >> level),
                    .level = level,
                    .layer = layer});
}

std::size_t Texture::level_bytes(int level) const {
  const int pixels = std::max(1, width() >> level) * std::max(1, height() >> level);
  return static_cast<std::size_t>(pixels) * static_cast<std::size_t>(info(gl_format(format()).read_into).bytes);
}

Image Texture::read(int level, int layer, Aspect aspect) const {
  expect_one_sample(description_);
  GlFormat format = gl_format(description_.format);
  if (aspect == Aspect::stencil) format = gl_format(Format::stencil8);
  const int width = std::max(1, description_.width >> level), height = std::max(1, description_.height >> level);
  Image image(width, height, format.read_into);
  const PlainPixelTransfer plain(true);
  glGetTextureSubImage(name(), level, 0, 0, layer, width, height, 1, format.read_as, format.read_type,
                       static_cast<GLsizei>(image.bytes().size()), image.bytes().data());
  flip_rows(image);
  return image;
}

void Texture::upload(const Image& image, UploadPart part) const {
  const int w = std::max(1, width() >> part.level), h = std::max(1, height() >> part.level);
  const auto [x, y] = part.at.value_or(std::array{0, 0});
  const bool inside = x >= 0 && y >= 0 && image.width() <= w - x && image.height() <= h - y;
  if (!inside || (!part.at && (image.width() != w || image.height() != h))) {
    throw Mistake("size-mismatch", {},
                  fmt::format("an image of {} x {}{} for a texture of {} x {}", image.width(), image.height(),
                              part.at ? fmt::format(" at {}, {}", x, y) : "", w, h),
                  part.at ? "a part lies within the level: count from 0" : "resize one of them");
  }
  // Bytes are bytes, whether or not they are decoded from sRGB.
  GlFormat known = gl_format(format());
  const bool bytes_for_bytes =
      image.is_eight_bit() && info(known.read_into).bytes == info(image.format()).bytes && image.channels() == 4;
  if ((image.format() != known.read_into && !bytes_for_bytes) || !info(format()).color() || description_.samples > 1) {
    throw Mistake("image-format", {},
                  fmt::format("an image of {} for a texture of {}", to_string(image.format()), to_string(format())),
                  fmt::format("give it as {}", to_string(known.read_into)));
  }
  Image upside_down;
  const std::byte* rows = image.bytes().data();
  if (!part.top_first) {
    upside_down = image;
    flip_rows(upside_down);
    rows = upside_down.bytes().data();
  }
  const PlainPixelTransfer plain(false);
  if (description_.shape == TargetShape::flat) {
    glTextureSubImage2D(name(), part.level, x, y, image.width(), image.height(), known.read_as, known.read_type, rows);
  } else {
    glTextureSubImage3D(name(), part.level, x, y, part.layer, image.width(), image.height(), 1, known.read_as,
                        known.read_type, rows);
  }
}

void Texture::upload_levels(std::span<const Image> levels, UploadPart part) const {
  for (const Image& level : levels) {
    ++part.level;
    upload(level, part);
  }
}

void Texture::make_levels() const {
  glGenerateTextureMipmap(name());
}

void Texture::invalidate() const {
  for (int level = 0; level < description_.levels; ++level) glInvalidateTexImage(name(), level);
}

Renderbuffer::Renderbuffer(int width, int height, Format format, int samples, std::string_view label)
    : width_(width), height_(height), format_(format), samples_(samples) {
  expect_size(width, height, label);
  name_ = ObjectName<ObjectKind::renderbuffer>(one(glCreateRenderbuffers));
  glNamedRenderbufferStorageMultisample(name(), samples > 1 ? samples : 0, gl_format(format).internal, width, height);
  expect_memory(static_cast<std::size_t>(width) * static_cast<std::size_t>(height) * static_cast<std::size_t>(samples) *
                    static_cast<std::size_t>(info(format).bytes),
                label);
  if (samples > 1) glGetNamedRenderbufferParameteriv(name(), GL_RENDERBUFFER_SAMPLES, &samples_);
  name_.set_label(label);
}

}  // namespace periscena::gl
