#pragma once

#include <periscena/gl/buffer.h>
#include <periscena/gl/pass_work.h>

#include <string_view>

namespace periscena::gl {

class FrameTargets;

/// Something that somebody else made and that a target of Origin::outside_… stands for. It must live as long as the
/// runner uses it.
struct Outside {
  std::string target;      ///< its name in the frame
  std::uint32_t name = 0;  ///< of the texture or framebuffer; 0 is the default framebuffer of the context
};

/// What of a target is looked at.
struct TargetPart {
  int level = 0, layer = 0;
  Aspect aspect = Aspect::main;
};

/// Runs a plan on a device. Making it makes everything that frames need: targets, framebuffers, programs; running it
/// makes nothing.
class FrameRunner {
 public:
  /// @param device  must outlive the runner, and be current
  /// @throws Mistake for mistakes in shaders and their inputs, "outside-mismatch" for what was made outside and is not
  /// as the frame says; Error "out-of-memory", "framebuffer-incomplete"
  FrameRunner(Device& device, FramePlan plan, std::vector<Outside> outside = {});
  FrameRunner(const FrameRunner&) = delete;
  FrameRunner& operator=(const FrameRunner&) = delete;
  ~FrameRunner();

  /// Goes on with another plan, best of the same graph at another size: what did not change stays as it is, programs
  /// too. A target whose size changed loses its history. Between frames only.
  /// @throws as the constructor; then the runner goes on with the plan that it had, without the history of targets that
  /// it had to make again
  void use(FramePlan plan, std::vector<Outside> outside = {});

  /// Reads the files of GLSL again that passes were made of, those that they include and those of materials too, and
  /// makes the passes whose files have changed again: the next run shows them. Between frames only.
  /// What is wrong with a file, or no longer fits the plan, comes back, and then the runner goes on with all passes as
  /// they were; files that have not changed since are not tried again.
  /// @return what is wrong; empty also where nothing has changed
  const Diagnostics& reload();

  /// Called after each pass, while all that it wrote is there to look at.
  using AfterPass = std::function<void(std::size_t pass)>;

  /// The frame as it is at `seconds`. The same time gives the same pixels, unless the frame has history: then one run
  /// is one step. Passes are debug groups of their names when somebody listens to the driver or a debugger is attached.
  /// Shows scenes as they are now: what a program changed since the last run is followed first.
  /// @throws Mistake "not-finite"; as the constructor, when a changed scene can't be drawn: the next run tries again;
  /// when the device listens to the driver, "state-changed" if calls of yours between
  /// runs changed what Periscena had set: see State::forget
  void run(double seconds, const AfterPass& after_pass = {});

  /// What the first frame sees of frames before it: each target's clear values.
  void reset_history();

  /// The frame at `seconds` as it is after `steps` frames before it, `rate` a second, from no history: the same time
  /// gives the same pixels again. Where nothing has history, passes that do not run in each frame (Pass::every) run in
  /// this one. @param rate  frames a second, > 0
  void run_settled(double seconds, int steps, double rate, const AfterPass& after_pass = {});

  /// A target's contents after the last run. A multisampled one is resolved.
  /// @throws Mistake "unknown-target" with the nearest name, "not-kept" when it does not last to the frame's end
  Image read(std::string_view target, const TargetPart& part = {}, Place place = Place::here()) const;

  /// The target itself, for calls of your own. @throws as read
  const Texture& texture(std::string_view target, Place place = Place::here()) const;

  /// The next run draws everything, also what passes would leave as they drew it before: for measuring.
  void draw_all_anew();

  /// Waits until the device has done all that was asked of it: for measuring.
  void wait() const;

  /// Within `after_pass`: any target by its index in the plan, resolved where it is multisampled.
  Image look(std::uint32_t target, const TargetPart& part = {});

  /// What a pass looked through when it ran last; null when it has no camera. @param pass  index in the plan
  /// @param layer  of what it draws into, where each has a view of its own
  const Camera* camera(std::size_t pass, int layer = 0) const;

  /// What a pass cost when it ran last. @param pass  index in the plan
  /// What only the device knows is waited for.
  Counts counts(std::size_t pass) const;
  Counts counts() const;  ///< of all passes, and of what the runner itself sends

  /// What a pass drew when it ran last. @param pass  index in the plan
  std::vector<Batch> batches(std::size_t pass) const;

  /// Which ways a pass goes where there are several, and why. @param pass  index into plan().passes()
  std::vector<Choice> choices(std::size_t pass) const;

  const FramePlan& plan() const { return plan_; }
  Device& device() const { return device_; }

  /// What the driver gave otherwise than asked: sample counts. History that was lost when the last plan came. And what
  /// passes found while they ran.
  Diagnostics diagnostics() const;

 private:
  struct MadePass;
  struct Step;

  void take(FramePlan plan, const std::vector<Outside>& outside);
  void take_back(const FramePlan& before);
  void make_step(std::size_t index, std::vector<std::shared_ptr<const Pass>> sources, std::vector<Step>& earlier);
  void make_work(Step& step, const PlannedPass& pass);
  void route_outputs(Step& step) const;
  void take_latest_options();
  std::vector<std::shared_ptr<void>> follow_options();
  void follow_changes();
  Diagnostics make_passes_again(const std::vector<std::size_t>& passes);
  void list_finished(Step& step, const PlannedPass& pass) const;
  void make_frame_blocks();
  void write_frame_blocks(double seconds);
  void begin_pass(const PlannedPass& pass, Step& step, std::uint32_t framebuffer);
  void run_pass(std::size_t index, FrameTime time, const AfterPass& after_pass);
  void finish_targets(const PlannedPass& pass, const Step& step, std::uint32_t framebuffer);
  void tell_sample_counts();
  void tell_lost_history(const FramePlan& next);
  void find_idle(const FrameTime& time);
  void begin_anew();
  std::uint32_t lasting(std::string_view target, const Place& place) const;

  Device& device_;
  FramePlan plan_;
  std::vector<Outside> outside_;
  Diagnostics diagnostics_;
  std::vector<std::string> tried_files_;  ///< that could not be used: their texts
  Diagnostics tried_found_;               ///< what was wrong with them
  SharedThings shared_;
  UploadRing uploads_;
  std::unique_ptr<FrameTargets> targets_;
  std::vector<Step> steps_;  ///< by pass
  Buffer frame_blocks_;
  std::vector<std::byte> frame_bytes_;
  std::size_t frame_stride_ = 0;
  VertexArray empty_vertices_;  ///< core profile draws want one bound, even without attributes
  bool groups_ = false;         ///< are passes debug groups?
  bool ready_ = false;
  std::uint64_t runs_ = 0;
  std::uint64_t steps_since_ = 0;  ///< how many frames before the next count
  double last_seconds_ = 0;
  std::vector<char> idle_;    ///< by pass: does nobody look at what it makes this time? empty where none can tell
  std::vector<char> wanted_;  ///< by target
  Counts own_counts_;
};

}  // namespace periscena::gl
