#pragma once

#include <periscena/gl/pass_work.h>
#include <periscena/scene/particles.h>

#include <string>
#include <vector>

namespace periscena::passes {

/// How particles begin at each step of one life, up to the last one: on the device, each step at its number within a
/// life.
class BirthTable {
 public:
  explicit BirthTable(std::string name) : name_(std::move(name)) {}

  /// Up to a step: what is there already stays.
  void follow(gl::PassContext& context, const ParticleCloud& cloud, std::int64_t step);

  /// Goes on with a cloud that has changed. @param step  the last one that follow() had
  /// @return would its particles have begun at the same places and times up to there?
  bool take(const ParticleCloud& cloud, std::int64_t step);

  void bind(gl::State& state);

 private:
  /// As in particles.comp.
  struct Entry {
    Vec4 offset;
    Vec4 velocity;
    bool operator==(const Entry&) const = default;
  };
  static Entry entry_of(const ParticleBirth& birth);

  std::string name_;
  gl::Buffer buffer_;
  std::vector<Entry> entries_;  ///< empty: none begin otherwise than others
  std::int64_t step_ = 0;       ///< the last one that is there
};

}  // namespace periscena::passes
