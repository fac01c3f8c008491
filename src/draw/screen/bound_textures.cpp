#include "draw/screen/bound_textures.h"

namespace periscena::draw {

BoundTextures::BoundTextures(const gl::Program& program)
    : textures(program.interface().sampler_names().size()), samplers(textures.size()) {}

std::optional<std::size_t> BoundTextures::unit(const gl::Program& program, std::string_view name) const {
  if (!program.interface().find_uniform(name)) return std::nullopt;
  return static_cast<std::size_t>(program.sampler_unit(name));
}

std::optional<std::size_t> BoundTextures::put(const gl::Program& program, std::string_view name, std::uint32_t texture,
                                              std::uint32_t sampler) {
  const auto at = unit(program, name);
  if (!at) return std::nullopt;
  textures[*at] = texture;
  samplers[*at] = sampler;
  return at;
}

}  // namespace periscena::draw
