#pragma once

#include "passes/described_kind.h"

#include <fmt/format.h>

namespace periscena::passes {

/// A kind of pass over the whole picture, said once: its C++ options, their keys in frame files, its targets.
/// @tparam Options  a struct with a `name`, and a member for each slot and key
template <class Options>
struct ScreenKind {
  const char* name;
  const char* sentence;
  const char* example;
  std::vector<Slot<Options>> reads, writes;
  Keys<Options> keys = {};

  /// Makes the pass of options that are in range; what it finds wrong goes into the pass' problems.
  void (*finish)(const Options&, Pass&) = nullptr;

  /// Fills in what no key says by itself, such as files by their paths.
  void (*read_more)(const PassSource&, Options&, Diagnostics&) = nullptr;

  Pass make(const Options& options, Place place) const;
  PassKind kind() const;
};

template <class Options>
Pass ScreenKind<Options>::make(const Options& options, Place place) const {
  Pass pass = pass_of_kind(name, options.name, std::move(place));
  const std::string who = fmt::format("pass \"{}\"", options.name);
  pass.shader = ShaderInterface{.source = fmt::format("periscena/{}.frag", name), .outputs = {}, .samplers = {}};
  for (const Slot<Options>& slot : reads) {
    if (const TargetUse& target = options.*slot.target; !target.empty()) {
      pass.reads.push_back({.slot = slot.info.name, .target = target});
      pass.shader->samplers.push_back({.name = slot.info.name});
    } else if (slot.info.required) {
      pass.problems.error("missing-key", pass.place, fmt::format("{} reads no {}", who, slot.info.name),
                          fmt::format("name a target for it: {}", slot.info.sentence));
    }
  }
  for (const Slot<Options>& slot : writes) {
    if (const TargetUse& target = options.*slot.target; !target.empty()) {
      pass.writes.push_back(
          {.slot = slot.info.name, .target = target, .covering = Covering::replaces, .coding = ColorCoding::light});
      pass.shader->outputs.push_back(
          {slot.info.name, ValueKind::floating, static_cast<int>(pass.shader->outputs.size())});
    } else if (slot.info.required) {
      pass.problems.error("missing-key", pass.place, fmt::format("{} writes no {}", who, slot.info.name),
                          fmt::format("name a target for it: {}", slot.info.sentence));
    }
  }
  keys.check(options, pass.place, pass.problems);
  finish(options, pass);
  if (pass.problems.has_errors()) pass.work = {};
  return pass;
}

template <class Options>
PassKind ScreenKind<Options>::kind() const {
  const auto made = [said = *this](const Options& options, Place place) {
    return said.make(options, std::move(place));
  };
  return DescribedKind<Options>{.name = name,
                                .sentence = sentence,
                                .example = example,
                                .reads = reads,
                                .writes = writes,
                                .keys = keys,
                                .make = made,
                                .read_more = read_more}
      .kind();
}

}  // namespace periscena::passes
