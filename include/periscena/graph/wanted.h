#pragma once

#include <periscena/scene/choice.h>

#include <memory>
#include <variant>

namespace periscena {

/// A read that must be a shadow map of a scene, of lights that light the pass.
struct WantsShadows {
  std::shared_ptr<const Scene> scene;
  ChosenNames lights;
};

/// A read that must be the part of a geometry buffer that its slot is named after, seen through the same view.
struct WantsGeometry {
  Reference view;
};

/// A read that must be motions in a view.
struct WantsMotion {
  enum class Since { any, last_frame };
  Reference view;
  Since since = Since::any;
};

/// What a read must be, asked of the passes that write it.
using Wanted = std::variant<std::monostate, WantsShadows, WantsGeometry, WantsMotion>;

}  // namespace periscena
