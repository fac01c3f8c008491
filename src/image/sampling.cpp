#include <periscena/image/sampling.h>

namespace periscena {

const std::vector<std::string>& choices_of(Filter) {
  static const std::vector<std::string> names{"nearest", "linear", "linear_levels", "nearest_levels"};
  return names;
}

const std::vector<std::string>& choices_of(Wrap) {
  static const std::vector<std::string> names{"clamp", "repeat", "mirror"};
  return names;
}

}  // namespace periscena
