#include <periscena/inspect/report.h>

#include "inspect/json.h"

#include <fmt/format.h>

#include <algorithm>

namespace periscena::inspect {
namespace {

const char* load_word(LoadAction load) {
  switch (load) {
    case LoadAction::clear: return "clear";
    case LoadAction::keep: return "keep";
    case LoadAction::discard: break;
  }
  return "overwrite";
}

const char* plural(std::size_t count) {
  return count == 1 ? "" : "s";
}

std::string part_text(int level, int layer) {
  std::string text;
  if (level == upper_levels) text += ", levels from 1 up";
  if (level > 0) text += fmt::format(", level {}", level);
  if (layer != all_layers) text += fmt::format(", layer {}", layer);
  return text;
}

std::string sample_text(int samples) {
  return samples == 1 ? "" : fmt::format(" x{}", samples);
}

/// "rgba16f x4, 5 levels, 6 faces"
std::string make_text(const PlannedTarget& target) {
  std::string text = fmt::format("{}{}", to_string(target.description.format), sample_text(target.samples));
  if (target.levels > 1) text += fmt::format(", {} levels", target.levels);
  if (target.description.shape == TargetShape::array) text += fmt::format(", {} layers", target.layers);
  if (target.description.shape == TargetShape::cube) text += ", cube";
  if (target.frames > 1) text += fmt::format(", {} frames", target.frames);
  return text;
}

/// A letter for each pass: w written, r read, - held, . not alive.
std::string life_text(const FramePlan& plan, std::uint32_t target) {
  const PlannedTarget& known = plan.targets()[target];
  std::string text;
  for (std::uint32_t p = 0; p < plan.passes().size(); ++p) {
    const PlannedPass& pass = plan.passes()[p];
    const auto uses = [&](const auto& list) {
      return std::any_of(list.begin(), list.end(), [&](const auto& use) { return use.target == target; });
    };
    text += uses(pass.writes)                                       ? 'w'
            : uses(pass.reads)                                      ? 'r'
            : p >= known.lifetime.first && p <= known.lifetime.last ? '-'
                                                                    : '.';
  }
  return text;
}

std::vector<std::string> sharers(const FramePlan& plan, std::uint32_t target) {
  std::vector<std::string> names;
  for (std::uint32_t i = 0; i < plan.targets().size(); ++i) {
    if (i != target && plan.targets()[i].storage == plan.targets()[target].storage)
      names.push_back(plan.targets()[i].name);
  }
  return names;
}

std::string place_text(const FramePlan& plan, const PlannedTarget& target) {
  const PlannedStorage& storage = plan.storages()[target.storage];
  if (storage.origin == Origin::outside_texture) return "texture made outside";
  if (storage.origin == Origin::outside_framebuffer) return "framebuffer made outside";
  std::string text = fmt::format("{}{}", storage.renderbuffer ? "renderbuffer " : "texture ", target.storage + 1);
  if (target.frames > 1) text += fmt::format(" to {}", target.storage + target.frames);
  return text;
}

std::string pass_text(const FramePlan& plan, const PlannedPass& pass, int number) {
  std::string text = fmt::format("{:>3}  {} ({}), {} x {}{}\n", number, pass.name, pass.kind, pass.width, pass.height,
                                 pass.samples == 1 ? "" : fmt::format(", {} samples", pass.samples));
  for (const PlannedRead& read : pass.reads) {
    text += fmt::format(
        "       reads   {} as {}{}{}\n", plan.targets()[read.target].name, read.slot, part_text(read.level, read.layer),
        read.history ? fmt::format(", {} frame{} ago", read.history, read.history == 1 ? "" : "s") : "");
  }
  for (const PlannedWrite& write : pass.writes) {
    text += fmt::format("       writes  {} as {}{}, {}\n", plan.targets()[write.target].name, write.slot,
                        part_text(write.level, write.layer),
                        write.load == LoadAction::clear  ? "cleared first"
                        : write.load == LoadAction::keep ? "over what is there"
                                                         : "every pixel");
  }
  return text;
}

std::string memory_text(const FramePlan& plan) {
  const std::size_t bytes = plan.bytes(), unshared = plan.unshared_bytes(), least = plan.least_bytes();
  if (bytes == unshared) return fmt::format("memory  {}; nothing can be shared\n", bytes_text(bytes));
  return fmt::format("memory  {}; without sharing {}; the fewest there could be {}\n", bytes_text(bytes),
                     bytes_text(unshared), bytes_text(least));
}

std::string targets_text(const FramePlan& plan) {
  std::size_t name_width = 6, make_width = 6;
  for (const PlannedTarget& target : plan.targets()) {
    name_width = std::max(name_width, target.name.size());
    make_width = std::max(make_width, make_text(target).size());
  }
  constexpr std::size_t widest_life = 48;
  const bool letters = plan.passes().size() <= widest_life;
  const std::size_t life_width = letters ? std::max<std::size_t>(5, plan.passes().size()) : 11;
  std::string text = fmt::format("{:<{}}  {:<{}} {:>13} {:>10}  {:<{}}  {}\n", "target", name_width, "format",
                                 make_width, "size", "memory", "life", life_width, "lies in");
  for (std::uint32_t i = 0; i < plan.targets().size(); ++i) {
    const PlannedTarget& target = plan.targets()[i];
    const std::string life =
        letters ? life_text(plan, i) : fmt::format("{} to {}", target.lifetime.first + 1, target.lifetime.last + 1);
    const std::size_t others = sharers(plan, i).size();
    text += fmt::format("{:<{}}  {:<{}} {:>13} {:>10}  {:<{}}  {}{}\n", target.name, name_width, make_text(target),
                        make_width, fmt::format("{} x {}", target.width, target.height), bytes_text(target.bytes), life,
                        life_width, place_text(plan, target),
                        others         ? ", shared"
                        : target.lasts ? ", kept"
                                       : "");
  }
  if (letters) text += "life, pass by pass: w written, r read, - held, . not there\n";
  return text;
}

Json target_json(const FramePlan& plan, std::uint32_t index) {
  const PlannedTarget& target = plan.targets()[index];
  const PlannedStorage& storage = plan.storages()[target.storage];
  Json json{{"name", target.name},
            {"format", to_string(target.description.format)},
            {"holds", to_string(target.description.meaning())},
            {"width", target.width},
            {"height", target.height},
            {"samples", target.samples},
            {"levels", target.levels},
            {"layers", target.layers},
            {"shape", to_string(target.description.shape)},
            {"frames", target.frames},
            {"bytes", target.bytes},
            {"first_pass", target.lifetime.first},
            {"last_pass", target.lifetime.last},
            {"kept", target.lasts},
            {"storage", target.storage},
            {"renderbuffer", storage.renderbuffer},
            {"shares_with", sharers(plan, index)}};
  if (target.resolved_from) json["resolved_from"] = plan.targets()[*target.resolved_from].name;
  return json;
}

Json pass_json(const FramePlan& plan, const PlannedPass& pass) {
  Json reads = Json::array(), writes = Json::array();
  const auto add_part = [](Json& json, int level, int layer) {
    if (level == upper_levels || level > 0) json["level"] = level == upper_levels ? Json("from 1 up") : Json(level);
    if (layer != all_layers) json["layer"] = layer;
  };
  for (const PlannedRead& read : pass.reads) {
    Json one{{"slot", read.slot}, {"target", plan.targets()[read.target].name}};
    add_part(one, read.level, read.layer);
    if (read.history) one["history"] = read.history;
    reads.push_back(one);
  }
  for (const PlannedWrite& write : pass.writes) {
    Json one{{"slot", write.slot}, {"target", plan.targets()[write.target].name}, {"load", load_word(write.load)}};
    add_part(one, write.level, write.layer);
    writes.push_back(one);
  }
  Json finishes = Json::array();
  for (const std::uint32_t target : pass.finishes) finishes.push_back(plan.targets()[target].name);
  return {{"name", pass.name},     {"kind", pass.kind},       {"width", pass.width},
          {"height", pass.height}, {"samples", pass.samples}, {"put_in", !pass.declared},
          {"reads", reads},        {"writes", writes},        {"finishes", finishes}};
}

}  // namespace

std::string to_text(const FramePlan& plan) {
  std::string text = fmt::format("frame {} x {}: {} pass{}, {} target{}\n{}\n", plan.width(), plan.height(),
                                 plan.passes().size(), plan.passes().size() == 1 ? "" : "es", plan.targets().size(),
                                 plural(plan.targets().size()), memory_text(plan));
  int number = 0;
  for (const PlannedPass& pass : plan.passes()) text += pass_text(plan, pass, ++number);
  text += "\n" + targets_text(plan);
  if (!plan.removed().empty()) text += "\nleft out:\n";
  for (const RemovedPass& removed : plan.removed()) text += fmt::format("  {}: {}\n", removed.name, removed.reason);
  return text;
}

std::string to_json(const FramePlan& plan, const Diagnostics& warnings) {
  Json json{{"width", plan.width()},
            {"height", plan.height()},
            {"bytes", plan.bytes()},
            {"unshared_bytes", plan.unshared_bytes()},
            {"least_bytes", plan.least_bytes()}};
  json["passes"] = Json::array();
  for (const PlannedPass& pass : plan.passes()) json["passes"].push_back(pass_json(plan, pass));
  json["targets"] = Json::array();
  for (std::uint32_t i = 0; i < plan.targets().size(); ++i) json["targets"].push_back(target_json(plan, i));
  json["left_out"] = Json::array();
  for (const RemovedPass& removed : plan.removed())
    json["left_out"].push_back({{"name", removed.name}, {"reason", removed.reason}});
  json["diagnostics"] = json_of(warnings);
  return dump(json);
}

}  // namespace periscena::inspect
