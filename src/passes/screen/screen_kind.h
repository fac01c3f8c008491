#pragma once

#include "passes/pass_kind.h"

#include <fmt/format.h>

#include <algorithm>
#include <span>

namespace periscena::passes {

/// A target that a pass over the whole picture reads or writes, and where its options have it.
template <class Options>
struct Slot {
  SlotInfo info;
  TargetUse Options::*target;
};

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

  /// Fills in what no key says by itself: the scene, files by their paths.
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
      pass.problems.error("missing-key", pass.place, fmt::format("{} reads no {}", who, slot.info.name), slot.info.sentence);
    }
  }
  for (const Slot<Options>& slot : writes) {
    if (const TargetUse& target = options.*slot.target; !target.empty()) {
      pass.writes.push_back({.slot = slot.info.name, .target = target, .overwrites = true, .coding = ColorCoding::light});
      pass.shader->outputs.push_back({slot.info.name, ValueKind::floating, static_cast<int>(pass.shader->outputs.size())});
    } else if (slot.info.required) {
      pass.problems.error("missing-key", pass.place, fmt::format("{} writes no {}", who, slot.info.name), slot.info.sentence);
    }
  }
  keys.check(options, pass.place, pass.problems);
  finish(options, pass);
  if (pass.problems.has_errors()) pass.work = {};
  return pass;
}

template <class Options>
PassKind ScreenKind<Options>::kind() const {
  PassKind kind;
  kind.name = name;
  kind.sentence = sentence;
  kind.example = example;
  for (const Slot<Options>& slot : reads) kind.reads.push_back(slot.info);
  for (const Slot<Options>& slot : writes) kind.writes.push_back(slot.info);
  kind.keys = keys.infos();
  kind.make = [said = *this](const PassSource& source) {
    Options options;
    Diagnostics problems;
    options.name = source.name.name;
    said.keys.read(*source.table, fmt::format("pass \"{}\"", options.name), options, problems);
    Diagnostics unreadable;
    if (said.read_more) said.read_more(source, options, unreadable);
    bool whole = !unreadable.has_errors();
    problems.append(unreadable);
    for (const Slot<Options>& slot : said.reads) {
      if (const TargetUse* target = find_read(source, slot.info.name)) options.*slot.target = *target;
      whole = whole && !(slot.info.required && (options.*slot.target).empty());
    }
    for (const Slot<Options>& slot : said.writes) {
      if (const TargetUse* target = find_write(source, slot.info.name)) options.*slot.target = *target;
      whole = whole && !(slot.info.required && (options.*slot.target).empty());
    }
    Pass pass = said.make(options, source.name.place);
    if (!whole) pass.problems = {};  // what is missing was told already
    // Parts, history and places are the file's.
    for (Read& read : pass.reads) {
      const auto given = std::find_if(source.reads.begin(), source.reads.end(), [&](const Read& one) { return one.slot == read.slot; });
      if (given == source.reads.end()) continue;
      const bool each_sample = read.each_sample;
      if (read.history == 0) read = *given;
      read.each_sample = each_sample;
    }
    for (Write& write : pass.writes) {
      const auto given = std::find_if(source.writes.begin(), source.writes.end(), [&](const Write& one) { return one.slot == write.slot; });
      if (given == source.writes.end()) continue;
      write.place = given->place;
      write.level = given->level;
      write.layer = given->layer;
    }
    pass.problems.append(problems);
    return pass;
  };
  return kind;
}

}  // namespace periscena::passes
