#pragma once

#include <string>
#include <vector>

namespace periscena::batch {

/// How draws become calls. The pictures are the same.
enum class Batching {
  automatic,   ///< as unmerged, but small objects that stand still are merged where there are many: see MergeLimits
  unmerged,    ///< one call for each run, a command for each group of equal meshes in it: the fewest of both
  commands,    ///< one call for each run, a command for each object
  instances,   ///< a call for each group of equal meshes
  one_by_one,  ///< a call for each object
  merged       ///< all that stands still as few meshes, the rest as unmerged; see merged()
};
const std::vector<std::string>& choices_of(Batching);  ///< their names

/// Who leaves out what does not show. The pictures are the same.
enum class Culling {
  host,   ///< objects outside of the view
  device  ///< those, and objects that are hidden behind what was seen in the last frame
};
const std::vector<std::string>& choices_of(Culling);

/// Shader programs that draw surfaces. The pictures are the same except for rounding.
enum class Programs {
  automatic,  ///< families, up to 12 of them, else general
  families,   ///< one program per family of materials, without the code that none of them needs
  general     ///< one program for all materials
};
const std::vector<std::string>& choices_of(Programs);

/// How lights that reach only so far are kept to the pixels that they can reach. The pictures are the same.
enum class LightBounds {
  automatic,
  none,     ///< each pixel asks every light
  quads,    ///< each light is drawn over the rectangle that it can reach, and what it gives is added
  tiles,    ///< each pixel asks those of its tile of the picture, between the nearest and the farthest of what is there
  clusters  ///< each pixel asks those of its cell: a tile of the picture, and a slice of distance
};
const std::vector<std::string>& choices_of(LightBounds);

}  // namespace periscena::batch
