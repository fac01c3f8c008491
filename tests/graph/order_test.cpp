#include "graph/frames.h"

#include <catch2/catch.hpp>

#include <random>

using namespace periscena;
using Names = std::vector<std::string>;

namespace {

Names planned_order(const Names& targets, const std::vector<Pass>& passes) {
  FrameGraph frame;
  for (const std::string& name : targets) frame.target(name, {});
  for (const Pass& pass : passes) frame.add(pass);
  const PlanResult result = frame.plan(8, 8);
  INFO(to_text(result.diagnostics()));
  REQUIRE(result.ok());
  return order(result.value());
}

}  // namespace

TEST_CASE("a target that is written once may be declared in any order") {
  REQUIRE(planned_order({"a", "b"}, {pass_of("finish", {"b"}, {"output"}), pass_of("blur", {"a"}, {"b"}),
                                     pass_of("scene", {}, {"a"})}) == Names{"scene", "blur", "finish"});
}

TEST_CASE("a chain that writes, reads and writes again runs as it was declared") {
  // Ping-pong: each reader sees the write before it, and the next write waits for that reader.
  REQUIRE(planned_order({"ping", "pong"},
                        {pass_of("scene", {}, {"ping"}), pass_of("across", {"ping"}, {"pong"}, Covering::replaces),
                         pass_of("down", {"pong"}, {"ping"}, Covering::replaces),
                         pass_of("finish", {"ping"}, {"output"})}) == Names{"scene", "across", "down", "finish"});
}

TEST_CASE("writers of one target keep their order, and a later reader sees the last") {
  REQUIRE(planned_order({"a"}, {pass_of("sky", {}, {"a"}, Covering::replaces), pass_of("scene", {}, {"a"}),
                                pass_of("glass", {}, {"a"}), pass_of("finish", {"a"}, {"output"})}) ==
          Names{"sky", "scene", "glass", "finish"});
}

TEST_CASE("passes that nothing needs are left out, with all that only they needed") {
  FrameGraph frame;
  for (const char* name : {"a", "b", "c"}) frame.target(name, {});
  frame.add(pass_of("feeds dead", {}, {"b"}));
  frame.add(pass_of("dead", {"b"}, {"c"}));
  frame.add(pass_of("scene", {}, {"a"}));
  frame.add(pass_of("finish", {"a"}, {"output"}));
  const PlanResult result = frame.plan(8, 8);
  REQUIRE(order(result.value()) == Names{"scene", "finish"});
  REQUIRE(result.value().removed().size() == 2);
  REQUIRE(result.value().target_names() == Names{"a", "output"});
  frame.keep("c");
  REQUIRE(order(frame.plan(8, 8).value()) == Names{"feeds dead", "dead", "scene", "finish"});
}

TEST_CASE("what is overwritten before anybody reads it is left out, what is drawn over is not") {
  REQUIRE(planned_order({"a"}, {pass_of("lost", {}, {"a"}), pass_of("all", {}, {"a"}, Covering::replaces),
                                pass_of("finish", {"a"}, {"output"})}) == Names{"all", "finish"});
  REQUIRE(planned_order({"a"}, {pass_of("under", {}, {"a"}), pass_of("over", {}, {"a"}),
                                pass_of("finish", {"a"}, {"output"})}) == Names{"under", "over", "finish"});
}

TEST_CASE("random frames: every read sees the write that the rule names, in a simulation of the planned order") {
  std::mt19937 random(20);
  int planned = 0;
  for (int round = 0; round < 400; ++round) {
    const int target_count = 2 + static_cast<int>(random() % 5), pass_count = 2 + static_cast<int>(random() % 8);
    FrameGraph frame;
    Names targets;
    for (int i = 0; i < target_count; ++i) {
      targets.push_back("t" + std::to_string(i));
      frame.target(targets.back(), {});
      frame.keep(targets.back().c_str());
    }
    std::vector<Pass> passes;
    for (int i = 0; i < pass_count; ++i) {
      const std::size_t write = random() % targets.size(), read = random() % targets.size();
      passes.push_back(
          pass_of("p" + std::to_string(i), read == write ? Names{} : Names{targets[read]}, {targets[write]}));
      frame.add(passes.back());
    }
    const PlanResult result = frame.plan(4, 4);
    if (!result.ok()) continue;
    ++planned;
    // By declaration: the last writer before the reader, else the last of all.
    const auto expected_writer = [&](std::size_t reader) {
      int before = -1, last = -1;
      for (std::size_t w = 0; w < passes.size(); ++w) {
        if (passes[w].writes[0].target.reference.name != passes[reader].reads[0].target.reference.name) continue;
        last = static_cast<int>(w);
        if (w < reader) before = static_cast<int>(w);
      }
      return before >= 0 ? before : last;
    };
    std::vector<int> holds(targets.size(), -1);
    for (const PlannedPass& pass : result.value().passes()) {
      const auto index = static_cast<std::size_t>(std::stoi(pass.name.substr(1)));
      const auto slot = [&](const std::string& name) { return static_cast<std::size_t>(std::stoi(name.substr(1))); };
      if (!passes[index].reads.empty()) REQUIRE(holds[slot(passes[index].reads[0].slot)] == expected_writer(index));
      holds[slot(passes[index].writes[0].slot)] = static_cast<int>(index);
    }
  }
  REQUIRE(planned > 50);
}
