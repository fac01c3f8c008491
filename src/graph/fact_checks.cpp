// What passes want of those whose targets they read.
#include "graph/planner.h"

#include <periscena/scene/scene.h>

#include <fmt/format.h>

#include <algorithm>

namespace periscena {
namespace {

using Writers = std::vector<const Pass*>;

bool are_same(const TargetUse& a, const TargetUse& b) {
  if (a.handle.valid() && b.handle.valid()) return a.handle == b.handle;
  return !a.reference.empty() && a.reference.name == b.reference.name;
}

/// Looks at what one pass reads.
class FactCheck {
 public:
  FactCheck(const Pass& pass, Diagnostics& problems) : pass_(pass), problems_(problems) {}

  void check(const Read& read, const Writers& writers) {
    if (const auto* geometry = std::get_if<WantsGeometry>(&read.wants)) check_geometry(read, *geometry, writers);
    if (const auto* motion = std::get_if<WantsMotion>(&read.wants)) check_motion(read, *motion, writers);
    if (const auto* shadows = std::get_if<WantsShadows>(&read.wants)) check_shadows(read, *shadows, writers);
  }

 private:
  /// One other view is told, and not another for each part.
  void check_geometry(const Read& read, const WantsGeometry& wanted, const Writers& writers) {
    const Place& place = read.target.reference.place;
    for (const Pass* writer : writers) {
      const auto* buffer = std::get_if<GeometryFacts>(&writer->facts);
      if (!buffer || other_view_) continue;
      if (buffer->drawn.view.name != wanted.view.name) {
        other_view_ = true;
        return problems_.error(
            "other-view", place,
            fmt::format(
                "pass \"{}\" looks through \"{}\", but what it reads as {} was drawn by pass \"{}\" through \"{}\"",
                pass_.name, wanted.view.name, read.slot, writer->name, buffer->drawn.view.name),
            "look through one view in both");
      }
      for (const Write& write : writer->writes) {
        if (write.slot == read.slot || !are_same(write.target, read.target)) continue;
        problems_.error("swapped-geometry", place,
                        fmt::format("pass \"{}\" reads as {} what pass \"{}\" writes as {}", pass_.name, read.slot,
                                    writer->name, write.slot),
                        fmt::format("read it as {}", write.slot));
      }
    }
  }

  void check_motion(const Read& read, const WantsMotion& wanted, const Writers& writers) {
    const Place& place = read.target.reference.place;
    for (const Pass* writer : writers) {
      if (writer->problems.has_errors() || std::holds_alternative<std::monostate>(writer->facts)) continue;
      const auto* motions = std::get_if<MotionFacts>(&writer->facts);
      if (!motions) {
        problems_.error(
            "not-a-velocity", place,
            fmt::format("pass \"{}\" looks for motions in what pass \"{}\" of kind {} writes", pass_.name, writer->name,
                        writer->kind),
            "name a target that a pass of kind velocity writes, or a fullscreen pass with GLSL of your own");
      } else if (motions->view.name != wanted.view.name) {
        problems_.error(
            "other-view", place,
            fmt::format(
                "pass \"{}\" looks through \"{}\", but the motions that it reads are those of \"{}\", from pass \"{}\"",
                pass_.name, wanted.view.name, motions->view.name, writer->name),
            fmt::format("set view = \"{}\" in one of them", wanted.view.name));
      } else if (wanted.since == WantsMotion::Since::last_frame && motions->seconds > 0) {
        problems_.error(
            "other-interval", place,
            fmt::format("pass \"{}\" wants motions since the frame before, and pass \"{}\" measures those of {} s",
                        pass_.name, writer->name, motions->seconds),
            "leave out seconds there, or give this pass a velocity pass of its own");
      }
    }
  }

  void check_shadows(const Read& read, const WantsShadows& wanted, const Writers& writers) {
    // Nobody, or somebody with mistakes of their own: that was told.
    const bool sound =
        std::none_of(writers.begin(), writers.end(), [](const Pass* one) { return one->problems.has_errors(); });
    if (writers.empty() || !sound) return;
    const Place& place = read.target.reference.place;
    for (const Pass* writer : writers) {
      if (std::holds_alternative<ShadowFacts>(writer->facts)) continue;
      return problems_.error(
          "not-a-shadow-map", place,
          fmt::format("pass \"{}\" looks for shadows in what pass \"{}\" writes, which is no shadow map", pass_.name,
                      writer->name),
          "name a target that a pass of kind shadow_map writes, and nothing else");
    }
    if (writers.size() > 1) {
      return problems_.error(
          "shared-shadow-map", place,
          fmt::format("passes \"{}\" and \"{}\" draw into one shadow map", writers[0]->name, writers[1]->name),
          "give each a target of its own, and name both in shadows");
    }
    const ShadowFacts& map = std::get<ShadowFacts>(writers[0]->facts);
    if (map.scene != wanted.scene) {
      return problems_.error("other-scene", place,
                             fmt::format("pass \"{}\" draws another scene than pass \"{}\", whose shadows it takes",
                                         pass_.name, writers[0]->name),
                             "draw both from one scene");
    }
    check_lights(map, wanted, place);
  }

  void check_lights(const ShadowFacts& map, const WantsShadows& wanted, const Place& place) {
    const std::vector<const Light*> lit = chosen_lights(*wanted.scene, wanted.lights);
    // Names that are not there were told, and which lights are meant is not known.
    const auto& names = wanted.lights.names();
    const bool known = std::all_of(names.begin(), names.end(),
                                   [&](const Reference& name) { return wanted.scene->has_light(name.name); });
    for (const std::string& light : map.lights) {
      if (std::find(shadowed_.begin(), shadowed_.end(), light) != shadowed_.end()) {
        return problems_.error("shadow-twice", place,
                               fmt::format("pass \"{}\" takes two shadow maps of light \"{}\"", pass_.name, light),
                               "keep one of them");
      }
      shadowed_.push_back(light);
      const bool lights = std::any_of(lit.begin(), lit.end(), [&](const Light* one) { return one->name == light; });
      if (lights || !known) continue;
      problems_.warning(
          "unlit-shadow", place,
          fmt::format("pass \"{}\" takes the shadows of light \"{}\", but is not lit by it", pass_.name, light),
          "add it to the pass' lights, or leave its shadow map out");
    }
  }

  const Pass& pass_;
  Diagnostics& problems_;
  std::vector<std::string> shadowed_;  ///< lights whose maps were read so far
  bool other_view_ = false;
};

}  // namespace

void Planner::check_wanted(std::uint32_t p) {
  const std::vector<Read>& reads = pass(p).reads;
  FactCheck check(pass(p), diagnostics_);
  for (std::size_t i = 0; i < reads.size(); ++i) {
    if (!std::holds_alternative<std::monostate>(reads[i].wants)) check.check(reads[i], writers_of_read(p, i));
  }
}

}  // namespace periscena
