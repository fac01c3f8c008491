#include <periscena/inspect/costs.h>

#include "inspect/json.h"

#include <periscena/inspect/report.h>

#include <fmt/format.h>

#include <algorithm>
#include <chrono>

namespace periscena::inspect {
namespace {

using Clock = std::chrono::steady_clock;

double milliseconds_since(Clock::time_point start) {
  return std::chrono::duration<double, std::milli>(Clock::now() - start).count();
}

double median(std::vector<double>& values) {
  const auto middle = values.begin() + static_cast<std::ptrdiff_t>(values.size() / 2);
  std::nth_element(values.begin(), middle, values.end());
  return *middle;
}

}  // namespace

FrameCosts measure_costs(gl::FrameRunner& runner, const Moment& moment, int rounds) {
  runner.run_settled(moment.seconds, moment.history_steps, moment.history_rate);
  const std::vector<PlannedPass>& passes = runner.plan().passes();
  std::vector<std::vector<double>> times(passes.size());
  for (int i = 0; i < std::max(1, rounds); ++i) {
    runner.draw_all_anew();
    runner.wait();
    Clock::time_point start = Clock::now();
    runner.run(moment.seconds, [&](std::size_t pass) {
      runner.wait();
      times[pass].push_back(milliseconds_since(start));
      start = Clock::now();
    });
  }
  FrameCosts costs;
  for (std::size_t i = 0; i < passes.size(); ++i) {
    if (times[i].empty()) continue;
    const PlannedPass& pass = passes[i];
    costs.passes.push_back(
        {pass.name, pass.kind, pass.width, pass.height, pass.samples, median(times[i]), runner.counts(i)});
  }
  costs.milliseconds = frame_milliseconds(runner, moment.seconds, rounds);
  costs.bytes = runner.plan().bytes();
  return costs;
}

double frame_milliseconds(gl::FrameRunner& runner, double seconds, int rounds) {
  std::vector<double> times;
  for (int i = 0; i < std::max(1, rounds); ++i) {
    runner.draw_all_anew();
    runner.wait();
    const Clock::time_point start = Clock::now();
    runner.run(seconds);
    runner.wait();
    times.push_back(milliseconds_since(start));
  }
  return median(times);
}

std::string costs_text(const FrameCosts& costs) {
  std::size_t name = 10, kind = 4;
  double sum = 0, most = 0;
  for (const PassCost& pass : costs.passes) {
    name = std::max(name, pass.name.size());
    kind = std::max(kind, pass.kind.size());
    sum += pass.milliseconds;
    most = std::max(most, pass.milliseconds);
  }
  std::string text = fmt::format("  {:<{}}  {:<{}}  {:>13}  {:>9}  {:>7}  {:>10}\n", "pass", name, "kind", kind,
                                 "pixels", "ms", "of all", "draw calls");
  for (const PassCost& pass : costs.passes) {
    const std::string size =
        fmt::format("{} x {}{}", pass.width, pass.height, pass.samples > 1 ? fmt::format(" x{}", pass.samples) : "");
    text += fmt::format("{} {:<{}}  {:<{}}  {:>13}  {:>9.2f}  {:>6.1f}%  {:>10}\n",
                        pass.milliseconds == most ? '>' : ' ', pass.name, name, pass.kind, kind, size,
                        pass.milliseconds, 100 * pass.milliseconds / std::max(sum, 1e-9), pass.counts.draw_calls);
  }
  text += fmt::format("\n  {:.2f} ms in all with a wait after each pass, {:.2f} ms without; {} of targets\n", sum,
                      costs.milliseconds, bytes_text(costs.bytes));
  return text + "  by the wall clock, medians, everything drawn anew\n";
}

std::string costs_json(const FrameCosts& costs) {
  Json json{{"clock", "wall"}, {"milliseconds", costs.milliseconds}, {"bytes", costs.bytes}, {"passes", Json::array()}};
  for (const PassCost& pass : costs.passes) {
    json["passes"].push_back({{"name", pass.name},
                              {"kind", pass.kind},
                              {"width", pass.width},
                              {"height", pass.height},
                              {"samples", pass.samples},
                              {"milliseconds", pass.milliseconds},
                              {"draw_calls", pass.counts.draw_calls},
                              {"triangles", pass.counts.triangles}});
  }
  return dump(json);
}

}  // namespace periscena::inspect
