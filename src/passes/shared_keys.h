#pragma once

// What the declarations of kinds share: sentences, keys that several have, and readers of what is no plain key.

#include "passes/pass_checks.h"

#include <periscena/base/error.h>
#include <periscena/math/vector_keys.h>
#include <periscena/passes/kind.h>

namespace periscena::passes {

/// What a key that is read elsewhere says, as a name with its place; empty when it says nothing, or no text.
/// @param need  is it a mistake when it is empty?
Reference text_of(const PassSource& source, const char* key, Diagnostics& problems, Need need = Need::optional);

/// Reads GLSL of the user's own, by the path that a key says.
void read_glsl(const PassSource& source, const char* key, gl::ShaderText& into, Diagnostics& problems,
               Need need = Need::required);

inline constexpr const char* view_sentence = "The view to look through";
inline constexpr const char* lights_sentence = "Lights, by their names or tags; left out, all of the scene; [], none";
inline constexpr const char* environment_sentence = "Light from all around; left out, none";
inline constexpr const char* fog_sentence = "Left out, none";
inline constexpr const char* shadows_sentence = "Targets that `shadow_map` passes have written, at most 4";

inline constexpr const char* tags_sentence =
    "Only objects that have one of these tags, or stand below one; left out, all; [], none";

/// The keys of passes that choose among a scene's objects.
template <class Options>
Keys<Options>& add_object_keys(Keys<Options>& keys, const char* what_tags_do = tags_sentence) {
  return keys.key("tags", &Options::tags, {}, what_tags_do)
      .key("without_tags", &Options::without_tags, {}, "But not those that have one of these, or stand below one")
      .key("variant", &Options::variant, {}, "The scene in another dress");
}

/// The keys of passes that draw objects on which shadows fall.
template <class Options>
Keys<Options>& add_receiver_keys(Keys<Options>& keys) {
  return keys
      .key("receivers", &Options::receivers, {},
           "Shadows fall on objects that have one of these tags, or stand below one; left out, on all; [], on none")
      .key("without_receivers", &Options::without_receivers, {},
           "But not on those that have one of these, or stand below one");
}

inline constexpr const char* programs_sentence =
    "Shader programs that draw the surfaces. families: one program per family of materials, without the code that none "
    "of "
    "them needs; general: one program for all materials; automatic: families, up to 12 of them, else general. The "
    "picture is the same except for rounding";
inline constexpr const char* batching_sentence =
    "How draws become calls; the picture is the same. unmerged: a call for each run of draws that differ in nothing "
    "but mesh and object, equal meshes in it as instances; automatic: that, but objects of few triangles that stand "
    "still are baked into few meshes first where there are many, as this is faster; merged: all that stand still, "
    "which takes memory of its own; commands: as unmerged, without instances; instances: a call for each group of "
    "equal meshes; one_by_one: a call for each object";
inline constexpr const char* depth_first_sentence =
    "true: the depth of all that is solid is drawn before anything else, so that what others hide is not shaded. Each "
    "call goes out twice, so it pays where many surfaces lie behind one another and are dear to shade; the picture is "
    "the same";

}  // namespace periscena::passes
