#include "passes/pass_kind.h"

#include "passes/forward/forward.h"
#include "passes/fullscreen/fullscreen.h"
#include "passes/transfer/transfer.h"

#include <periscena/base/names.h>

#include <fmt/format.h>

#include <algorithm>

namespace periscena::gl {
ShaderLibrary pass_texts();  // written by cmake/embed.cmake
}

namespace periscena::passes {

std::span<const PassKind> pass_kinds() {
  static const std::vector<PassKind> kinds{forward_kind(), fullscreen_kind(), copy_kind(), resolve_kind(),
                                           mip_chain_kind()};
  return kinds;
}

const PassKind* find_pass_kind(std::string_view name) {
  const auto kinds = pass_kinds();
  const auto found = std::find_if(kinds.begin(), kinds.end(), [&](const PassKind& kind) { return kind.name == name; });
  return found == kinds.end() ? nullptr : &*found;
}

gl::ShaderLibrary pass_shaders() {
  return gl::pass_texts();
}

void expect_view(const Scene* scene, const Reference& view, const std::string& who, Diagnostics& problems) {
  if (!scene) {
    problems.error("no-scene", view.place, fmt::format("{} wants a view, but there is no scene", who),
                   "give the frame a scene");
    return;
  }
  if (scene->find_view(view.name)) return;
  std::vector<std::string> names;
  for (const View& known : scene->views()) names.push_back(known.name);
  problems.error(
      "unknown-view", view.place, fmt::format("{} looks through \"{}\", which is no view", who, view.name),
      names.empty() ? "declare it: [view." + view.name + "] with eye and target" : name_hint(view.name, names));
}

}  // namespace periscena::passes
