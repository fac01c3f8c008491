#pragma once

#include <periscena/base/keys.h>
#include <periscena/gl/pass_work.h>
#include <periscena/gl/shader_text.h>
#include <periscena/graph/frame_graph.h>
#include <periscena/scene/scene.h>

#include <filesystem>
#include <functional>
#include <initializer_list>
#include <span>

namespace periscena::passes {

/// What a frame file says about one pass, with its names not yet looked up.
struct PassSource {
  Reference name;
  const Value* table = nullptr;  ///< the whole [[pass]]
  std::vector<Read> reads;
  std::vector<Write> writes;
  std::shared_ptr<const Scene> scene;
  std::filesystem::path folder;  ///< that paths start from
};

/// A target that a kind of pass reads or writes by a fixed name.
struct SlotInfo {
  std::string name;
  bool required = true;
  std::string sentence;
};

/// The keys of tables within a [[pass]].
struct PassPart {
  std::string heading;  ///< `[[pass.sprite]]`
  std::vector<KeyInfo> keys;
};

/// A kind of pass, described once: frame files, the reference page and the editor schema come from this.
struct PassKind {
  std::string name;
  std::string sentence;
  std::string example;  ///< a [[pass]] as it would be written
  std::vector<SlotInfo> reads, writes;
  bool own_reads = false;   ///< may read further targets by names of its GLSL's own
  bool own_writes = false;  ///< may write further targets by names of its GLSL's own
  std::vector<KeyInfo> keys;
  std::vector<PassPart> parts = {};

  /// Reads the kind's keys and makes the pass. Mistakes go into the pass' problems.
  std::function<Pass(const PassSource&)> make;
};

std::span<const PassKind> pass_kinds();
const PassKind* find_pass_kind(std::string_view name);

/// GLSL that the passes bring along, for `#include` in GLSL of your own.
gl::ShaderLibrary pass_shaders();

/// A pass of some kind, with nothing in it yet.
Pass pass_of_kind(const char* kind, const std::string& name, Place place);

/// Gives a pass that looks through a view its camera and its work, unless something is wrong with it.
template <class Work, class Options>
Pass with_work(Pass pass, const Options& options) {
  if (pass.problems.has_errors()) return pass;
  pass.camera = options.scene->find_view(options.view.name)->camera;
  pass.work = [options](gl::PassSetup& setup) { return std::make_unique<Work>(options, setup); };
  return pass;
}

/// What a pass reads or writes by a name, or null.
const TargetUse* find_read(const PassSource& source, std::string_view slot);
const TargetUse* find_write(const PassSource& source, std::string_view slot);

/// Which lights a pass is lit by, by their names or tags.
///
///     .lights = {"sun", "towpath lamps"}
class LightNames {
 public:
  LightNames() = default;  ///< all of the scene
  LightNames(std::initializer_list<Reference> names) : names_(names), all_(false) {}
  LightNames(std::vector<Reference> names) : names_(std::move(names)), all_(false) {}  ///< none when it is empty

  bool all() const { return all_; }
  const std::vector<Reference>& names() const { return names_; }

 private:
  std::vector<Reference> names_;
  bool all_ = true;
};

/// The keys of passes that draw objects as a view sees them.
struct SeenObjectKeys {
  Reference view, variant;
  std::vector<Reference> tags, without_tags;
};

/// @tparam T  what derives from SeenObjectKeys
template <class T>
Keys<T> seen_object_keys(const char* tags_sentence = "Only objects that have one of these tags, or stand below one; left out, all") {
  Keys<T> keys;
  keys.key("view", &T::view, {.required = true}, "The view to look through")
      .key("tags", &T::tags, {}, tags_sentence)
      .key("without_tags", &T::without_tags, {}, "But not those that have one of these, or stand below one")
      .key("variant", &T::variant, {}, "The scene in another dress");
  return keys;
}

/// What the key `batching` of passes that draw objects does.
inline constexpr const char* batching_sentence =
    "How draws become calls; the picture is the same. unmerged: a call for each run of draws that differ in nothing but "
    "mesh and object, equal meshes in it as instances; automatic: that, but objects of few triangles that stand still are "
    "baked into few meshes first where there are many, as this is faster; merged: all that stand still, which takes "
    "memory of its own; commands: as unmerged, without instances; instances: a call for each group of equal meshes; "
    "one_by_one: a call for each object";

/// Who leaves out what does not show.
enum class Culling {
  host,   ///< objects outside of the view
  device  ///< those, and objects that are hidden behind what was seen in the last frame
};
inline const std::vector<std::string> culling_names{"host", "device"};

/// How lights that reach only so far are kept to the pixels that they can reach. The picture is the same.
enum class LightBounds {
  automatic,
  none,     ///< each pixel asks every light
  quads,    ///< each light is drawn over the rectangle that it can reach, and what it gives is added
  tiles,    ///< each pixel asks those of its tile of the picture, between the nearest and the farthest of what is there
  clusters  ///< each pixel asks those of its cell: a tile of the picture, and a slice of distance
};

/// As frame files have them, for passes over a geometry buffer and for those that draw surfaces.
inline const std::vector<std::string> screen_bounds_names{"automatic", "none", "quads", "tiles"};
inline const std::vector<std::string> surface_bounds_names{"automatic", "none", "clusters"};
LightBounds parse_bounds(std::string_view name);

/// Reports a way that is not for this kind of pass.
void expect_bounds(LightBounds bounds, std::initializer_list<LightBounds> unfit, const char* instead, Pass& pass);

inline constexpr const char* screen_bounds_sentence =
    "How lights that reach only so far are kept to the pixels that they can reach; the picture is the same. none: each pixel asks every light; quads: each "
    "light is drawn over its rectangle, and added; tiles: each pixel asks the lights of its tile of 16 x 16, between the "
    "nearest and the farthest of what is there; automatic: tiles where eight lights or more have an end";
inline constexpr const char* depth_first_sentence =
    "true: the depth of all that is solid is drawn before anything else, so that what others hide is not shaded. Each call goes out "
    "twice, so it pays where many surfaces lie behind one another and are dear to shade; the picture is the same";

inline constexpr const char* surface_bounds_sentence =
    "The same for lights that reach only so far. none: each pixel asks every light; clusters: those of its cell, a tile of 64 x 64 pixels and "
    "one of 24 slices of distance; automatic: clusters where eight lights or more have an end";

/// Which surfaces a pass draws, by how their materials treat alpha.
enum class Surfaces {
  all,
  opaque,  ///< and masked
  blended
};
inline const std::vector<std::string> surfaces_names{"all", "opaque", "blended"};

/// Which objects a pass draws.
struct ObjectChoice {
  std::vector<Reference> tags, without_tags;
  Reference variant;
};

/// Reports tags and variants that are not in the scene. @param who  for the message: `pass "mirror"`
void expect_objects(const Scene* scene, const ObjectChoice& choice, const std::string& who, Diagnostics& problems);

/// Looks a name up, and reports it with the nearest right one when it is not there.
/// @param who  for the message: `pass "mirror"`
void expect_view(const Scene* scene, const Reference& view, const std::string& who, Diagnostics& problems);

}  // namespace periscena::passes
