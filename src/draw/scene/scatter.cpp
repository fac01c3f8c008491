#include "draw/scene/scatter.h"

#include "draw/shaders.h"

#include <periscena/gl/bindings.h>

#include <bit>

namespace periscena::draw {
namespace {

constexpr std::size_t group = 64;  // as the program has it

void make_room(gl::Buffer& buffer, std::size_t bytes, const char* label) {
  if (buffer.size() < bytes) buffer = gl::Buffer::writable(std::bit_ceil(bytes), label);
}

}  // namespace

Scatter::Scatter(gl::Device& device)
    : program_(device, {.name = "scatter", .compute = gl::ShaderText::embedded("periscena/scatter.comp", shaders())}),
      element_count_(program_.uniform<int>("element_count")),
      texels_each_(program_.uniform<int>("texels_each")) {}

void Scatter::write_bytes(const gl::PassContext& context, const gl::Buffer& into,
                          std::span<const std::uint32_t> numbers, std::span<const std::byte> elements,
                          std::size_t texels_each) {
  if (numbers.empty()) return;
  make_room(sent_, elements.size(), "sent elements");
  make_room(numbers_, numbers.size_bytes(), "numbers of sent elements");
  context.write(sent_, 0, elements);
  context.write(numbers_, 0, std::as_bytes(numbers));
  gl::State& state = context.state();
  program_.set(element_count_, static_cast<int>(numbers.size()));
  program_.set(texels_each_, static_cast<int>(texels_each));
  program_.use(state);
  state.bind_storage_block(gl::binding::scattered_storage, into.name());
  state.bind_storage_block(gl::binding::sent_storage, sent_.name());
  state.bind_storage_block(gl::binding::sent_number_storage, numbers_.name());
  context.barrier();  // frames before may still read what is written over
  context.compute(static_cast<std::uint32_t>((numbers.size() * texels_each + group - 1) / group));
}

}  // namespace periscena::draw
