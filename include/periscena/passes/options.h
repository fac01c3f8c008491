#pragma once

// What the options of several kinds of passes share.

#include <periscena/graph/read_write.h>

#include <initializer_list>
#include <memory>
#include <string>
#include <utility>
#include <vector>

namespace periscena {
struct Pass;
class Scene;
}  // namespace periscena

namespace periscena::passes {

struct PassKind;

/// Which lights a pass is lit by, by their names or tags.
///
///     .lights = {"sun", "towpath lamps"}
class LightNames {
 public:
  LightNames() = default;  ///< all of the scene
  LightNames(std::initializer_list<Reference> names) : names_(names), all_(false) {}
  LightNames(std::vector<Reference> names) : names_(std::move(names)), all_(false) {}  ///< none when it is empty

  bool all() const { return all_; }
  const std::vector<Reference>& names() const { return names_; }

 private:
  std::vector<Reference> names_;
  bool all_ = true;
};

/// Who leaves out what does not show.
enum class Culling {
  host,   ///< objects outside of the view
  device  ///< those, and objects that are hidden behind what was seen in the last frame
};
const std::vector<std::string>& choices_of(Culling);

/// How lights that reach only so far are kept to the pixels that they can reach. The picture is the same.
enum class LightBounds {
  automatic,
  none,     ///< each pixel asks every light
  quads,    ///< each light is drawn over the rectangle that it can reach, and what it gives is added
  tiles,    ///< each pixel asks those of its tile of the picture, between the nearest and the farthest of what is there
  clusters  ///< each pixel asks those of its cell: a tile of the picture, and a slice of distance
};
const std::vector<std::string>& choices_of(LightBounds);

/// Which surfaces a pass draws, by how their materials treat alpha.
enum class Surfaces {
  all,
  opaque,  ///< and masked
  blended
};
const std::vector<std::string>& choices_of(Surfaces);

}  // namespace periscena::passes
