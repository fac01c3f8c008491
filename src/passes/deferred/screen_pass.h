#pragma once

#include "passes/fullscreen/lit_fullscreen.h"
#include "passes/shared_keys.h"

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

/// How a pass lights each pixel of a geometry buffer.
struct ScreenPass {
  gl::ShaderText shader;
  batch::LightBounds bounds;
  bool every_sample = false;
  SampleReading samples = SampleReading::resolved;  ///< of the buffer
  bool filters_may_follow = false;                  ///< is what it writes a picture, by one program?
};

/// Lights the pixels of the geometry buffer that a pass reads.
/// @param own  reads, writes and lighting of the pass
void light_pixels(const ScreenPass& how, const Fullscreen& own, Pass& pass);

/// The lines that tell a program which of the parts are there that may be left out.
template <class Options, std::size_t count>
std::vector<std::string> part_defines(const PartOf<Options> (&parts)[count], const Options& options) {
  std::vector<std::string> lines;
  for (const auto& [part, target] : parts) {
    if (part.define && !(options.*target).empty()) lines.push_back(std::string("#define ") + part.define);
  }
  return lines;
}

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
std::vector<ReadSlot<Options>> part_slots(const PartOf<Options> (&parts)[count]) {
  std::vector<ReadSlot<Options>> slots;
  for (const auto& [part, target] : parts)
    slots.push_back({{part.slot, part.define ? Need::optional : Need::required, part.sentence}, target});
  return slots;
}

}  // namespace periscena::passes
