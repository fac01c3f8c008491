#pragma once

#include "draw/screen/screen_program.h"

#include <periscena/graph/pass.h>

#include <optional>

namespace periscena::passes {

/// What light filters begin with: has the program before them made it finite?
enum class Starts { unknown, finite };

/// Filters at the end of a program over the whole picture.
class FilterEnd {
 public:
  /// @param name  of the pass @param chain  may be empty: then there is nothing to do
  FilterEnd(std::string name, FilterChain chain, const gl::PassSetup& setup);

  /// The program with its filters; without any, as it was.
  /// @param fragment  defines nothing but functions where FILTERS_AFTER is defined @param start  what gives it a colour
  gl::ShaderText after(const gl::ShaderText& fragment, const char* start, Starts starts = Starts::unknown) const;

  /// The filters alone, of a picture that they read as `from`.
  gl::ShaderText alone() const;

  /// Goes on with filters of other numbers. @return false: they need other code or tables, and nothing has changed
  bool take(const FilterChain& now);

  /// Sets what the filters need, of such a program.
  void put(draw::ScreenProgram& program);
  void put(draw::BoundTextures& into, gl::Program& program);

  /// For the draw that follows.
  void begin(const gl::PassContext& context, draw::ScreenProgram& program) const;
  void begin(const gl::PassContext& context, draw::BoundTextures& into, const gl::Program& program) const;
  void end(const gl::PassContext& context) const;

  Diagnostics found() const { return finite_ ? finite_->found() : Diagnostics(); }

 private:
  std::string steps(std::string start) const;

  std::string name_;
  FilterChain chain_;
  bool stays_encoded_ = false;
  std::optional<draw::FiniteCheck> finite_;
  std::vector<std::string> more_reads_;  ///< the last of the pass' reads
  std::vector<gl::Texture> tables_;
  gl::Sampler nearest_;
};

/// Lets a pass end with filters that others would do to what it writes.
/// @param work  makes the pass' work with such filters
void let_filters_follow(Pass& pass, std::function<Work(const FilterChain&)> work);

/// Gives a filter's pass its work, and lets it go together with others.
void make_filter(Pass& pass, FilterStep step);

}  // namespace periscena::passes
