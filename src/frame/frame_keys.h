#pragma once

#include <periscena/base/keys.h>
#include <periscena/scene/choice.h>

#include <array>

namespace periscena {

/// [frame]
struct FrameKeys {
  std::array<int, 2> size{1280, 720};
  Reference scene, view, environment, fog;
  ChosenNames lights;
  std::array<float, 3> background{0, 0, 0};
  int history_steps = 60;
  float history_rate = 60;
  bool fuse = true;
};

const Keys<FrameKeys>& frame_keys();

/// What all kinds of passes have.
struct CommonPassKeys {
  Reference name, kind, inside, scene;
  Value reads, writes, when;
  int every = 1;
};

const Keys<CommonPassKeys>& common_pass_keys();

}  // namespace periscena
