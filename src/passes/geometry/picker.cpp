#include <periscena/passes/picker.h>

#include <periscena/base/error.h>

#include <fmt/format.h>

namespace periscena::passes {

std::optional<std::uint64_t> Picker::ask(const gl::FrameRunner& runner, std::string_view ids, int x, int y) {
  const gl::Texture& texture = runner.texture(ids);
  if (!info(texture.format()).integer()) {
    throw Mistake(
        "not-ids", {},
        fmt::format("target \"{}\" is {}, and numbers of objects are whole", ids, to_string(texture.format())),
        "name the target that a geometry pass writes as id, of format r32ui");
  }
  return reader_.ask(texture, x, y);
}

std::optional<Picked> Picker::answer() {
  const auto answer = reader_.answer();
  if (!answer) return std::nullopt;
  Picked found = picked(*scene_, static_cast<std::uint64_t>(answer->values[0]));
  found.question = answer->question;
  return found;
}

Picked picked(const Scene& scene, std::uint64_t id) {
  Picked found;
  if (id == 0 || id > scene.nodes().size()) return found;
  found.node = scene.node_handle(static_cast<std::uint32_t>(id - 1));
  for (NodeHandle at = found.node; at.valid() && found.name.empty(); at = scene.nodes()[at.index].parent)
    found.name = scene.nodes()[at.index].name;
  return found;
}

}  // namespace periscena::passes
