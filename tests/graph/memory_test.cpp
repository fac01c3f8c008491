#include "graph/frames.h"
#include "graph/random_frame.h"
#include "thrown.h"

using namespace periscena;

TEST_CASE("targets that never live at once lie in one storage, and those that do never") {
  for (unsigned seed = 0; seed < 40; ++seed) {
    const FramePlan plan = random_frame(60, seed).plan(64, 48).value();
    for (std::size_t a = 0; a < plan.targets().size(); ++a) {
      for (std::size_t b = a + 1; b < plan.targets().size(); ++b) {
        const PlannedTarget &one = plan.targets()[a], &two = plan.targets()[b];
        if (one.storage != two.storage) continue;
        REQUIRE_FALSE(one.lifetime.overlaps(two.lifetime));
        REQUIRE(one.width == two.width);
        REQUIRE(one.height == two.height);
        REQUIRE(info(one.description.format).bytes == info(two.description.format).bytes);
      }
    }
    // Lifetimes are those of a walk over the passes.
    for (std::uint32_t t = 0; t < plan.targets().size(); ++t) {
      for (std::uint32_t p = 0; p < plan.passes().size(); ++p) {
        const auto uses = [&](const auto& list) {
          return std::any_of(list.begin(), list.end(), [&](const auto& use) { return use.target == t; });
        };
        if (uses(plan.passes()[p].reads) || uses(plan.passes()[p].writes))
          REQUIRE(plan.targets()[t].lifetime.overlaps({p, p}));
      }
    }
  }
}

TEST_CASE("planned memory is within a twentieth of the least there could be") {
  for (unsigned seed = 0; seed < 60; ++seed) {
    const FramePlan plan = random_frame(5 + static_cast<int>(seed) * 7, seed).plan(640, 360).value();
    const auto bytes = static_cast<double>(plan.bytes()), least = static_cast<double>(plan.least_bytes());
    REQUIRE(bytes >= least);
    REQUIRE(bytes <= 1.05 * least);
    REQUIRE(plan.bytes() <= plan.unshared_bytes());
  }
  const FramePlan large = random_frame(500, 1).plan(640, 360).value();
  REQUIRE(large.bytes() < large.unshared_bytes() / 5);
}

TEST_CASE("the least is what a slow count of the bytes alive in each pass gives") {
  for (unsigned seed = 0; seed < 20; ++seed) {
    const FramePlan plan = random_frame(30, seed).plan(64, 48).value();
    // Classes by hand: equal size and equal bytes a pixel (all formats of these frames are colours).
    std::vector<std::array<int, 3>> classes;
    std::size_t sum = 0;
    for (const PlannedTarget& target : plan.targets()) {
      const std::array<int, 3> key{target.width, target.height, info(target.description.format).bytes};
      if (std::find(classes.begin(), classes.end(), key) == classes.end()) classes.push_back(key);
    }
    for (const auto& key : classes) {
      std::size_t most = 0;
      for (std::uint32_t p = 0; p < plan.passes().size(); ++p) {
        std::size_t alive = 0;
        for (const PlannedTarget& target : plan.targets()) {
          const std::array<int, 3> its{target.width, target.height, info(target.description.format).bytes};
          if (its == key && target.lifetime.overlaps({p, p})) alive += target.bytes;
        }
        most = std::max(most, alive);
      }
      sum += most;
    }
    REQUIRE(plan.least_bytes() == sum);
  }
}

TEST_CASE("what is kept, read later or has history is never shared with what comes after it") {
  FrameGraph frame;
  for (const char* name : {"a", "b", "c"}) frame.target(name, {});
  frame.keep("a");
  frame.add(pass_of("one", {}, {"a"}));
  frame.add(pass_of("two", {"a"}, {"b"}));
  frame.add(pass_of("three", {"b"}, {"c"}));
  frame.add(pass_of("end", {"c"}, {"output"}));
  const FramePlan plan = frame.plan(8, 8).value();
  const auto storage = [&](const char* name) { return plan.targets()[*plan.find_target(name)].storage; };
  REQUIRE(storage("a") != storage("c"));
  REQUIRE(storage("b") != storage("c"));
  REQUIRE(plan.passes()[2].finishes == std::vector<std::uint32_t>{*plan.find_target("b")});
}

TEST_CASE("ten gibibytes are refused before anything is allocated, with the sum and the three largest") {
  FrameGraph frame;
  for (int i = 0; i < 6; ++i) {
    const std::string name = "t" + std::to_string(i);
    frame.target(name, {.format = Format::rgba32f, .size = TargetSize::pixels(8192 + 512 * i, 12000)});
    frame.add(pass_of("p" + std::to_string(i), {}, {name}));
    frame.keep(TargetUse(Reference(name)));
  }
  DeviceLimits limits;
  limits.asked = true;
  limits.sample_counts.resize(all_formats().size());
  const PlanResult result = frame.plan(8, 8, limits);
  REQUIRE(slugs(result.diagnostics()) == std::vector<std::string>{"over-memory"});
  REQUIRE_FALSE(result.ok());
  REQUIRE_THAT(result.diagnostics()[0].message, Catch::Contains("take 10.2 GiB, over the 8.0 GiB") &&
                                                    Catch::Contains("\"t5\" takes 1.9 GiB, \"t4\" takes") &&
                                                    Catch::Contains("\"t3\" takes") && !Catch::Contains("\"t2\""));
  limits.target_bytes = std::size_t{16} << 30;
  REQUIRE(frame.plan(8, 8, limits).ok());
}
