// The bell filter of shadow maps, from comparisons between texels, beside one fetch for each of its taps: the same pass
// over the same floor, once with the library's filter and once with a loop over all taps. Pictures are compared first.
//
//   build/release/bench/bench_shadow_filter [rounds]

#include "field.h"
#include "timing.h"

#include <periscena/gl/frame_runner.h>
#include <periscena/image/statistics.h>
#include <periscena/passes/fullscreen.h>
#include <periscena/passes/shadow_map.h>

#include <chrono>
#include <cstdlib>

namespace {

constexpr const char* through_library = R"(float lit(ShadowPart part, vec3 here, vec3 to_light) {
  return share_in_part(shadows[0], part, here, vec3(0.0, 1.0, 0.0), to_light);
}
)";

// One comparison between four texels for each tap; what they weigh together is the bell, moved by where the place is
// between texels, as in the library's. What they weigh is known when the program is compiled.
constexpr const char* tap_by_tap = R"(float lit(ShadowPart part, vec3 here, vec3 to_light) {
  Shadow shadow = shadows[0];
  ShadowPlace place = place_in_part(shadow, part, here, vec3(0.0, 1.0, 0.0), to_light);
  vec2 texel = 1.0 / map_size(1);
  const int radius = BELL_RADIUS;
  float sum = 0.0, whole = 0.0;
  for (int y = -radius; y <= radius; ++y) {
    for (int x = -radius; x <= radius; ++x) {
      float w = exp(-2.0 * float(x * x + y * y) / float((radius + 1) * (radius + 1)));
      sum += w * compare_at(1, place, texel * vec2(x, y));
      whole += w;
    }
  }
  return sum / whole;
}
)";

// What either costs beside its comparisons.
constexpr const char* without_comparisons = R"(float lit(ShadowPart part, vec3 here, vec3 to_light) {
  ShadowPlace place = place_in_part(shadows[0], part, here, vec3(0.0, 1.0, 0.0), to_light);
  return place.at.x + place.at.z + place.slope.x + place.slope.y;
}
)";

FrameGraph frame_of(const Field& field, const char* lookup, float radius) {
  FrameGraph graph;
  graph.target("map", {.format = Format::depth32f, .size = TargetSize::pixels(1024, 1024)});
  const TargetHandle picture = graph.target("picture", {.format = Format::r32f});
  graph.keep(picture);
  graph.add(passes::shadow_map({.scene = field.scene, .light = "sun", .depth = "map", .radius = radius}));
  passes::Fullscreen floor;
  floor.name = "floor";
  floor.shader = gl::ShaderText::from_text("floor",
                                           fmt::format(R"(#include "periscena/fullscreen.glsl"
#include "periscena/lights.glsl"
{}
out float share;
void main() {{
  vec3 here = vec3(200.0 * uv.x - 100.0, -3.0, 100.0 * uv.y - 50.0);
  share = lit(shadow_parts[0], here, -lights[0].direction.xyz);
}}
)",
                                                       lookup),
                                           passes::pass_shaders());
  floor.scene = field.scene;
  floor.shadows = {"map"};
  floor.writes = {{"share", picture}};
  graph.add(passes::fullscreen(floor));
  return graph;
}

double milliseconds_of(gl::FrameRunner& runner) {
  const auto start = std::chrono::steady_clock::now();
  for (int i = 0; i < 3; ++i) runner.run(0);
  runner.wait();
  return std::chrono::duration<double, std::milli>(std::chrono::steady_clock::now() - start).count() / 3;
}

}  // namespace

int main(int argc, char** argv) {
  const int rounds = argc > 1 ? std::atoi(argv[1]) : 7;
  gl::Device device = gl::Device::headless();
  const Field field(false);
  fmt::print(
      "the bell of shadow maps, 1280 x 720 (aim: tap by tap takes 1.5 times as long)\n\n{:<8} {:>10} {:>12} {:>8} "
      "{:>12} {:>10}\n",
      "radius", "ms", "tap by tap", "pass", "lookup alone", "rmse");
  for (const float radius : {1.0f, 2.0f, 3.0f, 4.0f}) {
    gl::FrameRunner ours(device, frame_of(field, through_library, radius).plan(1280, 720, device.limits()).value());
    gl::FrameRunner taps(device, frame_of(field, tap_by_tap, radius).plan(1280, 720, device.limits()).value());
    gl::FrameRunner bare(device, frame_of(field, without_comparisons, radius).plan(1280, 720, device.limits()).value());
    ours.run(0);
    taps.run(0);
    bare.run(0);
    const double rmse = compare(ours.read("picture"), taps.read("picture")).rmse;
    std::vector<double> through, one_by_one, rest, ratios, alone;
    for (int i = 0; i < rounds; ++i) {
      through.push_back(milliseconds_of(ours));
      one_by_one.push_back(milliseconds_of(taps));
      rest.push_back(milliseconds_of(bare));
      ratios.push_back(one_by_one.back() / through.back());
      alone.push_back((one_by_one.back() - rest.back()) / (through.back() - rest.back()));
    }
    fmt::print("{:<8} {:>10.1f} {:>12.1f} {:>8.2f} {:>12.2f} {:>10.1e}\n", radius, median(through), median(one_by_one),
               median(ratios), median(alone), rmse);
  }
  return 0;
}
