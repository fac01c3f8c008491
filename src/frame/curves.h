#pragma once

#include "frame/sections.h"

#include <periscena/graph/live_options.h>
#include <periscena/math/curve.h>

#include <functional>
#include <memory>
#include <string>
#include <vector>

namespace periscena {

/// A key whose value has curves in it.
struct TimedKey {
  ValueMember member;         ///< with the curves in their places
  std::vector<Curve> curves;  ///< in the order in which they are met

  /// The key as it is when each curve has some value. @param numbers_of  gives that of a curve
  template <class NumbersOf>
  ValueMember with(NumbersOf numbers_of) const;
};

/// A section of a frame file with values that are curves.
struct TimedSection {
  std::string kind;  ///< "light", "pass", …
  std::string name;
  Place place;
  std::vector<TimedKey> keys;            ///< that have curves; of a view all
  std::shared_ptr<LiveOptions> options;  ///< of a pass

  template <class NumbersOf>
  Value with(NumbersOf numbers_of) const;
  Value at(double seconds) const;
};
/// Takes the curves out of a file: in its place each has its value at time 0. What is wrong with one is told, and its
/// key left out.
/// @param stay_curves  whether a key of a [[pass]] has curves as its values, so that they stay
std::vector<TimedSection> take_curves(Value& root,
                                      const std::function<bool(const Value& pass, std::string_view key)>& stay_curves,
                                      Diagnostics& diagnostics);

/// Sets what is a function of time, each frame.
class Timed {
 public:
  Timed(std::vector<TimedSection> sections, std::shared_ptr<Scene> scene, std::filesystem::path folder, float aspect)
      : sections_(std::move(sections)), scene_(std::move(scene)), folder_(std::move(folder)), aspect_(aspect) {}

  /// Finds the options of passes, and tries all extremes of the curves. What does not go is told and left out.
  void prepare(const FrameGraph& graph, Diagnostics& diagnostics);

  /// @throws Mistake when a value is refused
  void set_time(double seconds) const;

  bool empty() const { return sections_.empty(); }

 private:
  void try_extremes(const TimedSection& section, Diagnostics& found) const;
  void set(const TimedSection& section, const Value& table, Diagnostics& diagnostics) const;

  std::vector<TimedSection> sections_;
  std::shared_ptr<Scene> scene_;
  std::filesystem::path folder_;
  float aspect_;
};

/// From now on, these are in each frame as they are at its time. What does not go is told and left out.
void follow_curves(std::vector<TimedSection> sections, std::shared_ptr<Scene> scene, std::filesystem::path folder,
                   float aspect, FrameGraph& graph, Diagnostics& diagnostics);

/// For the reference page.
SectionInfo curve_section();

}  // namespace periscena
