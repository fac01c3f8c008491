#include "gl/api.h"
#include "gl/new_names.h"

#include <periscena/base/error.h>
#include <periscena/gl/framebuffer.h>

#include <fmt/format.h>

#include <algorithm>
#include <vector>

namespace periscena::gl {
namespace {

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

GLenum depth_point(Format format) {
  const FormatInfo& known = info(format);
  if (known.depth && known.stencil) return GL_DEPTH_STENCIL_ATTACHMENT;
  return known.stencil ? GL_STENCIL_ATTACHMENT : GL_DEPTH_ATTACHMENT;
}

void attach(GLuint framebuffer, GLenum point, const Attached& image) {
  if (image.renderbuffer) {
    glNamedFramebufferRenderbuffer(framebuffer, point, GL_RENDERBUFFER, image.name);
  } else if (image.layer == all_layers) {
    glNamedFramebufferTexture(framebuffer, point, image.name, image.level);
  } else {
    glNamedFramebufferTextureLayer(framebuffer, point, image.name, image.level, image.layer);
  }
}

std::string describe(const char* what, const Attached& image) {
  return fmt::format("{} is {} of {} x {}, {} sample{}", what, to_string(image.format), image.width, image.height,
                     image.samples, image.samples == 1 ? "" : "s");
}

}  // namespace

Attached::Attached(const Texture& texture, int mip_level, int array_layer)
    : name(texture.name()),
      format(texture.format()),
      width(std::max(1, texture.width() >> mip_level)),
      height(std::max(1, texture.height() >> mip_level)),
      samples(texture.description().samples),
      level(mip_level),
      layer(texture.description().shape == TargetShape::flat ? all_layers : array_layer) {}

Attached::Attached(const Renderbuffer& image)
    : name(image.name()),
      renderbuffer(true),
      format(image.format()),
      width(image.width()),
      height(image.height()),
      samples(image.samples()) {}

Framebuffer::Framebuffer(std::span<const Attached> colors, const std::optional<Attached>& depth, std::string_view label)
    : name_(one(glCreateFramebuffers)) {
  name_.set_label(label);
  std::vector<int> order;
  for (std::size_t i = 0; i < colors.size(); ++i) {
    attach(name(), GL_COLOR_ATTACHMENT0 + static_cast<GLenum>(i), colors[i]);
    order.push_back(static_cast<int>(i));
  }
  if (depth) attach(name(), depth_point(depth->format), *depth);
  route_outputs(order);
  if (colors.empty()) glNamedFramebufferReadBuffer(name(), GL_NONE);
  const GLenum status = glCheckNamedFramebufferStatus(name(), GL_DRAW_FRAMEBUFFER);
  if (status == GL_FRAMEBUFFER_COMPLETE) return;
  std::string attached;
  for (std::size_t i = 0; i < colors.size(); ++i)
    attached += describe(fmt::format("{}colour {}", i ? "; " : "", i).c_str(), colors[i]);
  if (depth) attached += describe(colors.empty() ? "depth" : "; depth", *depth);
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

void Framebuffer::clear_depth(float depth) const {
  glClearNamedFramebufferfv(name(), GL_DEPTH, 0, &depth);
}

}  // namespace periscena::gl
