#include <periscena/inspect/report.h>

#include "inspect/json.h"

#include <fmt/format.h>

#include <algorithm>

namespace periscena::inspect {
namespace {

struct Column {
  const char* title;
  const char* json;
  std::uint64_t gl::Counts::*value;
};

constexpr Column count_columns[] = {
    {"draw calls", "draw_calls", &gl::Counts::draw_calls},
    {"commands", "commands", &gl::Counts::commands},
    {"instances", "instances", &gl::Counts::instances},
    {"triangles", "triangles", &gl::Counts::triangles},
    {"culled", "culled", &gl::Counts::culled},
    {"state changes", "state_changes", &gl::Counts::state_changes},
    {"bytes sent", "bytes_sent", &gl::Counts::bytes_sent},
};

/// "12,345".
std::string grouped(std::uint64_t number) {
  std::string text = std::to_string(number);
  for (auto at = static_cast<std::ptrdiff_t>(text.size()) - 3; at > 0; at -= 3)
    text.insert(static_cast<std::size_t>(at), ",");
  return text;
}

std::string row(const std::string& name, std::size_t name_width, const gl::Counts& counts) {
  std::string text = fmt::format("{:<{}}", name, name_width);
  for (const Column& column : count_columns)
    text += fmt::format("  {:>{}}", grouped(counts.*column.value),
                        std::max<std::size_t>(10, std::string_view(column.title).size()));
  return text + "\n";
}

Json json_of(const gl::Counts& counts) {
  Json json;
  for (const Column& column : count_columns) json[column.json] = counts.*column.value;
  return json;
}

std::string objects(std::uint64_t count) {
  return fmt::format("{} object{}", grouped(count), count == 1 ? "" : "s");
}

}  // namespace

std::string counts_text(const gl::FrameRunner& runner) {
  const std::vector<PlannedPass>& passes = runner.plan().passes();
  const std::string whole = "the frame";
  std::size_t width = whole.size();
  for (const PlannedPass& pass : passes) width = std::max(width, pass.name.size());
  std::string text = fmt::format("{:<{}}", "pass", width);
  for (const Column& column : count_columns) text += fmt::format("  {:>10}", column.title);
  text += "\n";
  for (std::size_t i = 0; i < passes.size(); ++i) text += row(passes[i].name, width, runner.counts(i));
  return text + row(whole, width, runner.counts());
}

std::string counts_json(const gl::FrameRunner& runner) {
  const std::vector<PlannedPass>& passes = runner.plan().passes();
  Json list = Json::array();
  for (std::size_t i = 0; i < passes.size(); ++i) {
    Json entry{{"pass", passes[i].name}};
    entry.update(json_of(runner.counts(i)));
    list.push_back(std::move(entry));
  }
  return dump(Json{{"passes", std::move(list)}, {"frame", json_of(runner.counts())}});
}

std::string batches_text(const gl::FrameRunner& runner) {
  const std::vector<PlannedPass>& passes = runner.plan().passes();
  std::string text;
  for (std::size_t i = 0; i < passes.size(); ++i) {
    const std::vector<gl::Batch> batches = runner.batches(i);
    if (batches.empty()) continue;
    gl::Counts sum;
    for (const gl::Batch& batch : batches) sum += batch.counts;
    text += fmt::format("{}pass \"{}\": {} batch{}, {} draw call{}, {}, {} triangles\n", text.empty() ? "" : "\n",
                        passes[i].name, batches.size(), batches.size() == 1 ? "" : "es", sum.draw_calls,
                        sum.draw_calls == 1 ? "" : "s", objects(sum.instances), grouped(sum.triangles));
    for (const gl::Choice& choice : runner.choices(i)) text += fmt::format("      {}: {}\n", choice.of, choice.way);
    for (std::size_t k = 0; k < batches.size(); ++k) {
      const gl::Batch& batch = batches[k];
      if (k > 0) text += fmt::format("      not one with the batch before it: {}\n", batch.why_apart);
      text += fmt::format("{:>4}  {}: {} in {} command{}, {} triangles\n", k + 1, batch.what,
                          objects(batch.counts.instances), grouped(batch.counts.commands),
                          batch.counts.commands == 1 ? "" : "s", grouped(batch.counts.triangles));
    }
  }
  return text.empty() ? "no pass of this frame draws objects\n" : text;
}

std::string batches_json(const gl::FrameRunner& runner) {
  const std::vector<PlannedPass>& passes = runner.plan().passes();
  Json list = Json::array();
  for (std::size_t i = 0; i < passes.size(); ++i) {
    Json batches = Json::array();
    for (const gl::Batch& batch : runner.batches(i)) {
      Json entry{{"what", batch.what}};
      entry.update(json_of(batch.counts));
      if (!batch.why_apart.empty()) entry["why_apart"] = batch.why_apart;
      batches.push_back(std::move(entry));
    }
    if (batches.empty()) continue;
    Json choices = Json::object();
    for (const gl::Choice& choice : runner.choices(i)) choices[choice.of] = choice.way;
    list.push_back({{"pass", passes[i].name}, {"choices", std::move(choices)}, {"batches", std::move(batches)}});
  }
  return dump(Json{{"passes", std::move(list)}});
}

}  // namespace periscena::inspect
