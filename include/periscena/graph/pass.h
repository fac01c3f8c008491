#pragma once

#include <periscena/base/diagnostic.h>
#include <periscena/graph/live_options.h>
#include <periscena/graph/pass_facts.h>
#include <periscena/graph/read_write.h>
#include <periscena/math/projection.h>

#include <functional>
#include <memory>
#include <optional>
#include <span>
#include <string>
#include <variant>
#include <vector>

namespace periscena {

/// What a pass does on a device. The graph only carries it along: gl::work() makes one, of a function that is called
/// once for each runner.
struct DeviceWork;
using Work = std::shared_ptr<const DeviceWork>;

/// How GLSL sees a number.
enum class ValueKind { floating, signed_integer, unsigned_integer };
std::string_view to_string(ValueKind kind);  ///< "float", "int", "uint"
ValueKind value_kind(Format format);

/// What kind of texture a sampler takes.
enum class SamplerShape { flat, array, cube, cube_array, flat_samples, array_samples, volume, other };

struct FragmentOutput {
  std::string name;
  ValueKind kind = ValueKind::floating;
  int location = -1;  ///< −1 when the GLSL says none
};

struct SamplerDeclaration {
  std::string name;
  ValueKind kind = ValueKind::floating;
  SamplerShape shape = SamplerShape::flat;
  bool depth = false;  ///< means nothing unless it is depth that is read
};

/// What a pass' fragment program declares, as far as its text tells without a compiler.
struct ShaderInterface {
  std::string source;  ///< for messages: the file's name
  std::vector<FragmentOutput> outputs;
  std::vector<SamplerDeclaration> samplers;
  std::optional<Place> encodes = {};  ///< where it encodes colours to sRGB, or raises them to about 1 / 2.2
  std::optional<Place> decodes = {};  ///< where it does the reverse
};

/// Brings the samples of the pass' one read together into its one write.
struct ResolveOperation {
  ResolveRule rule = ResolveRule::automatic;  ///< automatic: the read target's own rule
};

/// Copies a part of the pass' one read into a part of its one write, stretched when they differ in size.
struct CopyOperation {
  PixelRect from, to;
  bool linear = false;  ///< filtered linearly where it is stretched, else the nearest pixel
};

/// Makes the mip levels 1, 2, … of the target that the pass writes, from its level 0, which it reads.
struct LevelsOperation {};

/// What a pass does without a program.
using Operation = std::variant<std::monostate, ResolveOperation, CopyOperation, LevelsOperation>;

/// A target that a pass writes, as planned.
struct WrittenTarget {
  std::string name;
  Place place;  ///< where the pass names it
  int width = 1, height = 1, layers = 1;
  int layer = all_layers;  ///< that the pass writes
  Format format = {};
  int samples = 1;
};

/// Where in their pixels the frames of a view are drawn, so that several in a row see more of it than one.
struct Jitter {
  std::string view;  ///< its name
  int places = 16;   ///< > 0; after that many frames it begins again
};

/// What a pass was made of by plan(), and how.
struct JoinedPasses {
  std::vector<std::shared_ptr<const Pass>> parts = {};  ///< none: it was declared so
  std::function<std::optional<Pass>(std::span<const std::shared_ptr<const Pass>> parts)> join = {};
};

/// One step of a frame, as declared.
struct Pass {
  std::string name = {};
  std::string kind = {};  ///< for people: "forward", "fullscreen"
  std::vector<Read> reads = {};
  std::vector<Write> writes = {};
  Work work = {};
  Place place = {};                            ///< set by FrameGraph::add when it is not known
  Diagnostics problems = {};                   ///< what its maker found wrong; plan() tells them with the rest
  std::optional<ShaderInterface> shader = {};  ///< when known, plan() compares it with what is attached
  std::optional<Camera> camera = {};           ///< that it looks through: how its depth is shown to people
  Operation operation = {};                    ///< instead of work: a copy, a resolve or mip levels
  PassFacts facts = {};                        ///< for passes that read its targets

  /// Asked by plan() for what is wrong with the targets that it writes, in the order of its writes; empty when any will
  /// do.
  std::function<void(std::span<const WrittenTarget>, Diagnostics&)> check_targets = {};

  LightRange takes = LightRange::unknown;  ///< what the colours must be that it reads; unknown: any
  LightRange makes = LightRange::unknown;  ///< of the colours that it writes

  /// Of a pass that opens a window into elsewhere: it marks pixels of the stencil of the depth that it writes.
  bool opens = false;

  /// A pass that opens a window, declared before: this one draws in there alone.
  Reference inside = {};

  /// What tells the windows of a frame apart in the stencil; FrameGraph::add sets them.
  int opening = 0;  ///< 1..127: of the window that this pass opens; 0: none
  int within = 0;   ///< of the window that it draws in; 0: everywhere

  /// It runs in every n-th frame, and in between what it wrote stays.
  int every = 1;

  /// Moves the view that it was drawn through by less than a pixel from frame to frame, for all passes that look
  /// through it.
  std::optional<Jitter> jitter = {};

  /// Does it look at some of what it reads at some times alone? See gl::PassWork::looks_at.
  bool chooses_reads = false;

  /// Of a pass that asks of what it reads first the pixel alone that it writes: one pass that does what `before`, whose
  /// one write that is, and `own`, which is this, do one after the other; nothing when they do not go together.
  std::function<std::optional<Pass>(const Pass& before, const Pass& own)> fuse = {};

  /// Of a pass whose last program can run the filters of the passes after it: gives the pass work that ends with them.
  /// False if they do not fit, such as a second tone curve.
  std::function<bool(Pass&, const FilterChain&)> take_filters = {};

  /// Of a pass that reads nothing and fills its one target: the same as work for a pass after it, which has it drawn at
  /// the far end of its depth, behind what it draws itself. Nothing where that can't be.
  std::function<Work(DepthOrder)> behind = {};

  /// Of a pass that draws surfaces over what another has filled: gives the pass work that has the other one's drawn
  /// only where no surface hides it. False if they do not go together.
  std::function<bool(Pass&, const Pass& before)> take_behind = {};

  /// Its options, which may change while it runs; null for a pass that no Kind has made.
  std::shared_ptr<LiveOptions> live = {};
  JoinedPasses joined = {};

  bool draws() const { return std::holds_alternative<std::monostate>(operation); }
};

}  // namespace periscena
