#pragma once

#include <periscena/gl/buffer.h>
#include <periscena/gl/counts.h>
#include <periscena/gl/device.h>
#include <periscena/gl/program.h>
#include <periscena/gl/texture.h>
#include <periscena/gl/upload_ring.h>
#include <periscena/gl/vertex_array.h>
#include <periscena/gl/vertex_capture.h>
#include <periscena/graph/frame_graph.h>

#include <functional>
#include <memory>
#include <typeindex>

namespace periscena::gl {

/// The moment that a frame shows.
struct FrameTime {
  double seconds = 0;        ///< absolute
  std::uint64_t number = 0;  ///< how many times the runner has run; for caches, never for pictures
  bool begins = true;        ///< does no frame before it count? the first, and the first after its history was reset
  double before = 0;         ///< absolute seconds of the frame before it; its own when it begins
  std::uint64_t step = 0;    ///< how many frames before it count
};

/// Things that several passes of one runner share, such as a scene's buffers: made by the first that asks, and let go
/// when nobody has them any more.
class SharedThings {
 public:
  explicit SharedThings(Device& device) : device_(device) {}

  Device& device() const { return device_; }

  /// @param owner  what the thing is made of, or a part of it (std::shared_ptr's aliasing constructor): it is kept
  /// alive while the thing is, so that its address is no other's. Null: there is one thing of this type.
  template <class Thing>
  std::shared_ptr<Thing> get(std::shared_ptr<const void> owner, const std::function<std::shared_ptr<Thing>()>& make) {
    return find(
        std::move(owner), [](const Thing&) { return true; }, make, false);
  }

  /// The same, of a thing that is costly to make: it is kept while works are made again because what they were made
  /// from has changed. @param fits  is it still what would be made?
  template <class Thing>
  std::shared_ptr<Thing> get_fitting(std::shared_ptr<const void> owner, const std::function<bool(const Thing&)>& fits,
                                     const std::function<std::shared_ptr<Thing>()>& make) {
    return find(std::move(owner), fits, make, true);
  }

  /// Forgets what nobody has any more, and lets go of its owners.
  void let_go() {
    std::erase_if(entries_, [](const Entry& entry) { return entry.thing.expired(); });
  }

  /// Keeps all that there are while their users are made again.
  std::vector<std::shared_ptr<void>> hold() const { return hold_those(false); }

  /// The same, of those alone that get_fitting() gave.
  std::vector<std::shared_ptr<void>> hold_fitting() const { return hold_those(true); }

  std::size_t count() const { return entries_.size(); }

 private:
  Device& device_;
  struct Entry {
    std::type_index type;
    std::shared_ptr<const void> owner;
    std::weak_ptr<void> thing;
    bool costly;
  };

  template <class Thing, class Fits>
  std::shared_ptr<Thing> find(std::shared_ptr<const void> owner, const Fits& fits,
                              const std::function<std::shared_ptr<Thing>()>& make, bool costly) {
    for (const Entry& entry : entries_) {
      if (entry.type != std::type_index(typeid(Thing)) || entry.owner != owner) continue;
      auto thing = std::static_pointer_cast<Thing>(entry.thing.lock());
      if (thing && fits(*thing)) return thing;
    }
    let_go();
    std::shared_ptr<Thing> made = make();
    entries_.push_back({std::type_index(typeid(Thing)), std::move(owner), made, costly});
    return made;
  }

  std::vector<std::shared_ptr<void>> hold_those(bool costly_alone) const {
    std::vector<std::shared_ptr<void>> held;
    for (const Entry& entry : entries_) {
      if (entry.costly || !costly_alone) held.push_back(entry.thing.lock());
    }
    return held;
  }

  std::vector<Entry> entries_;
};

/// Counts how often something changed that passes were made from.
using ChangeCount = std::function<std::uint64_t()>;

/// What a pass' factory sees, when its runner is made, and again when what it watches has changed.
class PassSetup {
 public:
  PassSetup(Device& device, SharedThings& shared, const FramePlan& plan, const PlannedPass& pass)
      : device_(device), shared_(shared), plan_(plan), pass_(pass) {}

  /// Before the next frame in which this count is another one, the pass' work is made again: from a scene that was
  /// changed.
  void watch(ChangeCount count) { watched_.push_back(std::move(count)); }
  const std::vector<ChangeCount>& watched() const { return watched_; }

  Device& device() const { return device_; }
  SharedThings& shared() const { return shared_; }
  const FramePlan& plan() const { return plan_; }
  const PlannedPass& pass() const { return pass_; }
  /// Width by height of the pass' targets.
  float aspect() const { return static_cast<float>(pass_.width) / static_cast<float>(pass_.height); }

  /// Sends each of the program's outputs to the write of the same name, and checks that they match one to one.
  /// @throws Mistake "unknown-output" (a write that no output makes), "lost-output" (an output that goes nowhere),
  /// "output-type" (floats for an integer target, or the reverse)
  void match_outputs(const Program& program);

  /// By output location: which colour write it goes to, −1 for none. Set by match_outputs.
  const std::vector<int>& output_order() const { return output_order_; }

 private:
  void expect_output_type(const OutputInfo& output, const std::string& slot) const;

  Device& device_;
  SharedThings& shared_;
  const FramePlan& plan_;
  const PlannedPass& pass_;
  std::vector<int> output_order_;
  std::vector<ChangeCount> watched_;
};

/// What the vertices of a draw make.
enum class Vertices { triangles, lines, points };

struct IndirectDraw;

/// Draws that went to the driver in one call.
struct Batch {
  std::string what;       ///< for people: the materials, or what is drawn
  Counts counts;          ///< draw calls, commands, instances and triangles
  std::string why_apart;  ///< why it is not one with the batch before it; empty for the first
};

/// Which of several ways a pass goes, for people.
struct Choice {
  std::string of;   ///< "textures"
  std::string way;  ///< with what speaks for it
};

/// What a pass sees each time it runs. Its framebuffer is bound, its viewport set, its targets cleared.
class PassContext {
 public:
  PassContext(Device& device, const PlannedPass& pass, FrameTime time, std::uint32_t framebuffer,
              std::span<const Texture* const> reads, std::uint32_t empty_vertex_array, Counts& counts,
              UploadRing& uploads)
      : device_(device),
        pass_(pass),
        time_(time),
        framebuffer_(framebuffer),
        reads_(reads),
        empty_(empty_vertex_array),
        counts_(counts),
        uploads_(uploads) {}

  Device& device() const { return device_; }
  State& state() const { return device_.state(); }
  FrameTime time() const { return time_; }
  const PlannedPass& pass() const { return pass_; }
  std::uint32_t framebuffer() const { return framebuffer_; }  ///< the GL name, for calls of your own

  /// What the pass reads, in the order of its reads: the texture, or a view of the part of it that is read.
  const Texture& read(std::size_t index) const { return *reads_[index]; }
  std::size_t read_count() const { return reads_.size(); }

  /// One triangle over everything: gl_VertexID 0..2, no attributes.
  void draw_triangle() const;

  /// Draws whose vertices the program makes from gl_VertexID; no attributes.
  void draw_generated(int vertices, Vertices make = Vertices::triangles, int instances = 1) const;

  /// Indexed; the commands lie in a buffer (OpenGL 4.5, 10.4, DrawElementsIndirectCommand).
  void draw_indirect(const IndirectDraw& draw) const;

  /// Runs the compute program that is in use; what it writes is there for all that comes after.
  /// @param across, up  groups of its local size. More across than the 65,535 that every device takes go on in rows,
  /// whose last may be longer than needed.
  void compute(std::uint32_t across, std::uint32_t up = 1) const;

  /// Runs the program that is in use, which has no fragment program, on vertices, and keeps what it captures. No pixel
  /// changes.
  void capture(const VertexCapture& into, const VertexArray& from, int first, int vertices) const;

  /// What shaders wrote before is there for all that comes after, and what they write after comes after all reading
  /// before.
  void barrier() const;

  /// Draws that follow write one of each pixel's samples alone; all again before the pass ends. @param sample  -1 for
  /// all
  void write_sample(int sample) const;

  /// Where a sample of the pass' targets lies in its pixel, 0..1 to the right and up.
  Vec2 sample_place(int sample) const;

  /// A level of a texture, with all its layers, that programs write into as an image. @param unit  the image's binding
  void write_image(std::uint32_t unit, const Texture& texture, int level) const;

  /// The same, for programs that read it as well.
  void change_image(std::uint32_t unit, const Texture& texture, int level) const;

  /// Makes level 0 of a texture of whole numbers 0.
  void clear_image(const Texture& texture) const;

  /// Clears the depth that the pass writes, in all layers: for passes that say so of their write (Write::stays).
  void clear(const TargetDescription& target) const;

  /// Writes into a buffer, in order with what the device does before and after, and counts the bytes.
  void write(const Buffer& buffer, std::size_t offset, std::span<const std::byte> bytes) const;

  /// What the pass has cost so far in this frame; passes add what only they know: objects that they left out.
  Counts& counts() const { return counts_; }

 private:
  Device& device_;
  const PlannedPass& pass_;
  FrameTime time_;
  std::uint32_t framebuffer_;
  std::span<const Texture* const> reads_;
  std::uint32_t empty_;
  Counts& counts_;
  UploadRing& uploads_;
};

/// What a pass does. Made by its factory when a runner is made; owns the pass' programs and buffers.
class PassWork {
 public:
  PassWork() = default;
  PassWork(const PassWork&) = delete;
  PassWork& operator=(const PassWork&) = delete;
  virtual ~PassWork() = default;

  /// Called before run, and before anything else of its pass is drawn: the place to write into buffers.
  virtual void prepare(PassContext& context) { static_cast<void>(context); }

  virtual void run(PassContext& context) = 0;

  /// Asked before each frame of passes that say so (Pass::chooses_reads): is this read looked at? Passes whose targets
  /// nobody looks at do not run. @param read  index of the pass' reads @param seconds  of the frame
  virtual bool looks_at(std::size_t read, double seconds) const {
    static_cast<void>(read);
    static_cast<void>(seconds);
    return true;
  }

  /// Called when the runner goes on with a plan in which the pass' targets have another size, or may lie elsewhere
  /// although the pass relies on what it drew before (Write::stays). Programs stay.
  virtual void resize(PassSetup& setup) { static_cast<void>(setup); }

  /// Called before a frame when options of the pass have changed, and with them its `work` and `facts`: takes over what
  /// it can at once. False: the work is made again, of `now.work`. @param now  see `now.live`
  virtual bool take(const Pass& now) {
    static_cast<void>(now);
    return false;
  }

  /// What it looked through when it ran last, where the pass did not declare that: a light's view moves with the light.
  virtual const Camera* camera() const { return nullptr; }

  /// The same for one layer of what it draws into, where each has a view of its own.
  virtual const Camera* camera_of_layer(int layer) const {
    static_cast<void>(layer);
    return camera();
  }

  /// What it found while it ran that somebody should know.
  virtual Diagnostics diagnostics() const { return {}; }

  /// Adds to the counts of its last run what only the device knows, and waits for that.
  virtual void count_on_device(Counts& counts) const { static_cast<void>(counts); }

  /// What it drew when it ran last, in order.
  virtual std::vector<Batch> batches() const { return {}; }

  /// The ways that it goes where there are several.
  virtual std::vector<Choice> choices() const { return {}; }
};

/// Makes what a pass does, once for each runner. Called with the runner's device current.
using WorkFactory = std::function<std::unique_ptr<PassWork>(PassSetup&)>;

/// For Pass::work. @param make  empty: the pass has nothing to do, which plan() reports
Work work(WorkFactory make);

/// The same of a class of yours, whose constructor takes these and the PassSetup.
template <class OwnWork, class... Given>
Work work(const Given&... given) {
  return work([given...](PassSetup& setup) { return std::make_unique<OwnWork>(given..., setup); });
}

/// A pass of plain GL calls: the function is called with the pass' framebuffer bound and its viewport set. It may
/// change any state: what Periscena relies on is set again afterwards. Saying what it changes saves calls; when the
/// device listens to the driver, what it changed beyond that throws Mistake "undeclared-state".
Work raw_work(std::function<void(PassContext&)> body, Touched touches = Touched::everything);

/// One command of an indirect draw, as GL lays it out.
struct DrawCommand {
  std::uint32_t index_count = 0;
  std::uint32_t instances = 1;
  std::uint32_t first_index = 0;
  std::int32_t base_vertex = 0;
  std::uint32_t base_instance = 0;
  bool operator==(const DrawCommand&) const = default;
};

/// One indirect call.
struct IndirectDraw {
  const VertexArray& vertices;
  const Buffer& commands;
  std::uint32_t first = 0, count = 0;  ///< of the commands
  int index_bytes = 2;
  Vertices make = Vertices::triangles;
  std::uint64_t instances = 0, triangles = 0;  ///< in all its commands, for the counts
  /// Where the number of commands lies that are to be drawn, at most `count`; null: all. Devices that can't read it
  /// draw all, so those beyond it must draw nothing. How many they are is not counted then.
  const Buffer* drawn = nullptr;
  std::uint32_t drawn_at = 0;  ///< of the numbers in it
};

}  // namespace periscena::gl

namespace periscena {

/// See Pass::work.
struct DeviceWork {
  gl::WorkFactory make;
};

}  // namespace periscena
