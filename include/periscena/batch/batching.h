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

}  // namespace periscena::batch
