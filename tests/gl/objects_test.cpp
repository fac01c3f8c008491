#include "gl/device.h"
#include "thrown.h"

#include <periscena/gl/buffer.h>
#include <periscena/gl/framebuffer.h>
#include <periscena/gl/query.h>
#include <periscena/gl/sampler.h>
#include <periscena/gl/texture.h>
#include <periscena/gl/vertex_array.h>

#include <epoxy/gl.h>

#include <cstring>

using namespace periscena;

namespace {

void clear_color(const gl::Framebuffer& framebuffer, int output, const float (&linear)[4]) {
  glClearNamedFramebufferfv(framebuffer.name(), GL_COLOR, output, linear);
}

void clear_depth(const gl::Framebuffer& framebuffer, float depth) {
  glClearNamedFramebufferfv(framebuffer.name(), GL_DEPTH, 0, &depth);
}

}  // namespace

TEST_CASE_METHOD(TestDevice, "objects are move-only and delete their names once") {
  std::uint32_t name = 0;
  {
    gl::Buffer buffer = gl::Buffer::writable(64, "a buffer");
    name = buffer.name();
    const gl::Buffer moved = std::move(buffer);
    REQUIRE(moved.name() == name);
    REQUIRE(glIsBuffer(name));
    gl::Buffer target = gl::Buffer::writable(16, "another");
    target = gl::Buffer::writable(32, "a third");
    REQUIRE(target.size() == 32);
  }
  REQUIRE_FALSE(glIsBuffer(name));
  static_assert(!std::is_copy_constructible_v<gl::Buffer> && !std::is_copy_constructible_v<gl::Texture>);
}

TEST_CASE_METHOD(TestDevice, "a buffer holds what was put in, and refuses what does not fit") {
  const gl::Buffer buffer = gl::Buffer::writable(16, "numbers");
  const float numbers[] = {1, 2};
  buffer.write(8, std::as_bytes(std::span(numbers)));
  float back[4] = {9, 9, 9, 9};
  glGetNamedBufferSubData(buffer.name(), 0, sizeof back, back);
  REQUIRE(back[0] == 0);  // zero at first
  REQUIRE(back[2] == 1);
  REQUIRE(back[3] == 2);
  REQUIRE(thrown_slug([&] { buffer.write(12, std::as_bytes(std::span(numbers))); }) == "outside-buffer");
  REQUIRE(thrown_slug([&] { buffer.write(static_cast<std::size_t>(-4), std::as_bytes(std::span(numbers))); }) ==
          "outside-buffer");
  REQUIRE(thrown_slug([] { gl::Buffer::holding({}, "none"); }) == "empty-buffer");
}

TEST_CASE_METHOD(TestDevice, "labels reach the driver, however long they are") {
  const gl::Buffer buffer = gl::Buffer::writable(4, std::string(1000, 'x'));
  char label[512] = {};
  glGetObjectLabel(GL_BUFFER, buffer.name(), sizeof label, nullptr, label);
  REQUIRE(std::strlen(label) == 255);
}

TEST_CASE_METHOD(TestDevice, "a texture gives back the image that was uploaded, row 0 at the top") {
  Image bytes(5, 3, Format::rgba8);
  for (std::size_t i = 0; i < bytes.bytes().size(); ++i) bytes.bytes()[i] = static_cast<std::byte>(i * 3);
  const gl::Texture texture(5, 3, Format::rgba8, "bytes");
  texture.upload(bytes);
  REQUIRE(texture.read() == bytes);
  // The API's first row is the bottom one.
  unsigned char first[4];
  glGetTextureSubImage(texture.name(), 0, 0, 0, 0, 1, 1, 1, GL_RGBA, GL_UNSIGNED_BYTE, 4, first);
  REQUIRE(first[0] == bytes.at(0, 2)[0]);
  Image floats(2, 2, Format::rg32f);
  const float values[] = {0.5f, -2, 1e6f, 3, 4, 5, 6, 7};
  std::memcpy(floats.bytes().data(), values, sizeof values);
  const gl::Texture float_texture(2, 2, Format::rg32f, "floats");
  float_texture.upload(floats);
  REQUIRE(float_texture.read() == floats);
  REQUIRE(thrown_slug([&] { texture.upload(floats); }) == "size-mismatch");
  for (const std::array<int, 2> at : {std::array{-1, 0}, {0, -1}, {texture.width(), 0}, {0, 2147483647}})
    REQUIRE(thrown_slug([&] { texture.upload(Image(1, 1, Format::rgba8), {.at = at}); }) == "size-mismatch");
  REQUIRE(thrown_slug([&] { gl::Texture(2, 2, Format::rgba8, "t").upload(floats); }) == "image-format");
  REQUIRE(thrown_slug([&] { gl::Texture(0, 2, Format::rgba8, "t"); }) == "bad-size");
}

TEST_CASE_METHOD(
    TestDevice,
    "reading back is not led astray by a bound pixel buffer or skipped rows, and leaves them as they were") {
  Image bytes(3, 2, Format::rgba8);
  for (std::size_t i = 0; i < bytes.bytes().size(); ++i) bytes.bytes()[i] = static_cast<std::byte>(i);
  const gl::Texture texture(3, 2, Format::rgba8, "t");
  const gl::Buffer foreign = gl::Buffer::writable(4096, "foreign");
  glBindBuffer(GL_PIXEL_PACK_BUFFER, foreign.name());
  glBindBuffer(GL_PIXEL_UNPACK_BUFFER, foreign.name());
  glPixelStorei(GL_PACK_ROW_LENGTH, 50);
  glPixelStorei(GL_UNPACK_SKIP_ROWS, 2);
  texture.upload(bytes);
  REQUIRE(texture.read() == bytes);
  GLint value = 0;
  glGetIntegerv(GL_PIXEL_PACK_BUFFER_BINDING, &value);
  REQUIRE(static_cast<GLuint>(value) == foreign.name());
  glGetIntegerv(GL_PACK_ROW_LENGTH, &value);
  REQUIRE(value == 50);
  glGetIntegerv(GL_UNPACK_SKIP_ROWS, &value);
  REQUIRE(value == 2);
}

TEST_CASE_METHOD(TestDevice, "a cleared framebuffer holds the clear values, encoded once where the format is sRGB") {
  glEnable(GL_FRAMEBUFFER_SRGB);
  const gl::Texture linear(4, 4, Format::rgba16f, "linear"), encoded(4, 4, Format::rgba8_srgb, "encoded"),
      depth(4, 4, Format::depth32f, "depth");
  const gl::Attached colors[] = {linear, encoded};
  const gl::Framebuffer framebuffer(colors, depth, "both");
  clear_color(framebuffer, 0, {0.25f, 2, -1, 1});
  clear_color(framebuffer, 1, {0.2140411f, 0, 1, 1});  // 0.214 in linear light is 0.5 in sRGB (IEC 61966-2-1)
  clear_depth(framebuffer, 0.75f);
  REQUIRE(linear.read().at(1, 1) == std::array<double, 4>{0.25f, 2, -1, 1});
  REQUIRE(encoded.read().at(3, 3)[0] == Approx(127.5).margin(1));
  REQUIRE(encoded.read().at(3, 3)[2] == 255);
  REQUIRE(depth.read().at(2, 0)[0] == 0.75f);
}

TEST_CASE_METHOD(TestDevice, "outputs can be routed to other attachments") {
  const gl::Texture a(2, 2, Format::rgba8, "a"), b(2, 2, Format::rgba8, "b");
  const gl::Attached colors[] = {a, b};
  const gl::Framebuffer framebuffer(colors, std::nullopt, "routed");
  clear_color(framebuffer, 0, {0, 0, 0, 0});
  const int swapped[] = {1, -1};
  framebuffer.route_outputs(swapped);
  clear_color(framebuffer, 0, {1, 1, 1, 1});
  REQUIRE(a.read().at(0, 0)[0] == 0);
  REQUIRE(b.read().at(0, 0)[0] == 255);
}

TEST_CASE_METHOD(TestDevice, "a framebuffer that the driver refuses is told with what is attached") {
  const gl::Texture depth_as_color(2, 2, Format::depth32f, "depth");
  const gl::Attached colors[] = {depth_as_color};
  const std::string text = thrown_text([&] { gl::Framebuffer(colors, std::nullopt, "wrong"); });
  REQUIRE_THAT(text, Catch::Contains("framebuffer-incomplete") && Catch::Contains("colour 0 is depth32f of 2 x 2"));
  complaints.clear();  // attaching it was the misuse under test
}

TEST_CASE_METHOD(TestDevice, "a timer query ends with a result") {
  const gl::TimerQuery query("timer");
  query.begin();
  query.end();
  const std::uint64_t nanoseconds = query.wait();
  REQUIRE(query.result_if_ready() == nanoseconds);
}

TEST_CASE_METHOD(TestDevice, "samplers filter and wrap as asked") {
  const gl::Sampler sampler(Filter::linear, Wrap::mirror, "s");
  GLint value = 0;
  glGetSamplerParameteriv(sampler.name(), GL_TEXTURE_WRAP_T, &value);
  REQUIRE(value == GL_MIRRORED_REPEAT);
  glGetSamplerParameteriv(sampler.name(), GL_TEXTURE_MIN_FILTER, &value);
  REQUIRE(value == GL_LINEAR);
}
