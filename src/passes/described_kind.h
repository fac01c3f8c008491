#pragma once

#include "passes/pass_checks.h"

#include <periscena/base/error.h>
#include <periscena/math/vector_keys.h>
#include <periscena/scene/environment.h>

#include <fmt/format.h>

#include <algorithm>
#include <functional>
#include <utility>
#include <vector>

namespace periscena {

/// Lights by their names or tags; left out, all of the scene.
template <>
struct KeyType<LightNames> {
  static std::string name() { return KeyType<std::vector<Reference>>::name(); }
  static std::string show(const LightNames&) { return ""; }
  static void read(const Value& value, const KeyInfo& info, LightNames& into, Diagnostics& diagnostics) {
    std::optional<std::vector<Reference>> names;
    KeyType<decltype(names)>::read(value, info, names, diagnostics);
    if (names) into = std::move(*names);
  }
};

/// Targets by their names.
template <>
struct KeyType<std::vector<TargetUse>> {
  static std::string name() { return KeyType<std::vector<Reference>>::name(); }
  static std::string show(const std::vector<TargetUse>&) { return ""; }
  static void read(const Value& value, const KeyInfo& info, std::vector<TargetUse>& into, Diagnostics& diagnostics) {
    std::vector<Reference> names;
    KeyType<decltype(names)>::read(value, info, names, diagnostics);
    into.assign(names.begin(), names.end());
  }
};

}  // namespace periscena

namespace periscena::passes {

/// A target that a kind of pass reads or writes, and where its options have it.
template <class Options>
struct Slot {
  SlotInfo info;
  TargetUse Options::*target;
};

/// A kind of pass, said once: its C++ options, their keys in frame files, its targets.
/// @tparam Options  a struct with a `name`, and a member for each slot and key; a `scene`, a `folder` and a `cache` are
/// the file's
template <class Options>
struct DescribedKind {
  const char* name;
  const char* sentence;
  const char* example;
  std::vector<Slot<Options>> reads, writes;
  Keys<Options> keys = {};
  std::function<Pass(const Options&, Place)> make;  ///< what C++ calls

  /// Fills in what no key says by itself, such as files by their paths. What it could not read it leaves empty.
  void (*read_more)(const PassSource&, Options&, Diagnostics&) = nullptr;
  bool own_reads = false;   ///< may read further targets, which read_more takes
  bool own_writes = false;  ///< may write further ones, which read_more takes
  std::vector<PassPart> parts = {};

  PassKind kind() const;
};

namespace detail {

/// Leaves out what is told of keys, targets, texts and sprites that are not there.
inline void drop_missing(Diagnostics& problems) {
  Diagnostics others;
  for (const Diagnostic& problem : problems) {
    if (problem.slug != "missing-key" && problem.slug != "no-text" && problem.slug != "no-sprites") others.add(problem);
  }
  problems = std::move(others);
}

/// What the file says of a place in a target goes to the read or write of the same name.
template <class Use>
void take_places(const std::vector<Use>& given, std::vector<Use>& uses) {
  for (Use& use : uses) {
    const auto said = std::find_if(given.begin(), given.end(), [&](const Use& one) { return one.slot == use.slot; });
    if (said == given.end()) continue;
    use.place = said->place;
    use.level = said->level;
    use.layer = said->layer;
    if constexpr (requires { use.history; }) {
      if (use.history == 0) use.history = said->history;
    }
  }
}

}  // namespace detail

template <class Options>
PassKind DescribedKind<Options>::kind() const {
  PassKind kind;
  kind.name = name;
  kind.sentence = sentence;
  kind.example = example;
  for (const Slot<Options>& slot : reads) kind.reads.push_back(slot.info);
  for (const Slot<Options>& slot : writes) kind.writes.push_back(slot.info);
  kind.own_reads = own_reads;
  kind.own_writes = own_writes;
  kind.keys = keys.infos();
  kind.parts = parts;
  kind.make = [said = *this](const PassSource& source) {
    Options options;
    Diagnostics problems;
    options.name = source.name.name;
    if constexpr (requires { options.scene; }) options.scene = source.scene;
    if constexpr (requires { options.folder; }) options.folder = source.folder;
    if constexpr (requires { options.cache; }) options.cache = default_cache();
    bool whole = said.keys.read(*source.table, fmt::format("pass \"{}\"", options.name), options, problems);
    const auto take = [&](const Slot<Options>& slot, const TargetUse* target) {
      if (target) options.*slot.target = *target;
      whole = whole && !(slot.info.required && (options.*slot.target).empty());
    };
    for (const Slot<Options>& slot : said.reads) take(slot, find_read(source, slot.info.name));
    for (const Slot<Options>& slot : said.writes) take(slot, find_write(source, slot.info.name));
    Diagnostics unreadable;
    if (said.read_more) said.read_more(source, options, unreadable);
    Pass pass = said.make(options, source.name.place);
    if (!whole || unreadable.has_errors()) detail::drop_missing(pass.problems);  // which was told already
    detail::take_places(source.reads, pass.reads);
    detail::take_places(source.writes, pass.writes);
    pass.problems.append(problems);
    pass.problems.append(unreadable);
    return pass;
  };
  return kind;
}

/// Reads GLSL of the user's own. @param path  empty: there is none
inline void read_glsl(const PassSource& source, const Reference& path, gl::ShaderText& into, Diagnostics& problems) {
  if (path.empty()) return;
  collect_mistakes(path.place, problems,
                   [&] { into = gl::ShaderText::file(source.folder / path.name, pass_shaders()); });
}

inline constexpr const char* view_sentence = "The view to look through";
inline constexpr const char* lights_sentence = "Lights, by their names or tags; left out, all of the scene";
inline constexpr const char* environment_sentence = "Light from all around; left out, none";
inline constexpr const char* fog_sentence = "Left out, none";
inline constexpr const char* shadows_sentence = "Targets that `shadow_map` passes have written, at most 4";

inline constexpr const char* tags_sentence =
    "Only objects that have one of these tags, or stand below one; left out, all";

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
           "Shadows fall on objects that have one of these tags, or stand below one; left out, on all")
      .key("without_receivers", &Options::without_receivers, {},
           "But not on those that have one of these, or stand below one");
}

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
