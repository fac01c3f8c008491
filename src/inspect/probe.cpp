#include <periscena/inspect/probe.h>

#include "inspect/json.h"

#include <periscena/base/error.h>
#include <periscena/passes/geometry.h>
#include <periscena/passes/picker.h>

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace periscena::inspect {
namespace {

std::string unit_of(const CapturedTarget& found) {
  const FormatInfo& format = info(found.format);
  if (found.stencil) return "stencil";
  if (format.depth) return "depth";
  if (format.integer()) return found.holds == Holds::id || found.shows == Shows::object_ids ? "id" : "";
  if (found.image.is_eight_bit()) return format.numbers == NumberKind::srgb ? "of 255, sRGB" : "of 255";
  if (found.shows == Shows::places) return "metres";
  if (found.shows != Shows::what_it_holds && found.shows != Shows::motions && found.shows != Shows::counts) return "";
  return found.holds == Holds::color ? "nits" : "";
}

Image cut(const Image& image, const ProbeEntry& entry) {
  Image part(entry.width, entry.height, image.format());
  for (int y = 0; y < entry.height; ++y) {
    for (int x = 0; x < entry.width; ++x) part.set(x, y, image.at(entry.x + x, entry.y + y));
  }
  return part;
}

/// The pixels of a target of `size` that lie under these of a frame of `frame` pixels.
std::array<int, 2> span_of(int first, int count, int frame, int size) {
  const auto at = [&](double place) { return static_cast<int>(std::floor(place * size / frame)); };
  if (count == 1) return {std::min(size - 1, at(first + 0.5)), 1};
  const int from = std::min(size - 1, at(first));
  const int to = static_cast<int>(std::ceil(static_cast<double>(first + count) * size / frame));
  return {from, std::clamp(to - from, 1, size - from)};
}

std::string number_text(double value) {
  return std::isfinite(value) && value == std::floor(value) && std::abs(value) < 1e15 ? fmt::format("{:.0f}", value)
                                                                                      : fmt::format("{:.6g}", value);
}

/// JSON has no NaN and no infinity.
Json number_json(double value) {
  return std::isfinite(value) ? Json(value) : Json(std::isnan(value) ? "nan" : value > 0 ? "infinity" : "-infinity");
}

std::string name_text(const ProbeEntry& entry) {
  std::string text = entry.target;
  if (entry.level > 0) text += fmt::format(" level {}", entry.level);
  if (entry.layer > 0) text += fmt::format(" layer {}", entry.layer);
  return text + (entry.stencil ? " stencil" : "");
}

std::string channel_name(std::size_t channel, const ProbeEntry& entry) {
  if (entry.unit == "depth" || entry.unit == "stencil") return "";
  return std::string(1, "RGBA"[channel]) + " ";
}

/// The name of the scene's object whose id a geometry pass wrote; empty where there is none.
std::string object_of(const PlannedPass& pass, const CapturedTarget& found, double id) {
  const auto* geometry = pass.declared ? std::get_if<GeometryFacts>(&pass.declared->facts) : nullptr;
  if (!geometry || found.shows != Shows::object_ids || id < 1) return {};
  const passes::Picked picked = passes::picked(*geometry->drawn.scene, static_cast<std::uint64_t>(id));
  if (!picked.node.valid()) return {};
  return picked.name.empty() ? fmt::format("object {}", picked.node.index + 1) : picked.name;
}

}  // namespace

std::vector<ProbeEntry> probe(gl::FrameRunner& runner, const Moment& moment, const PixelRect& place) {
  const int width = runner.plan().width(), height = runner.plan().height();
  const bool inside = place.x >= 0 && place.y >= 0 && place.width >= 1 && place.height >= 1 &&
                      place.x <= width - place.width && place.y <= height - place.height;
  if (!inside) {
    throw Mistake("pixel-outside", {},
                  place.width == 1 && place.height == 1
                      ? fmt::format("pixel {},{} is outside of {} x {}", place.x, place.y, width, height)
                      : fmt::format("region {},{},{},{} is not inside of {} x {}", place.x, place.y, place.width,
                                    place.height, width, height),
                  fmt::format("pixels count from 0,0 at the upper left to {},{}", width - 1, height - 1));
  }
  std::vector<ProbeEntry> entries;
  visit_targets(runner, moment, [&](const CapturedTarget& found) {
    ProbeEntry entry;
    entry.pass = found.pass_name;
    entry.target = found.target;
    entry.level = found.level;
    entry.layer = found.layer;
    entry.stencil = found.stencil;
    entry.unit = unit_of(found);
    const auto [x, columns] = span_of(place.x, place.width, width, found.image.width());
    const auto [y, rows] = span_of(place.y, place.height, height, found.image.height());
    entry.x = x;
    entry.y = y;
    entry.width = columns;
    entry.height = rows;
    const FormatInfo& format = info(found.format);
    const int channels = format.color() ? std::min(format.channels, found.image.channels()) : 1;
    if (place.width == 1 && place.height == 1) {
      const auto pixel = found.image.at(x, y);
      entry.values.assign(pixel.begin(), pixel.begin() + channels);
      entry.object = object_of(runner.plan().passes()[found.pass], found, pixel[0]);
      if (entry.unit == "depth" && found.camera)
        entry.metres = found.camera->projection(1).distance_at(static_cast<float>(pixel[0]));
    } else {
      entry.region = statistics(cut(found.image, entry));
      entry.region.resize(static_cast<std::size_t>(channels));
    }
    entries.push_back(std::move(entry));
  });
  return entries;
}

std::string to_text(const std::vector<ProbeEntry>& entries) {
  std::size_t widest = 8;
  for (const ProbeEntry& entry : entries) widest = std::max(widest, name_text(entry).size());
  std::string text;
  const std::string* pass = nullptr;
  for (const ProbeEntry& entry : entries) {
    if (!pass || *pass != entry.pass) text += entry.pass + "\n";
    pass = &entry.pass;
    const std::string where = entry.width == 1 && entry.height == 1
                                  ? fmt::format("{},{}", entry.x, entry.y)
                                  : fmt::format("{},{} {}x{}", entry.x, entry.y, entry.width, entry.height);
    text += fmt::format("  {:<{}}  {:>9} ", name_text(entry), widest, where);
    for (std::size_t c = 0; c < entry.values.size(); ++c)
      text += fmt::format(" {}{}{}", channel_name(c, entry), number_text(entry.values[c]),
                          c + 1 < entry.values.size() ? " " : "");
    if (!entry.unit.empty()) text += "  " + entry.unit;
    if (!entry.object.empty()) text += fmt::format(": \"{}\"", entry.object);
    if (entry.metres)
      text += std::isfinite(*entry.metres) ? fmt::format(", {:.4g} m away", *entry.metres) : ", the far end";
    text += "\n";
    for (std::size_t c = 0; c < entry.region.size(); ++c) {
      const ChannelStatistics& one = entry.region[c];
      text += fmt::format("  {:<{}}  {:>2}min {:<12} max {:<12} mean {}{}\n", "", widest + 10, channel_name(c, entry),
                          number_text(one.least), number_text(one.most), number_text(one.mean),
                          one.nan + one.infinite ? fmt::format(" ({} not finite)", one.nan + one.infinite) : "");
    }
  }
  return text;
}

std::string to_json(const std::vector<ProbeEntry>& entries) {
  Json list = Json::array();
  for (const ProbeEntry& entry : entries) {
    Json json{{"pass", entry.pass},       {"target", entry.target}, {"level", entry.level}, {"layer", entry.layer},
              {"stencil", entry.stencil}, {"x", entry.x},           {"y", entry.y},         {"width", entry.width},
              {"height", entry.height},   {"unit", entry.unit}};
    if (!entry.values.empty()) {
      json["values"] = Json::array();
      for (const double value : entry.values) json["values"].push_back(number_json(value));
    }
    for (const ChannelStatistics& one : entry.region) {
      json["channels"].push_back(
          {{"min", one.least}, {"max", one.most}, {"mean", one.mean}, {"nan", one.nan}, {"infinite", one.infinite}});
    }
    if (!entry.object.empty()) json["object"] = entry.object;
    if (entry.metres) json["metres"] = number_json(*entry.metres);
    list.push_back(std::move(json));
  }
  return dump(list);
}

}  // namespace periscena::inspect
