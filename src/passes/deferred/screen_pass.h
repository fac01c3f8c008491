#pragma once

#include "passes/pass_kind.h"

#include <periscena/graph/frame_graph.h>

#include <algorithm>
#include <filesystem>
#include <optional>

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
  TargetUse Options::* target;
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
  LightBounds bounds;
  std::vector<std::pair<BufferPart, TargetUse>> parts;  ///< `depth` first
  std::vector<Write> writes;
  std::vector<std::string> defines = {};
  bool every_sample = false;
  bool by_samples = false;  ///< are the buffer's samples looked at by themselves, where there are several?
};

/// Mistakes (a part that is not there or another's, another view) go into the pass' problems.
Pass screen_pass(const ScreenPass& options, Place place);

/// Has the plan tell when what a pass reads of a geometry buffer is another part of it, or was drawn through another view.
void expect_same_buffer(Pass& pass, const Reference& view);

/// The keys that they share.
struct ScreenKeys {
  Reference view;
  std::optional<std::vector<Reference>> lights;
  std::vector<Reference> shadows;
  std::string light_bounds = "automatic";
};

/// @tparam Given  ScreenKeys, or what has more
template <class Given>
void add_screen_keys(Keys<Given>& keys) {
  keys.key("view", static_cast<Reference Given::*>(&ScreenKeys::view), {.required = true}, "The view that the geometry buffer was drawn through")
      .key("lights", static_cast<std::optional<std::vector<Reference>> Given::*>(&ScreenKeys::lights), {},
           "Lights, by their names or tags; left out, all of the scene")
      .key("shadows", static_cast<std::vector<Reference> Given::*>(&ScreenKeys::shadows), {},
           "Targets that `shadow_map` passes have written, at most 4")
      .key("light_bounds", static_cast<std::string Given::*>(&ScreenKeys::light_bounds), {.choices = screen_bounds_names},
           screen_bounds_sentence);
}

/// Fills what they share in a pass' options.
template <class Options>
void take_screen_keys(const PassSource& source, const ScreenKeys& given, Options& options) {
  options.name = source.name.name;
  options.scene = source.scene;
  options.view = given.view;
  if (given.lights) options.lights = *given.lights;
  for (const Reference& shadow : given.shadows) options.shadows.emplace_back(shadow);
  options.light_bounds = parse_bounds(given.light_bounds);
}

/// Fills the parts of the geometry buffer in. @return are all there that must be?
template <class Options, std::size_t count>
bool take_parts(const PassSource& source, const PartOf<Options> (&parts)[count], Options& options) {
  bool whole = true;
  for (const auto& [part, target] : parts) {
    if (const TargetUse* read = find_read(source, part.slot)) options.*target = *read;
    whole = whole && (part.define || !(options.*target).empty());
  }
  return whole;
}

}  // namespace periscena::passes
