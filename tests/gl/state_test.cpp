#include "gl/device.h"

#include <periscena/gl/buffer.h>
#include <periscena/gl/state.h>

#include <epoxy/gl.h>

using namespace periscena;

TEST_CASE_METHOD(TestDevice, "a pipeline state arrives at the driver whole, and a second time not at all") {
  gl::State& state = device.state();
  state.forget();
  gl::PipelineState wanted;
  wanted.depth = {true, true, gl::Compare::less_or_equal};
  wanted.cull = gl::CullFaces::front;
  wanted.clockwise_front = true;
  wanted.blend = {true, gl::BlendFactor::source_alpha, gl::BlendFactor::one};
  wanted.stencil = {true,
                    gl::Compare::not_equal,
                    5,
                    0x0F,
                    0xF0,
                    gl::StencilAction::invert,
                    gl::StencilAction::zero,
                    gl::StencilAction::replace};
  wanted.offset = {1.5f, -2};
  wanted.write = {true, false, true, false};
  state.apply(wanted);
  const auto integer = [](GLenum what) {
    GLint value = 0;
    glGetIntegerv(what, &value);
    return static_cast<GLenum>(value);
  };
  REQUIRE(glIsEnabled(GL_DEPTH_TEST));
  REQUIRE(integer(GL_DEPTH_FUNC) == GL_LEQUAL);
  REQUIRE(integer(GL_CULL_FACE_MODE) == GL_FRONT);
  REQUIRE(integer(GL_FRONT_FACE) == GL_CW);
  REQUIRE(integer(GL_BLEND_SRC_RGB) == GL_SRC_ALPHA);
  REQUIRE(integer(GL_BLEND_DST_ALPHA) == GL_ONE);
  REQUIRE(integer(GL_STENCIL_FUNC) == GL_NOTEQUAL);
  REQUIRE(integer(GL_STENCIL_BACK_WRITEMASK) == 0xF0);
  REQUIRE(integer(GL_STENCIL_FAIL) == GL_INVERT);
  REQUIRE(integer(GL_STENCIL_PASS_DEPTH_PASS) == GL_REPLACE);
  GLboolean mask[4];
  glGetBooleanv(GL_COLOR_WRITEMASK, mask);
  REQUIRE(mask[0] == GL_TRUE);
  REQUIRE(mask[1] == GL_FALSE);
  GLfloat factor = 0;
  glGetFloatv(GL_POLYGON_OFFSET_FACTOR, &factor);
  REQUIRE(factor == 1.5f);
  const auto sent = state.sent();
  state.apply(wanted);
  REQUIRE(state.sent() == sent);
  state.apply({});
  REQUIRE_FALSE(glIsEnabled(GL_DEPTH_TEST));
  REQUIRE_FALSE(glIsEnabled(GL_STENCIL_TEST));
  REQUIRE_FALSE(glIsEnabled(GL_BLEND));
}

TEST_CASE_METHOD(TestDevice, "bindings are sent once, and again after somebody else was there") {
  gl::State& state = device.state();
  const gl::Buffer buffer = gl::Buffer::writable(1024, "b");
  state.forget();
  state.bind_uniform_block(3, buffer.name(), 0, 256);
  state.bind_uniform_block(3, buffer.name(), 0, 256);
  state.set_viewport(3, 4);
  state.set_viewport(3, 4);
  REQUIRE(state.skipped() == 2);
  glViewport(0, 0, 99, 99);
  state.forget();
  state.set_viewport(3, 4);
  GLint viewport[4];
  glGetIntegerv(GL_VIEWPORT, viewport);
  REQUIRE(viewport[2] == 3);
  state.bind_uniform_block(3, buffer.name(), 256, 256);
  GLint64 start = 0;
  glGetInteger64i_v(GL_UNIFORM_BUFFER_START, 3, &start);
  REQUIRE(start == 256);
}

TEST_CASE_METHOD(TestDevice, "clears are not held back by masks that the last draw left shut") {
  gl::State& state = device.state();
  state.forget();
  gl::PipelineState shut;
  shut.write = {false, false, false, false};
  state.apply(shut);
  state.open_write_masks(true, true, true);
  GLboolean mask[4], depth = GL_FALSE;
  glGetBooleanv(GL_COLOR_WRITEMASK, mask);
  glGetBooleanv(GL_DEPTH_WRITEMASK, &depth);
  REQUIRE((mask[0] && mask[1] && mask[2] && mask[3] && depth));
}
