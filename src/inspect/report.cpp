#include <periscena/inspect/report.h>

#include "inspect/json.h"

#include <fmt/format.h>

namespace periscena::inspect {
namespace {

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

std::string sample_text(const std::vector<int>& counts) {
  std::string text;
  for (const int count : counts) text += fmt::format("{}{}", text.empty() ? "" : " ", count);
  return text.empty() ? "-" : text;
}

const char* yes_no(bool yes) {
  return yes ? "yes" : "no";
}

}  // namespace

std::string dump(const Json& json) {
  return json.dump(2, ' ', false, Json::error_handler_t::replace) + "\n";
}

Json json_of(const Diagnostics& diagnostics) {
  Json list = Json::array();
  for (const Diagnostic& found : diagnostics) list.push_back(json_of(found));
  if (diagnostics.omitted() > 0) {
    list.push_back(
        {{"severity", "note"}, {"slug", "more"}, {"message", fmt::format("and {} more", diagnostics.omitted())}});
  }
  return list;
}

std::string bytes_text(std::size_t bytes) {
  if (bytes < 1024) return fmt::format("{} bytes", bytes);
  const auto number = static_cast<double>(bytes);
  if (bytes < 1024 * 1024) return fmt::format("{:.1f} KiB", number / 1024);
  if (bytes < std::size_t{1} << 30) return fmt::format("{:.1f} MiB", number / (1 << 20));
  return fmt::format("{:.1f} GiB", number / (1 << 30));
}

std::string to_json(const Diagnostics& diagnostics) {
  return dump(json_of(diagnostics));
}

std::string to_text(const gl::Capabilities& capabilities) {
  std::string text =
      fmt::format("renderer  {}\nvendor    {}\nOpenGL    {}\nGLSL      {}\n\nfeatures\n", capabilities.renderer,
                  capabilities.vendor, capabilities.version, capabilities.shading_language);
  for (const gl::Feature& feature : capabilities.features) {
    text += fmt::format("  {:<30} {:<4} {}\n", feature.name, yes_no(feature.present), feature.path);
  }
  text += fmt::format("\nmemory    {}\n\nlimits\n",
                      capabilities.memory_bytes ? bytes_text(capabilities.memory_bytes) : "not told by the driver");
  for (const gl::Limit& limit : capabilities.limits) text += fmt::format("  {:<36} {:>12}\n", limit.name, limit.value);
  text += fmt::format("\n{:<18} {:<10} {:<10} {:<9} {}\n", "format", "drawn into", "filtered", "blended", "samples");
  for (const gl::FormatSupport& format : capabilities.formats) {
    text += fmt::format("{:<18} {:<10} {:<10} {:<9} {}\n", to_string(format.format), yes_no(format.renderable),
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
  json["memory_bytes"] = capabilities.memory_bytes ? Json(capabilities.memory_bytes) : Json();
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
