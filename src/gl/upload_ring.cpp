#include "gl/api.h"

#include <periscena/gl/upload_ring.h>

#include "gl/sync.h"

#include <bit>
#include <cstring>

namespace periscena::gl {
namespace {

constexpr std::size_t aligned(std::size_t bytes) {
  return (bytes + 15) / 16 * 16;
}

}  // namespace

UploadRing::~UploadRing() {
  drop_fences();
}

void UploadRing::drop_fences() {
  for (void*& fence : fences_) {
    if (fence) glDeleteSync(sync_of(fence));
    fence = nullptr;
  }
}

void UploadRing::grow(std::size_t needed) {
  // Copies out of the old buffer that are under way keep its memory (OpenGL 4.5, 5.1.3).
  drop_fences();
  part_bytes_ = std::bit_ceil(std::max(least_, needed));
  buffer_ = Buffer::mapped(part_bytes_ * part_count, "what the CPU sends", mapped_);
  part_ = used_ = 0;
  ready_ = true;
}

void UploadRing::wait_for_part() {
  ready_ = true;
  void*& fence = fences_[part_];
  if (!fence) return;
  constexpr GLuint64 second = 1'000'000'000;
  GLenum answer = glClientWaitSync(sync_of(fence), 0, 0);
  if (answer == GL_TIMEOUT_EXPIRED) ++waits_;
  while (answer == GL_TIMEOUT_EXPIRED) answer = glClientWaitSync(sync_of(fence), GL_SYNC_FLUSH_COMMANDS_BIT, second);
  glDeleteSync(sync_of(fence));
  fence = nullptr;
}

void UploadRing::write(const Buffer& into, std::size_t offset, std::span<const std::byte> bytes) {
  into.expect_inside(offset, bytes.size());
  if (bytes.empty()) return;
  if (!ready_ && part_bytes_ > 0) wait_for_part();
  if (used_ + bytes.size() > part_bytes_) grow(used_ + bytes.size());
  const std::size_t from = part_ * part_bytes_ + used_;
  std::memcpy(mapped_ + from, bytes.data(), bytes.size());
  glCopyNamedBufferSubData(buffer_.name(), into.name(), static_cast<GLintptr>(from), static_cast<GLintptr>(offset),
                           static_cast<GLsizeiptr>(bytes.size()));
  used_ += aligned(bytes.size());
}

void UploadRing::next_frame() {
  if (used_ == 0) return;
  fences_[part_] = glFenceSync(GL_SYNC_GPU_COMMANDS_COMPLETE, 0);
  part_ = (part_ + 1) % part_count;
  used_ = 0;
  ready_ = false;
}

}  // namespace periscena::gl
