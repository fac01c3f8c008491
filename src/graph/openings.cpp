#include <periscena/graph/frame_graph.h>

#include <periscena/base/names.h>

#include <fmt/format.h>

#include <algorithm>

namespace periscena {
namespace {

constexpr int most_openings = 127;  // a bit of the stencil marks what is being opened

const Write* depth_write(const Pass& pass) {
  const auto found =
      std::find_if(pass.writes.begin(), pass.writes.end(), [](const Write& write) { return write.slot == "depth"; });
  return found == pass.writes.end() ? nullptr : &*found;
}

}  // namespace

void FrameGraph::open_window(Pass& pass) {
  if (openings_ == most_openings) {
    pass.problems.error(
        "too-many-openings", pass.place,
        fmt::format("pass \"{}\" opens one window more than the {} that a frame has", pass.name, most_openings),
        "open windows that show the same in one pass, by their tags");
    return;
  }
  pass.opening = ++openings_;
}

void FrameGraph::put_inside(Pass& pass) const {
  const Place& place = pass.inside.place.known() ? pass.inside.place : pass.place;
  const auto found =
      std::find_if(passes_.begin(), passes_.end(), [&](const auto& one) { return one->name == pass.inside.name; });
  if (found == passes_.end() || !(*found)->opens) {
    std::vector<std::string> names;
    for (const auto& one : passes_) {
      if (one->opens) names.push_back(one->name);
    }
    pass.problems.error(
        "unknown-opening", place,
        found == passes_.end()
            ? fmt::format("pass \"{}\" is inside of \"{}\", which no pass before it opens", pass.name, pass.inside.name)
            : fmt::format("pass \"{}\" is inside of \"{}\", which is no window: its kind is {}", pass.name,
                          pass.inside.name, (*found)->kind),
        names.empty() ? "declare a pass of kind opening before it" : name_hint(pass.inside.name, names));
    return;
  }
  const Pass& window = **found;
  if (!pass.draws()) {
    pass.problems.error("not-drawn", place,
                        fmt::format("pass \"{}\" copies or resolves, which heeds no window", pass.name),
                        "draw it with a pass of kind fullscreen");
    return;
  }
  pass.within = window.opening;
  const Write* stencil = depth_write(window);
  if (!stencil) return;  // that was told
  const Write* own = depth_write(pass);
  if (own && target_of(own->target) != target_of(stencil->target)) {
    pass.problems.error(
        "other-depth", own->target.reference.place.known() ? own->target.reference.place : pass.place,
        fmt::format("pass \"{}\" is inside of \"{}\", and writes another depth than it", pass.name, window.name),
        "write the same depth: its stencil tells where the window is");
    return;
  }
  // Around the window, all stays as it was.
  for (Write& write : pass.writes) write.covering = Covering::draws_over;
  if (own) return;
  Write added{.slot = "depth", .target = stencil->target};
  added.target.reference.place = place;
  pass.writes.push_back(std::move(added));
}

}  // namespace periscena
