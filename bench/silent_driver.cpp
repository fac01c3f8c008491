#include "silent_driver.h"

#include <epoxy/gl.h>

#include <array>

namespace {

// Everything that either twin calls in a steady frame. A call that is missing here would show as driver instructions.
// clang-format off
#define PERISCENA_FRAME_CALLS(X) \
  X(glBindBuffer) X(glBindBufferBase) X(glBindBufferRange) X(glBindFramebuffer) X(glBindSampler) \
  X(glBindTextureUnit) X(glBindVertexArray) X(glBlendEquation) X(glBlendFunc) X(glClearNamedFramebufferfv) \
  X(glClipControl) X(glColorMask) X(glCullFace) X(glDepthFunc) X(glDepthMask) X(glDisable) X(glDrawArrays) \
  X(glEnable) X(glFrontFace) X(glMultiDrawElementsIndirect) X(glNamedBufferSubData) X(glPolygonMode) \
  X(glPolygonOffset) X(glPopDebugGroup) X(glPushDebugGroup) X(glStencilFunc) X(glStencilMask) X(glStencilOp) \
  X(glUseProgram) X(glViewport) X(glProgramUniform1f) X(glInvalidateNamedFramebufferData) X(glInvalidateTexImage) \
  X(glBindTextures) X(glBindSamplers) X(glBlitNamedFramebuffer) X(glProgramUniformMatrix4fv) \
  X(glProgramUniformMatrix3fv) X(glDrawElementsBaseVertex) X(glDispatchCompute) X(glMemoryBarrier) \
  X(glProgramUniform2fv) X(glCopyNamedBufferSubData) X(glFenceSync) X(glClientWaitSync) X(glDeleteSync) \
  X(glProgramUniform1i) X(glBindImageTexture) X(glDrawArraysInstanced) X(glBeginTransformFeedback) \
  X(glEndTransformFeedback) X(glBindTransformFeedback) X(glProgramUniform4fv) X(glProgramUniform4iv) \
  X(glDrawElements) X(glDrawElementsInstanced) X(glTextureSubImage2D)
// clang-format on

enum Index {
#define PERISCENA_INDEX(name) index_##name,
  PERISCENA_FRAME_CALLS(PERISCENA_INDEX)
#undef PERISCENA_INDEX
      call_count
};

std::array<std::uint64_t, call_count> counts{};

std::array<void (*)(), call_count> awake{};

template <int index, class Result, class... Arguments>
Result count_only(Arguments...) {
  ++counts[index];
  return Result();  // no fence
}

template <int index, class Result, class... Arguments>
void silence(Result (*&entry)(Arguments...)) {
  awake[index] = reinterpret_cast<void (*)()>(entry);
  entry = &count_only<index, Result, Arguments...>;
}

template <int index, class Result, class... Arguments>
void wake(Result (*&entry)(Arguments...)) {
  entry = reinterpret_cast<Result (*)(Arguments...)>(awake[index]);
}

}  // namespace

void silence_driver() {
#define PERISCENA_SILENCE(name) silence<index_##name>(epoxy_##name);
  PERISCENA_FRAME_CALLS(PERISCENA_SILENCE)
#undef PERISCENA_SILENCE
}

void wake_driver() {
#define PERISCENA_WAKE(name) wake<index_##name>(epoxy_##name);
  PERISCENA_FRAME_CALLS(PERISCENA_WAKE)
#undef PERISCENA_WAKE
}

std::vector<CallCount> silent_calls() {
  static const char* const names[] = {
#define PERISCENA_NAME(name) #name,
      PERISCENA_FRAME_CALLS(PERISCENA_NAME)
#undef PERISCENA_NAME
  };
  std::vector<CallCount> made;
  for (int i = 0; i < call_count; ++i) {
    if (counts[static_cast<std::size_t>(i)]) made.push_back({names[i], counts[static_cast<std::size_t>(i)]});
  }
  return made;
}

void reset_silent_calls() {
  counts.fill(0);
}
