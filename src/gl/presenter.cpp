#include <periscena/gl/presenter.h>

#include "gl/api.h"
#include "gl/new_names.h"
#include "gl/pixel_transfer.h"
#include "gl/saved_state.h"

#include <periscena/base/error.h>

#include <fmt/format.h>

#include <optional>

namespace periscena::gl {
namespace {

void expect_presentable(const Texture& picture) {
  const TextureDescription& is = picture.description();
  const FormatInfo& format = info(is.format);
  const char* fault = nullptr;
  if (!format.color() || format.integer()) fault = "no colours";
  if (is.samples > 1) fault = "several samples a pixel";
  if (is.shape != TargetShape::flat) fault = "several layers";
  if (!fault) return;
  throw Mistake("not-presentable", {}, fmt::format("a picture of {} with {} can't be shown", format.name, fault),
                "show the frame's output, or a flat target of colours that was resolved");
}

}  // namespace

Presenter::Presenter(Device& device) : device_(device), source_(one(glCreateFramebuffers)) {
  source_.set_label("presented");
}

void Presenter::present(const Texture& picture, const OutsideFramebuffer& into, const PixelRect& part,
                        const std::array<float, 4>& around) {
  expect_presentable(picture);
  State& state = device_.state();
  std::optional<SavedState> saved;
  if (device_.restores_state()) {
    saved.emplace();
    state.forget();
  }
  state.set_conventions();
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
  if (saved) state.forget();
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
