#pragma once

#include <periscena/gl/pass_work.h>
#include <periscena/graph/frame_graph.h>

#include <algorithm>
#include <random>
#include <string>

/// A right frame of that many passes over targets of a few sizes and formats: each pass reads one to three targets that
/// were written shortly before, and writes a new one or, now and then, an old one again. The last writes the output.
inline periscena::FrameGraph random_frame(int passes, unsigned seed) {
  using namespace periscena;
  std::mt19937 random(seed);
  const auto pick = [&](int count) { return static_cast<int>(random() % static_cast<unsigned>(count)); };
  constexpr Format formats[] = {Format::rgba16f, Format::rgba8, Format::r11g11b10f, Format::rg16f, Format::r32ui};
  constexpr float scales[] = {1, 0.5f, 0.25f};
  FrameGraph frame;
  std::vector<TargetHandle> written;
  for (int i = 0; i < passes; ++i) {
    Pass pass;
    pass.name = "pass " + std::to_string(i);
    pass.kind = "test";
    const int nearest = static_cast<int>(written.size());
    const int reads = nearest == 0 ? 0 : 1 + pick(3);
    for (int k = 0; k < reads; ++k) {
      const auto index = static_cast<std::size_t>(std::max(0, nearest - 1 - (k == 0 ? 0 : pick(8))));
      pass.reads.push_back({"source" + std::to_string(k), written[index]});
    }
    const bool last = i + 1 == passes;
    TargetHandle target = frame.output();
    if (!last && nearest > 12 && pick(5) == 0) {
      target = written[static_cast<std::size_t>(nearest - 10 - pick(3))];  // none of those it reads
      written.erase(std::find(written.begin(), written.end(), target));
    } else if (!last) {
      target = frame.target("target " + std::to_string(i),
                            {.format = formats[pick(5)], .size = TargetSize::of_frame(scales[pick(3)])});
    }
    pass.writes.push_back({"color", target, pick(2) == 0 ? Covering::replaces : Covering::draws_over});
    pass.work = gl::work([](gl::PassSetup&) { return nullptr; });
    if (!last) written.push_back(target);
    frame.add(std::move(pass));
  }
  return frame;
}
