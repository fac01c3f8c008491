#include "gl/device.h"
#include "thrown.h"

#include <periscena/gl/upload_ring.h>

#include <epoxy/gl.h>

#include <random>

using namespace periscena;

namespace {

std::vector<std::byte> random_bytes(std::mt19937& dice, std::size_t count) {
  std::vector<std::byte> bytes(count);
  for (std::byte& one : bytes) one = static_cast<std::byte>(dice());
  return bytes;
}

std::vector<std::byte> contents(const gl::Buffer& buffer) {
  std::vector<std::byte> bytes(buffer.size());
  buffer.read(0, bytes);
  return bytes;
}

int asked = 0, unsignalled = 0;
decltype(epoxy_glClientWaitSync) real_wait = nullptr;

/// A device that is behind: each fence is passed only when it is waited for.
GLenum slow_wait(GLsync sync, GLbitfield flags, GLuint64 timeout) {
  ++asked;
  if (timeout == 0) {
    ++unsignalled;
    return GL_TIMEOUT_EXPIRED;
  }
  return real_wait(sync, flags, timeout);
}

struct SlowDevice {
  SlowDevice() {
    asked = unsignalled = 0;
    // An entry point replaces itself by the driver's when it is first called.
    const GLsync fence = glFenceSync(GL_SYNC_GPU_COMMANDS_COMPLETE, 0);
    glClientWaitSync(fence, GL_SYNC_FLUSH_COMMANDS_BIT, 1'000'000'000);
    glDeleteSync(fence);
    real_wait = epoxy_glClientWaitSync;
    epoxy_glClientWaitSync = &slow_wait;
  }
  ~SlowDevice() { epoxy_glClientWaitSync = real_wait; }
};

}  // namespace

TEST_CASE_METHOD(TestDevice, "what goes through the ring arrives, over many frames and sizes") {
  std::mt19937 dice(3);
  gl::UploadRing ring(1024);
  const gl::Buffer buffer = gl::Buffer::writable(40000, "target");
  std::vector<std::byte> expected(40000);
  for (int frame = 0; frame < 60; ++frame) {
    for (int i = 0; i < 5; ++i) {
      const std::size_t bytes = dice() % (frame < 20 ? 200 : 3000), at = dice() % (expected.size() - bytes);
      const auto sent = random_bytes(dice, bytes);
      ring.write(buffer, at, sent);
      std::copy(sent.begin(), sent.end(), expected.begin() + static_cast<std::ptrdiff_t>(at));
    }
    ring.next_frame();
    REQUIRE(contents(buffer) == expected);
  }
}

TEST_CASE_METHOD(TestDevice, "the ring grows to the next power of two of what a frame sends, and stays") {
  std::mt19937 dice(3);
  gl::UploadRing ring(1024);
  const gl::Buffer buffer = gl::Buffer::writable(10000, "target");
  CHECK(ring.part_bytes() == 0);
  ring.write(buffer, 0, random_bytes(dice, 1000));
  CHECK(ring.part_bytes() == 1024);
  ring.write(buffer, 0, random_bytes(dice, 1000));  // 1008, as writes are kept apart by 16, and 1000
  CHECK(ring.part_bytes() == 2048);
  ring.next_frame();
  ring.write(buffer, 0, random_bytes(dice, 2049));
  CHECK(ring.part_bytes() == 4096);
  ring.next_frame();
  for (int frame = 0; frame < 10; ++frame) {
    ring.write(buffer, 0, random_bytes(dice, 4000));
    ring.next_frame();
  }
  CHECK(ring.part_bytes() == 4096);
  CHECK(thrown_slug([&] { ring.write(buffer, 9999, random_bytes(dice, 2)); }) == "outside-buffer");
  ring.write(buffer, 10000, {});
}

TEST_CASE_METHOD(TestDevice,
                 "a part is written again only when its fence is passed, and frames that send nothing have none") {
  std::mt19937 dice(3);
  gl::UploadRing ring(1024);
  const gl::Buffer buffer = gl::Buffer::writable(1000, "target");
  const SlowDevice slow;
  for (int frame = 0; frame < 3; ++frame) {
    ring.write(buffer, 0, random_bytes(dice, 900));
    ring.next_frame();
  }
  CHECK(asked == 0);  // three parts, none of them used before
  for (int frame = 0; frame < 100; ++frame) ring.next_frame();
  CHECK(asked == 0);
  std::vector<std::byte> last;
  for (int frame = 0; frame < 5; ++frame) {
    last = random_bytes(dice, 1000);
    ring.write(buffer, 0, last);
    ring.next_frame();
  }
  CHECK(unsignalled == 5);
  CHECK(asked == 10);
  CHECK(ring.waits() == 5);
  CHECK(contents(buffer) == last);
}
