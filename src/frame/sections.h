#pragma once

#include <periscena/base/error.h>
#include <periscena/base/keys.h>
#include <periscena/base/names.h>
#include <periscena/graph/frame_graph.h>
#include <periscena/image/picture_reader.h>
#include <periscena/math/vector_keys.h>
#include <periscena/model/model.h>
#include <periscena/scene/scene_model.h>

#include <fmt/format.h>

#include <filesystem>
#include <functional>
#include <map>
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

/// What the sections of a scene are read with.
struct SceneSource {
  std::filesystem::path folder;  ///< that paths start from which no file said
  PictureReader& pictures;
  float aspect = 16.0f / 9;  ///< width by height of the picture that views are fitted for

  /// Are meshes only checked, not made?
  bool outlines() const { return pictures.pixels() == Pixels::left_out; }
};

/// The models of a scene by the names of their sections. One that can't be read is there without anything in it.
using Models = std::map<std::string, SceneModel, std::less<>>;

/// @param import  reads the model of a path
Models read_models(const Value& root, const std::filesystem::path& folder,
                   const std::function<Import(const std::filesystem::path&)>& import, Scene& scene,
                   Diagnostics& diagnostics);

/// Reads the sections that make a scene into `scene`, but for its models. Names of meshes, materials and parents are
/// looked up in what is there already, so a frame file adds to its scene file; a material of a name that is there is
/// changed.
void read_scene_sections(const Value& root, const SceneSource& source, Models& models, Scene& scene,
                         Diagnostics& diagnostics);

// The parts of it.
void read_textures(const Value& root, const SceneSource& source, Scene& scene, Diagnostics& diagnostics);
void read_materials(const Value& root, const std::filesystem::path& folder, Scene& scene, Diagnostics& diagnostics);
void read_objects(const Value& root, Models& models, Scene& scene, Diagnostics& diagnostics);
void read_blocks(const Value& root, const SceneSource& source, Scene& scene, Diagnostics& diagnostics);
void read_lights(const Value& root, Scene& scene, Diagnostics& diagnostics);
void read_environments(const Value& root, const SceneSource& source, Scene& scene, Diagnostics& diagnostics);
void read_fogs(const Value& root, Scene& scene, Diagnostics& diagnostics);
void read_variants(const Value& root, Scene& scene, Diagnostics& diagnostics);
void read_views(const Value& root, float aspect, Scene& scene, Diagnostics& diagnostics);

// One thing each. What is there by its name is changed: what the section does not say stays, but of a view.
void read_material(const ValueMember& section, const std::filesystem::path& folder, Scene& scene,
                   Diagnostics& diagnostics);
void read_light(const ValueMember& section, Scene& scene, Diagnostics& diagnostics);
void read_fog(const ValueMember& section, Scene& scene, Diagnostics& diagnostics);
void read_view(const ValueMember& section, float aspect, Scene& scene, Diagnostics& diagnostics);

/// Turns and dims an environment that is there; nothing else of it can change with time.
void turn_environment(const ValueMember& section, Scene& scene, Diagnostics& diagnostics);

/// As collect_mistakes, with the places that the mistakes have themselves.
template <class Action>
bool collect_mistakes_at(Diagnostics& diagnostics, Action action) {
  try {
    action();
    return true;
  } catch (const Error& error) {
    diagnostics.append(error.diagnostics());
    return false;
  }
}
SectionInfo model_section();
SectionInfo view_section();
std::vector<SectionInfo> material_sections();
std::vector<SectionInfo> object_sections();
SectionInfo block_section();
std::vector<SectionInfo> light_sections();

/// A list of steps, in the order in which they happen.
Transform read_transform(const Value& value, const std::string& what, Diagnostics& diagnostics);

/// A scene file as text. @throws Mistake "unknown-model" for names that say something else
std::shared_ptr<const SourceText> read_scene_text(const std::filesystem::path& path);

struct TimedSection;

/// A scene file or a model. @throws as read_scene_file
/// @param timed  takes its curves; null: it must not have any
Scene read_whole_scene(const SceneSource& source, const std::filesystem::path& path,
                       std::vector<TimedSection>* timed = nullptr);

/// The sections that are targets of the frame.
void read_targets(const Value& root, FrameGraph& graph, Diagnostics& diagnostics);
SectionInfo target_section();

/// A path as the file has it in which it was said.
std::filesystem::path path_beside(const Reference& file, const std::filesystem::path& folder);

/// Reports a name that something refers to and that was not found. @param names  gives what it could have meant
template <class Names>
void expect_found(const Reference& reference, bool found, const std::string& what, const char* kind, Names names,
                  Diagnostics& diagnostics) {
  if (reference.empty() || found) return;
  const std::vector<std::string> known = HintLimit::reached() ? std::vector<std::string>() : names();
  const bool listed = std::string_view(kind) == "object";
  diagnostics.error(fmt::format("unknown-{}", kind), reference.place,
                    fmt::format("{} uses {} \"{}\", which is not there", what, kind, reference.name),
                    !known.empty() ? name_hint(reference.name, known)
                    : listed       ? fmt::format("add an [[object]] with name = \"{}\"", reference.name)
                                   : fmt::format("declare it: [{}.{}]", kind, reference.name));
}

/// "mesh", "texture", "material", …
const std::vector<std::string>& scene_section_names();
std::vector<SectionInfo> scene_sections();
std::vector<SectionInfo> frame_sections();

/// The members of a section such as [target.…], reported when it is no table of tables.
std::vector<const ValueMember*> named_tables(const Value& root, const std::string& section, Diagnostics& diagnostics);

/// The items of a section such as [[pass]].
std::vector<const Value*> listed_tables(const Value& root, const std::string& section, Diagnostics& diagnostics);

}  // namespace periscena
