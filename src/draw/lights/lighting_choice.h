#pragma once

#include <periscena/scene/choice.h>

#include <filesystem>

namespace periscena::draw {

/// What lights a pass.
struct LightingChoice {
  ChosenNames lights;
  Reference environment = {};
  Reference fog = {};
  std::filesystem::path cache = {};
};

}  // namespace periscena::draw
