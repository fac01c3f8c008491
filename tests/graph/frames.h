#pragma once

#include <periscena/gl/pass_work.h>
#include <periscena/graph/frame_graph.h>

#include <string>
#include <vector>

/// A pass for tests of the graph: it is never run.
inline periscena::Pass pass_of(std::string name, std::vector<std::string> reads, std::vector<std::string> writes,
                               periscena::Covering covering = periscena::Covering::draws_over) {
  periscena::Pass pass;
  pass.name = std::move(name);
  pass.kind = "test";
  for (const std::string& read : reads) pass.reads.push_back({read, periscena::Reference(read)});
  for (const std::string& write : writes) {
    const std::string slot = write.starts_with("depth") ? "depth" : write;
    pass.writes.push_back({slot, periscena::Reference(write), covering});
  }
  pass.work = periscena::gl::work([](periscena::gl::PassSetup&) { return nullptr; });
  return pass;
}

inline std::vector<std::string> slugs(const periscena::Diagnostics& diagnostics) {
  std::vector<std::string> list;
  for (const auto& found : diagnostics) list.push_back(found.slug);
  return list;
}

inline std::vector<std::string> order(const periscena::FramePlan& plan) {
  std::vector<std::string> list;
  for (const auto& pass : plan.passes()) list.push_back(pass.name);
  return list;
}
