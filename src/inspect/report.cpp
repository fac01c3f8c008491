#include <periscena/inspect/report.h>

#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include <algorithm>

namespace periscena::inspect {
namespace {

using Json = nlohmann::ordered_json;

/// Text that is not UTF-8 (a driver's, a path's) must not stop a report.
std::string dump(const Json& json) {
  return json.dump(2, ' ', false, Json::error_handler_t::replace) + "\n";
}

Json json_of(const Diagnostic& found) {
  Json json{{"severity", to_string(found.severity)}, {"slug", found.slug}, {"message", found.message}};
  if (!found.mend.empty()) json["mend"] = found.mend;
  if (!found.place.known()) return json;
  json["file"] = found.place.file_name();
  if (found.place.line > 0) json["line"] = found.place.line;
  if (found.place.column > 0) {
    json["column"] = found.place.column;
    json["length"] = found.place.length;
  }
  if (found.place.source && found.place.line > 0) json["text"] = found.place.source->line(found.place.line);
  return json;
}

Json json_of(const Diagnostics& diagnostics) {
  Json list = Json::array();
  for (const Diagnostic& found : diagnostics) list.push_back(json_of(found));
  return list;
}

const char* load_word(LoadAction load) {
  switch (load) {
    case LoadAction::clear: return "clear";
    case LoadAction::keep: return "keep";
    case LoadAction::discard: break;
  }
  return "overwrite";
}

std::size_t widest_name(const FramePlan& plan) {
  std::size_t widest = 6;
  for (const PlannedTarget& target : plan.targets()) widest = std::max(widest, target.name.size());
  return widest;
}

std::string sample_text(const std::vector<int>& counts) {
  std::string text;
  for (const int count : counts) text += fmt::format("{}{}", text.empty() ? "" : " ", count);
  return text.empty() ? "-" : text;
}

const char* yes_no(bool yes) {
  return yes ? "yes" : "no";
}

}  // namespace

std::string bytes_text(std::size_t bytes) {
  if (bytes < 1024) return fmt::format("{} bytes", bytes);
  const auto number = static_cast<double>(bytes);
  if (bytes < 1024 * 1024) return fmt::format("{:.1f} KiB", number / 1024);
  return fmt::format("{:.1f} MiB", number / (1024 * 1024));
}

std::string to_json(const Diagnostics& diagnostics) {
  return dump(json_of(diagnostics));
}

std::string to_text(const FramePlan& plan) {
  std::string text = fmt::format("frame {} x {}: {} pass{}, {} target{}, {}\n\n", plan.width(), plan.height(),
                                 plan.passes().size(), plan.passes().size() == 1 ? "" : "es", plan.targets().size(),
                                 plan.targets().size() == 1 ? "" : "s", bytes_text(plan.bytes()));
  int number = 0;
  for (const PlannedPass& pass : plan.passes()) {
    text += fmt::format("{:>3}  {} ({}), {} x {}\n", ++number, pass.name, pass.kind, pass.width, pass.height);
    for (const PlannedRead& read : pass.reads) {
      text += fmt::format("       reads   {} as {}\n", plan.targets()[read.target].name, read.slot);
    }
    for (const PlannedWrite& write : pass.writes) {
      text += fmt::format("       writes  {} as {}, {}\n", plan.targets()[write.target].name, write.slot,
                          write.load == LoadAction::clear  ? "cleared first"
                          : write.load == LoadAction::keep ? "over what is there"
                                                           : "every pixel");
    }
  }
  const std::size_t widest = widest_name(plan);
  text += fmt::format("\n{:<{}}  {:<11} {:>13} {:>11}\n", "target", widest, "format", "size", "memory");
  for (const PlannedTarget& target : plan.targets()) {
    text += fmt::format("{:<{}}  {:<11} {:>13} {:>11}\n", target.name, widest, to_string(target.description.format),
                        fmt::format("{} x {}", target.width, target.height), bytes_text(target.bytes));
  }
  if (!plan.removed().empty()) text += "\nleft out:\n";
  for (const RemovedPass& removed : plan.removed()) text += fmt::format("  {}: {}\n", removed.name, removed.reason);
  return text;
}

std::string to_json(const FramePlan& plan, const Diagnostics& warnings) {
  Json json{{"width", plan.width()}, {"height", plan.height()}, {"bytes", plan.bytes()}};
  json["passes"] = Json::array();
  for (const PlannedPass& pass : plan.passes()) {
    Json reads = Json::array(), writes = Json::array();
    for (const PlannedRead& read : pass.reads)
      reads.push_back({{"slot", read.slot}, {"target", plan.targets()[read.target].name}});
    for (const PlannedWrite& write : pass.writes) {
      writes.push_back(
          {{"slot", write.slot}, {"target", plan.targets()[write.target].name}, {"load", load_word(write.load)}});
    }
    json["passes"].push_back({{"name", pass.name},
                              {"kind", pass.kind},
                              {"width", pass.width},
                              {"height", pass.height},
                              {"reads", reads},
                              {"writes", writes}});
  }
  json["targets"] = Json::array();
  for (const PlannedTarget& target : plan.targets()) {
    json["targets"].push_back({{"name", target.name},
                               {"format", to_string(target.description.format)},
                               {"width", target.width},
                               {"height", target.height},
                               {"bytes", target.bytes}});
  }
  json["left_out"] = Json::array();
  for (const RemovedPass& removed : plan.removed())
    json["left_out"].push_back({{"name", removed.name}, {"reason", removed.reason}});
  json["diagnostics"] = json_of(warnings);
  return dump(json);
}

std::string to_text(const gl::Capabilities& capabilities) {
  std::string text =
      fmt::format("renderer  {}\nvendor    {}\nOpenGL    {}\nGLSL      {}\n\nfeatures\n", capabilities.renderer,
                  capabilities.vendor, capabilities.version, capabilities.shading_language);
  for (const gl::Feature& feature : capabilities.features) {
    text += fmt::format("  {:<30} {:<4} {}\n", feature.name, yes_no(feature.present), feature.path);
  }
  text += "\nlimits\n";
  for (const gl::Limit& limit : capabilities.limits) text += fmt::format("  {:<36} {:>12}\n", limit.name, limit.value);
  text += fmt::format("\n{:<12} {:<10} {:<10} {:<9} {}\n", "format", "drawn into", "filtered", "blended", "samples");
  for (const gl::FormatSupport& format : capabilities.formats) {
    text += fmt::format("{:<12} {:<10} {:<10} {:<9} {}\n", to_string(format.format), yes_no(format.renderable),
                        yes_no(format.filterable), yes_no(format.blendable), sample_text(format.sample_counts));
  }
  return text;
}

std::string to_json(const gl::Capabilities& capabilities) {
  Json json{{"renderer", capabilities.renderer},     {"vendor", capabilities.vendor}, {"opengl", capabilities.version},
            {"glsl", capabilities.shading_language}, {"major", capabilities.major},   {"minor", capabilities.minor}};
  json["features"] = Json::array();
  for (const gl::Feature& feature : capabilities.features) {
    json["features"].push_back({{"name", feature.name}, {"present", feature.present}, {"path", feature.path}});
  }
  json["limits"] = Json::object();
  for (const gl::Limit& limit : capabilities.limits) json["limits"][limit.name] = limit.value;
  json["formats"] = Json::array();
  for (const gl::FormatSupport& format : capabilities.formats) {
    json["formats"].push_back({{"format", to_string(format.format)},
                               {"drawn_into", format.renderable},
                               {"filtered", format.filterable},
                               {"blended", format.blendable},
                               {"sample_counts", format.sample_counts}});
  }
  return dump(json);
}

}  // namespace periscena::inspect
