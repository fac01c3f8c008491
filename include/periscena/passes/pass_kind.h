#pragma once

#include <periscena/base/keys.h>
#include <periscena/graph/pass.h>
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

}  // namespace periscena::passes
