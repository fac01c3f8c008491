#pragma once

// What passes choose of a scene, by names and tags.

#include <periscena/base/reference.h>

#include <initializer_list>
#include <string>
#include <utility>
#include <vector>

namespace periscena {

class Scene;
struct Light;

/// Names or tags to choose by: all that there are, unless it is said which; an empty list chooses none.
///
///     .lights = {"sun", "towpath lamps"}
class ChosenNames {
 public:
  ChosenNames() = default;  ///< all
  ChosenNames(std::initializer_list<Reference> names) : names_(names), all_(false) {}
  ChosenNames(std::vector<Reference> names) : names_(std::move(names)), all_(false) {}
  static ChosenNames none() { return std::vector<Reference>(); }

  bool all() const { return all_; }
  const std::vector<Reference>& names() const { return names_; }
  bool contains(const std::string& name) const;  ///< by this name or tag

 private:
  std::vector<Reference> names_;
  bool all_ = true;
};

/// Those of a scene's lights that have one of the names or tags, in the order of the scene.
std::vector<const Light*> chosen_lights(const Scene& scene, const ChosenNames& names);

/// Which objects a pass draws: those that have one of `tags`, or stand below one (left out: all), but none that has or
/// stands below one of `without_tags`; as a variant dresses them.
struct ObjectChoice {
  ChosenNames tags = {};
  std::vector<Reference> without_tags = {};
  Reference variant = {};  ///< empty: the scene as it is
};

/// By node: is it chosen? A variant leaves out objects of its own.
std::vector<bool> chosen_objects(const Scene& scene, const ObjectChoice& choice);

/// Which surfaces a pass draws, by how their materials treat alpha.
enum class Surfaces {
  all,
  opaque,  ///< and masked
  blended
};
const std::vector<std::string>& choices_of(Surfaces);

}  // namespace periscena
