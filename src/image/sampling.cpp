#include <periscena/image/sampling.h>

#include <algorithm>

namespace periscena {
namespace {

template <class Enum>
Enum parse(const std::vector<std::string>& names, const std::string& name) {
  return static_cast<Enum>(std::find(names.begin(), names.end(), name) - names.begin());
}

}  // namespace

const std::vector<std::string>& choices_of(Filter) {
  static const std::vector<std::string> names{"nearest", "linear", "linear_levels", "nearest_levels"};
  return names;
}

const std::vector<std::string>& choices_of(Wrap) {
  static const std::vector<std::string> names{"clamp", "repeat", "mirror"};
  return names;
}

Filter parse_filter(const std::string& name) {
  return parse<Filter>(choices_of(Filter()), name);
}

Wrap parse_wrap(const std::string& name) {
  return parse<Wrap>(choices_of(Wrap()), name);
}

}  // namespace periscena
