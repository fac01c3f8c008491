#pragma once

#include <periscena/scene/scene.h>

#include <map>
#include <string>

namespace osier_lock {

/// The textures of one stuff, as far as it has them.
struct Stuff {
  periscena::TextureHandle color, normal, surface;  ///< surface: red occlusion, green roughness, blue metallic
};

/// Adds all textures of the lock to a scene: brick, stone, oak, paint, ground, gravel, slate, and wear for metals.
std::map<std::string, Stuff> add_textures(periscena::Scene& scene);

}  // namespace osier_lock
