#include "model/gltf/import.h"

#include <periscena/base/error.h>

#include <fmt/format.h>

namespace periscena::gltf {
namespace {

template <class Value, class Vector>
Track<Value> read_track(Interpolation interpolation, const Stream<Matrix<float, 1, 1>>& times,
                        const Stream<Vector>& values) {
  Track<Value> track;
  track.interpolation = interpolation;
  for (const auto& time : times) track.times.push_back(time[0]);
  for (const Vector& value : values) {
    if constexpr (std::is_same_v<Value, Quat>) {
      track.values.emplace_back(value[3], value[0], value[1], value[2]);
    } else {
      track.values.push_back(value);
    }
  }
  return track;
}

}  // namespace

void Importer::add_animations() {
  for (std::size_t i = 0; i < document_.count("animations"); ++i) {
    const JsonReader animation = document_.item("animations", i);
    for (const JsonReader& channel : animation.at("channels").items()) read_channel(animation, channel);
  }
  for (auto& [node, keys] : keyed_) {
    try {
      keys.expect_sound(document_.item("nodes", node).text("name", fmt::format("nodes[{}]", node)));
    } catch (const Mistake& mistake) {
      document_.item("nodes", node).refuse(mistake.diagnostics()[0].message, mistake.diagnostics()[0].mend);
    }
  }
}

void Importer::read_channel(const JsonReader& animation, const JsonReader& channel) {
  const JsonReader target = channel.at("target");
  const auto node = target.index("node", document_.count("nodes"), "nodes");
  if (!node) return;
  const JsonReader samplers = animation.at("samplers");
  const JsonReader sampler = samplers.item(channel.at("sampler").index(samplers.size(), "samplers"));
  const std::string path = target.at("path").text(), way = sampler.text("interpolation", "LINEAR");
  if (way != "LINEAR" && way != "STEP" && way != "CUBICSPLINE")
    sampler.at("interpolation").refuse(fmt::format("is \"{}\", which is none", way));
  const Interpolation interpolation = way == "STEP"     ? Interpolation::step
                                      : way == "LINEAR" ? Interpolation::linear
                                                        : Interpolation::cubic;
  const std::size_t accessors = document_.count("accessors");
  const auto times = accessors_.floats<Matrix<float, 1, 1>>(sampler.at("input").index(accessors, "accessors"));
  const std::size_t output = sampler.at("output").index(accessors, "accessors");
  if (times.empty()) sampler.refuse("has no keys");
  document_.budget().spend(times.size(), 64, sampler);
  KeyedPlacement& keys = keyed_[*node];
  const auto warn_if_taken = [&](const auto& track) {
    if (track.empty()) return;
    warn("overlapping-animations",
         fmt::format("{} moves the {} of nodes[{}], which another does, too", channel.path(), path, *node),
         "the later one counts");
  };
  if (path == "translation") {
    warn_if_taken(keys.translation_track);
    keys.translation_track = read_track<Vec3>(interpolation, times, accessors_.floats<Vec3>(output));
  } else if (path == "scale") {
    warn_if_taken(keys.scale_track);
    keys.scale_track = read_track<Vec3>(interpolation, times, accessors_.floats<Vec3>(output));
  } else if (path == "rotation") {
    warn_if_taken(keys.rotation_track);
    keys.rotation_track = read_track<Quat>(interpolation, times, accessors_.floats<Vec4>(output));
  } else {
    if (keys == KeyedPlacement()) keyed_.erase(*node);
    warn("unsupported-animation", fmt::format("{} moves \"{}\", which is not supported", channel.path(), path),
         "translation, rotation and scale are");
  }
}

}  // namespace periscena::gltf
