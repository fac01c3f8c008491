#pragma once

#include <periscena/base/keys.h>
#include <periscena/graph/frame_graph.h>
#include <periscena/scene/scene.h>

#include <filesystem>
#include <string>
#include <vector>

namespace periscena {

/// A section of frame files, for the reference page.
struct SectionInfo {
  std::string heading;  ///< "[target.NAME]"
  std::string sentence;
  std::vector<KeyInfo> keys;
  std::string example;
};

/// Reads the sections that make a scene into `scene`. Names of meshes, materials and parents are looked up in what is
/// there already, so a frame file adds to its scene file.
void read_scene_sections(const Value& root, Scene& scene, Diagnostics& diagnostics);

/// The part of it that reads [[object]]s, with their transforms and motions.
void read_objects(const Value& root, Scene& scene, Diagnostics& diagnostics);
std::vector<SectionInfo> object_sections();

/// "mesh", "material", "light", "view", "object".
const std::vector<std::string>& scene_section_names();
std::vector<SectionInfo> scene_sections();
std::vector<SectionInfo> frame_sections();

/// The members of a section such as [target.…], reported when it is no table of tables.
std::vector<const ValueMember*> named_tables(const Value& root, const std::string& section, Diagnostics& diagnostics);

/// The items of a section such as [[pass]].
std::vector<const Value*> listed_tables(const Value& root, const std::string& section, Diagnostics& diagnostics);

/// Runs something that throws mistakes, and keeps them with a place in the file instead of the one they came with.
template <class Action>
void collect_mistakes(const Place& place, Diagnostics& diagnostics, Action action) {
  try {
    action();
  } catch (const Error& error) {
    for (Diagnostic diagnostic : error.diagnostics()) {
      diagnostic.place = place;
      diagnostics.add(std::move(diagnostic));
    }
  }
}

}  // namespace periscena
