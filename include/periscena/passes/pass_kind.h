#pragma once

#include <periscena/base/keys.h>
#include <periscena/graph/pass.h>
#include <periscena/passes/options.h>
#include <periscena/passes/shaders.h>

#include <filesystem>
#include <functional>
#include <memory>
#include <span>
#include <string>
#include <string_view>
#include <vector>

namespace periscena {
class PictureReader;
class Scene;
}  // namespace periscena

namespace periscena::passes {

/// What a frame file says about one pass, with its names not yet looked up.
struct PassSource {
  Reference name;
  const Value* table = nullptr;  ///< the whole [[pass]]
  std::vector<Read> reads;
  std::vector<Write> writes;
  Defaults defaults;                  ///< of the frame, but for a scene of the pass' own
  std::filesystem::path folder;       ///< that paths start from
  PictureReader* pictures = nullptr;  ///< reads pictures that the pass names
};

/// May a target be left out?
enum class Need { required, optional };

/// A target that a kind of pass reads or writes by a fixed name.
struct SlotInfo {
  std::string name;
  Need need = Need::required;
  std::string sentence;
};

/// Which targets a kind may read or write by names of its GLSL's own, or of its materials.
enum class OwnSlots { none, reads, reads_and_writes };

/// The keys of tables within a [[pass]].
struct PassPart {
  std::string heading;  ///< `[[pass.sprite]]`
  std::vector<KeyInfo> keys;
};

/// A kind of pass, described once: frame files, the reference page and the editor schema come from this. See Kind, from
/// which it is made.
struct PassKind {
  std::string name;
  std::string sentence;
  std::string example;  ///< a [[pass]] as it would be written
  std::vector<SlotInfo> reads, writes;
  OwnSlots own_slots = OwnSlots::none;
  std::vector<KeyInfo> keys;
  std::vector<PassPart> parts = {};
  bool draws_scene = false;  ///< may [[pass]] name a scene of its own?

  /// Reads the kind's keys and makes the pass. Mistakes go into the pass' problems.
  std::function<Pass(const PassSource&)> make;

  /// Names of slots without a member that holds their target: see PassKinds::add.
  std::vector<std::string> unbound = {};

  bool own_reads() const { return own_slots != OwnSlots::none; }
  bool own_writes() const { return own_slots == OwnSlots::reads_and_writes; }
};

/// Kinds of passes by name: those of the library, and a program's own.
///
///     passes::PassKinds kinds = passes::pass_kinds();
///     kinds.add(threshold_kind());
///     const FrameFile file = read_frame_file("lock.toml", {.kinds = &kinds});
class PassKinds {
 public:
  /// @throws Mistake "taken-name" for a name that another kind has, "bad-kind" for one without a name or without
  /// `make`, for two keys or two slots of one name, and for a slot without a member. All are reported at once.
  void add(PassKind kind, Place place = Place::here());

  const PassKind* find(std::string_view name) const;
  std::span<const PassKind> all() const { return kinds_; }  ///< in the order in which they were added
  std::vector<std::string> names() const;

 private:
  std::vector<PassKind> kinds_;
};

/// Those of the library, in the order of their names.
const PassKinds& pass_kinds();

}  // namespace periscena::passes
