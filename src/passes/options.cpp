#include <periscena/passes/options.h>

namespace periscena::passes {

const std::vector<std::string>& choices_of(Culling) {
  static const std::vector<std::string> names{"host", "device"};
  return names;
}

const std::vector<std::string>& choices_of(LightBounds) {
  static const std::vector<std::string> names{"automatic", "none", "quads", "tiles", "clusters"};
  return names;
}

const std::vector<std::string>& choices_of(Surfaces) {
  static const std::vector<std::string> names{"all", "opaque", "blended"};
  return names;
}

}  // namespace periscena::passes
