#pragma once

#include <periscena/graph/frame_graph.h>

#include <typeindex>
#include <utility>

namespace periscena::passes {

namespace detail {

/// The options of a pass, apart from its kind.
template <class Options>
class TypedOptions : public LiveOptions {
 public:
  std::type_index type() const override { return typeid(Options); }
  const Options& now() const { return options_; }
  virtual void set_all(const Options& options, const Place& place) = 0;

 protected:
  TypedOptions(const Options& options, const Pass& made) : LiveOptions(made), options_(options) {}
  void keep(const Options& options) { options_ = options; }

 private:
  Options options_;
};

[[noreturn]] void refuse_options(const FrameGraph& frame, std::string_view pass, const Place& place);

}  // namespace detail

/// The options that a pass has now, for its work (gl::PassWork::take); null when they are others, or several passes'.
template <class Options>
const Options* options_in(const Pass& pass) {
  const auto* options = dynamic_cast<const detail::TypedOptions<Options>*>(pass.live.get());
  return options ? &options->now() : nullptr;
}

/// The options of a pass of a frame, for a program that changes them while runners draw it:
///
///     passes::Live<passes::Bloom> glow(frame, "glow");
///     …
///     glow.change([&](passes::Bloom& options) { options.strength = slider; });
///     runner.run(seconds);
///
/// The next frame is that of the same frame declared so: nothing is planned. Numbers that go to programs as they are
/// cost next to nothing; for others the pass' work is made again, of programs that are there.
template <class Options>
class Live {
 public:
  /// @throws Mistake "unknown-pass"; "wrong-kind" where the pass has other options
  Live(const FrameGraph& frame, std::string_view pass, Place place = Place::here())
      : options_(std::dynamic_pointer_cast<detail::TypedOptions<Options>>(frame.options(pass, place))) {
    if (!options_) detail::refuse_options(frame, pass, place);
  }

  const Options& get() const { return options_->now(); }

  /// Nothing changes where it throws. @throws Mistake with all that the kind finds wrong; "not-live" where the plan
  /// depends on what differs
  void set(const Options& options, Place place = Place::here()) { options_->set_all(options, place); }

  template <class Change>
  void change(Change&& change, Place place = Place::here()) {
    Options options = get();
    std::forward<Change>(change)(options);
    set(options, std::move(place));
  }

 private:
  std::shared_ptr<detail::TypedOptions<Options>> options_;
};

}  // namespace periscena::passes
