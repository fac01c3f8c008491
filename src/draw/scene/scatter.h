#pragma once

#include <periscena/gl/pass_work.h>
#include <periscena/gl/program.h>

#include <cstdint>
#include <span>
#include <vector>

namespace periscena::draw {

/// Writes elements of a buffer that lie far apart: they are sent close together, and a compute program puts them where
/// they belong. A copy for each would cost the driver more, and a copy over the gaps sends what is there already.
class Scatter {
 public:
  explicit Scatter(gl::Device& device);

  /// @param into  in one storage block; @param numbers  of the elements; none is there twice
  /// @param elements  as many; their size is a multiple of 16 bytes
  template <class Block>
  void write(const gl::PassContext& context, const gl::Buffer& into, std::span<const std::uint32_t> numbers,
             std::span<const Block> elements) {
    static_assert(sizeof(Block) % texel_bytes == 0);
    write_bytes(context, into, numbers, std::as_bytes(elements), sizeof(Block) / texel_bytes);
  }

 private:
  static constexpr std::size_t texel_bytes = 16;

  void write_bytes(const gl::PassContext& context, const gl::Buffer& into, std::span<const std::uint32_t> numbers,
                   std::span<const std::byte> elements, std::size_t texels_each);

  gl::Program program_;
  gl::Uniform<int> element_count_, texels_each_;
  gl::Buffer sent_, numbers_;
};

}  // namespace periscena::draw
