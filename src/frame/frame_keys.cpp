#include "frame/frame_keys.h"

#include <periscena/passes/kind.h>

namespace periscena {

const Keys<FrameKeys>& frame_keys() {
  static const auto keys = [] {
    Keys<FrameKeys> k;
    k.key("size", &FrameKeys::size, {.unit = "pixels", .minimum = 1}, "Width and height of the picture")
        .key("scene", &FrameKeys::scene, {},
             "A scene file (TOML) or a model (.glb, .gltf, .obj): a path from this file's folder. This file's own "
             "sections add to it")
        .key("view", &FrameKeys::view, {}, "The view of passes that name none")
        .key("lights", &FrameKeys::lights, {},
             "The lights of passes that name none, by their names or tags; left out, all of the scene")
        .key("environment", &FrameKeys::environment, {},
             "The environment of passes that name none; a pass says environment = \"\" to have none")
        .key("fog", &FrameKeys::fog, {}, "The fog of passes that name none; a pass says fog = \"\" to have none")
        .key("background", &FrameKeys::background, {.minimum = 0},
             "What shows where no pass draws: red, green, blue, linear")
        .key("history_steps", &FrameKeys::history_steps, {.minimum = 0, .maximum = 10000},
             "Where a pass reads earlier frames: how many of them are run before the one that is asked for")
        .key("history_rate", &FrameKeys::history_rate, {.unit = "frames a second", .minimum = 0, .above_minimum = true},
             "How fast those frames follow each other")
        .key("fuse", &FrameKeys::fuse, {},
             "true: passes become one where the picture stays the same: up to 16 over the whole picture that follow "
             "each "
             "other, of which each asks the pixel alone that it writes; and a sky with the surfaces drawn over it. "
             "capture, sheet and probe leave each by itself");
    return k;
  }();
  return keys;
}

const Keys<CommonPassKeys>& common_pass_keys() {
  static const auto keys = [] {
    Keys<CommonPassKeys> k;
    k.key("name", &CommonPassKeys::name, {.required = true}, "What it makes, in your words; unique")
        .key("kind", &CommonPassKeys::kind, {.required = true}, "What it does; the kinds are below")
        .key("reads", &CommonPassKeys::reads, {},
             "Targets that it samples: { name in its GLSL = \"target\" }, or { name = { target = \"…\", history = 1, "
             "level = 0, layer = 0, face = \"+x\" } } for a part, or for what it was frames ago")
        .key("writes", &CommonPassKeys::writes, {},
             "Targets that it draws into: { color = \"target\", depth = \"target\" }, or { color = { target = \"…\", "
             "level = 1, layer = 0, face = \"+x\" } } for a part")
        .key("when", &CommonPassKeys::when, {},
             "Only when [choice] goes this way: { lighting = \"deferred\" }, or one of several: { lighting = "
             "[\"forward\", \"deferred\"] }")
        .key("inside", &CommonPassKeys::inside, {},
             "A pass of kind opening, declared before: it draws in that window alone; left out, everywhere")
        .key(
            "scene", &CommonPassKeys::scene, {},
            "Another scene than the frame's for this pass: a scene file (TOML) or a model (.glb, .gltf, .obj), a path "
            "from this file's folder. Views, environments and fogs that it does not have are the frame's, at each time")
        .key("every", &CommonPassKeys::every, {.minimum = 1, .maximum = 1000},
             "It runs in every n-th frame, and what it wrote stays in between; a picture that is asked for alone has "
             "it as it is then");
    return k;
  }();
  return keys;
}

}  // namespace periscena
