#pragma once

#include <periscena/base/keys.h>
#include <periscena/gl/pass_work.h>
#include <periscena/gl/shader_text.h>
#include <periscena/graph/frame_graph.h>
#include <periscena/image/picture_reader.h>
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
  std::filesystem::path folder;       ///< that paths start from
  PictureReader* pictures = nullptr;  ///< reads pictures that the pass names
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

/// Who leaves out what does not show.
enum class Culling {
  host,   ///< objects outside of the view
  device  ///< those, and objects that are hidden behind what was seen in the last frame
};
const std::vector<std::string>& choices_of(Culling);

/// How lights that reach only so far are kept to the pixels that they can reach. The picture is the same.
enum class LightBounds {
  automatic,
  none,     ///< each pixel asks every light
  quads,    ///< each light is drawn over the rectangle that it can reach, and what it gives is added
  tiles,    ///< each pixel asks those of its tile of the picture, between the nearest and the farthest of what is there
  clusters  ///< each pixel asks those of its cell: a tile of the picture, and a slice of distance
};
const std::vector<std::string>& choices_of(LightBounds);

/// Reports a way that is not for this kind of pass.
void expect_bounds(LightBounds bounds, std::initializer_list<LightBounds> unfit, const char* instead, Pass& pass);

/// Which surfaces a pass draws, by how their materials treat alpha.
enum class Surfaces {
  all,
  opaque,  ///< and masked
  blended
};
const std::vector<std::string>& choices_of(Surfaces);

/// Which objects a pass draws.
struct ObjectChoice {
  std::vector<Reference> tags, without_tags;
  Reference variant;
};

/// Reports a name that was not found. @param kind  "light" @param who  for the message: `pass "mirror"`
/// @param names  what it could have meant @param declaration  where there is none: `declare it: [light."{}"]`
void expect_named(const Reference& name, bool found, const char* kind, const std::string& who,
                  const std::function<std::vector<std::string>()>& names, const char* declaration,
                  Diagnostics& problems);

/// Reports tags and variants that are not in the scene. @param who  for the message: `pass "mirror"`
void expect_objects(const Scene* scene, const ObjectChoice& choice, const std::string& who, Diagnostics& problems);

/// Looks a name up, and reports it with the nearest right one when it is not there.
/// @param who  for the message: `pass "mirror"`
void expect_view(const Scene* scene, const Reference& view, const std::string& who, Diagnostics& problems);

}  // namespace periscena::passes
