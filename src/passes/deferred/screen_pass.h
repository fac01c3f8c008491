#pragma once

#include "passes/described_kind.h"

#include <periscena/graph/frame_graph.h>

#include <filesystem>

namespace periscena::passes {

/// A part of a geometry buffer that a pass reads.
struct BufferPart {
  const char* slot;
  const char* define;  ///< of those that may be left out
  const char* sentence;
};

/// The same, and where a pass' options have it.
template <class Options>
struct PartOf {
  BufferPart part;
  TargetUse Options::*target;
};

/// What passes have in common that light each pixel of a geometry buffer.
struct ScreenPass {
  const char* kind;
  const char* shader;
  std::string name;
  std::shared_ptr<const Scene> scene;
  Reference view;
  LightNames lights;
  Reference environment, fog;
  std::vector<TargetUse> shadows;
  std::filesystem::path cache;
  batch::LightBounds bounds;
  std::vector<std::pair<BufferPart, TargetUse>> parts;  ///< `depth` first
  std::vector<Write> writes;
  std::vector<std::string> defines = {};
  bool every_sample = false;
  bool by_samples = false;  ///< are the buffer's samples looked at by themselves, where there are several?
};

/// Mistakes (a part that is not there or another's, another view) go into the pass' problems.
Pass screen_pass(const ScreenPass& options, Place place);

/// Has the plan tell when what a pass reads of a geometry buffer is another part of it, or was drawn through another
/// view.
void want_geometry(Read& read, const Reference& view, SampleReading samples = SampleReading::resolved);

/// The keys that they share.
template <class Options>
Keys<Options> screen_keys() {
  Keys<Options> keys;
  keys.key("view", &Options::view, {.required = true}, "The view that the geometry buffer was drawn through")
      .key("lights", &Options::lights, {}, lights_sentence)
      .key("shadows", &Options::shadows, {}, shadows_sentence)
      .key("light_bounds", &Options::light_bounds, {.choices = {"automatic", "none", "quads", "tiles"}},
           "How lights that reach only so far are kept to the pixels that they can reach; the picture is the same. "
           "none: each pixel asks every light; quads: each light is drawn over its rectangle, and added; tiles: each "
           "pixel asks the lights of its tile of 16 x 16, between the nearest and the farthest of what is there; "
           "automatic: tiles where eight lights or more have an end");
  return keys;
}

/// The parts of the geometry buffer that a kind reads.
template <class Options, std::size_t count>
std::vector<Slot<Options>> part_slots(const PartOf<Options> (&parts)[count]) {
  std::vector<Slot<Options>> slots;
  for (const auto& [part, target] : parts)
    slots.push_back({{part.slot, part.define == nullptr, part.sentence}, target});
  return slots;
}

}  // namespace periscena::passes
