#include "draw/screen/screen_program.h"

#include "draw/shaders.h"

#include <periscena/gl/bindings.h>

#include <fmt/format.h>

namespace periscena::draw {
namespace {

gl::ShaderText defining(const gl::ShaderText& fragment, std::vector<std::string> defines) {
  for (std::string& define : defines) define.insert(0, "#define ");
  return defines.empty() ? fragment : fragment.with_lines(std::move(defines));
}

}  // namespace

void OwnTarget::resize(int width, int height, Format format, const std::string& label) {
  if (fits(width, height) && texture_.format() == format) return;
  texture_ = gl::Texture(width, height, format, label);
  framebuffer_ = gl::Framebuffer(std::array{gl::Attached(texture_)}, std::nullopt, label);
  framebuffer_.route_outputs(std::array{0});
}

void OwnTarget::draw_into(gl::State& state) const {
  state.bind_draw_framebuffer(framebuffer_.name());
  state.set_viewport(texture_.width(), texture_.height());
}

ScreenProgram::ScreenProgram(gl::Device& device, const std::string& name, const gl::ShaderText& fragment,
                             std::vector<std::string> defines)
    : program_(device, {name, gl::ShaderText::embedded("periscena/fullscreen.vert", shaders()),
                        defining(fragment, std::move(defines))}),
      textures_(program_) {}

void ScreenProgram::draw(const gl::PassContext& context, const gl::PipelineState& how) const {
  gl::State& state = context.state();
  program_.use(state);
  textures_.bind(state);
  state.apply(how);
  context.draw_triangle();
}

void ScreenProgram::draw_output(const gl::PassContext& context) const {
  context.state().bind_draw_framebuffer(context.framebuffer());
  context.state().set_viewport(context.pass().width, context.pass().height);
  draw(context);
}

FiniteCheck::FiniteCheck(const gl::PassSetup& setup, std::string what)
    : pass_(setup.pass().name),
      what_(std::move(what)),
      place_(setup.pass().place()),
      counts_(gl::Buffer::writable(3 * sizeof(std::uint32_t), "pixels that are not finite")) {}

void FiniteCheck::bind(gl::State& state) const {
  state.bind_storage_block(gl::binding::finite_storage, counts_.name());
}

Diagnostics FiniteCheck::found() const {
  std::array<std::uint32_t, 3> counts{};
  counts_.read(0, std::as_writable_bytes(std::span(counts)));
  Diagnostics found;
  if (counts[0] != 0) {
    found.warning("not-finite-pixels", place_,
                  fmt::format("pass \"{}\" {}, such as at pixel {}, {} from the lower left; they spread no farther",
                              pass_, what_, counts[1], counts[2]),
                  "look for what makes them: probe the pixel, or capture the frame");
  }
  return found;
}

}  // namespace periscena::draw
