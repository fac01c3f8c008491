#include <periscena/scene/choice.h>

#include <periscena/scene/scene.h>
#include <periscena/scene/shadow_lookup.h>

#include <algorithm>

namespace periscena {

bool ChosenNames::contains(const std::string& name) const {
  return all_ || std::any_of(names_.begin(), names_.end(), [&](const Reference& one) { return one.name == name; });
}

std::vector<const Light*> chosen_lights(const Scene& scene, const ChosenNames& names) {
  std::vector<const Light*> chosen;
  for (const Light& light : scene.lights()) {
    const bool tagged =
        std::any_of(light.tags.begin(), light.tags.end(), [&](const std::string& tag) { return names.contains(tag); });
    if (tagged || names.contains(light.name)) chosen.push_back(&light);
  }
  return chosen;
}

std::vector<bool> chosen_objects(const Scene& scene, const ObjectChoice& choice) {
  const auto texts = [](const std::vector<Reference>& names) {
    std::vector<std::string> all;
    for (const Reference& name : names) all.push_back(name.name);
    return all;
  };
  Selection selection{{}, texts(choice.without_tags)};
  if (!choice.tags.all()) selection.tags = texts(choice.tags.names());
  std::vector<bool> chosen = scene.chosen(selection);
  if (const Variant* variant = scene.find_variant(choice.variant.name)) {
    const std::vector<bool> in_variant = scene.chosen(variant->objects);
    for (std::size_t i = 0; i < chosen.size(); ++i) chosen[i] = chosen[i] && in_variant[i];
  }
  return chosen;
}

const std::vector<std::string>& choices_of(Surfaces) {
  static const std::vector<std::string> names{"all", "opaque", "blended"};
  return names;
}

const std::vector<std::string>& choices_of(ShadowFilter) {
  static const std::vector<std::string> names{"linear", "gaussian", "disc", "contact"};
  return names;
}

}  // namespace periscena
