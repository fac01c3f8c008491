#include <periscena/model/model.h>

#include <periscena/base/error.h>
#include <periscena/base/names.h>
#include <periscena/model/gltf.h>
#include <periscena/model/obj.h>

#include <fmt/format.h>

#include <algorithm>
#include <cctype>
#include <vector>

namespace periscena {
namespace {

constexpr ModelKind kinds[] = {
    {".gltf", "glTF 2.0", read_gltf},
    {".glb", "glTF 2.0 in one file", read_gltf, write_glb},
    {".obj", "Wavefront OBJ", read_obj},
};

const ModelKind* kind_of(const std::filesystem::path& path) {
  std::string extension = path.extension().string();
  for (char& c : extension) c = static_cast<char>(std::tolower(static_cast<unsigned char>(c)));
  const auto found = std::find_if(std::begin(kinds), std::end(kinds),
                                  [&](const ModelKind& kind) { return kind.extension == extension; });
  return found == std::end(kinds) ? nullptr : &*found;
}

/// @param wanted  which kinds would do
template <class Wanted>
[[noreturn]] void refuse(const std::filesystem::path& path, const char* verb, Wanted wanted) {
  std::vector<std::string> extensions;
  for (const ModelKind& kind : kinds) {
    if (wanted(kind)) extensions.emplace_back(kind.extension);
  }
  fail("unknown-model", Place::file(path.string()),
       fmt::format("models that end in \"{}\" are not {}", path.extension().string(), verb), name_hint("", extensions));
}

}  // namespace

std::span<const ModelKind> model_kinds() {
  return kinds;
}

bool is_model(const std::filesystem::path& path) {
  return kind_of(path) != nullptr;
}

Import read_model(const std::filesystem::path& path, PictureReader* pictures) {
  if (const ModelKind* kind = kind_of(path)) return kind->read(path, pictures);
  refuse(path, "read", [](const ModelKind&) { return true; });
}

void write_model(const Scene& scene, const std::filesystem::path& path) {
  const ModelKind* kind = kind_of(path);
  if (kind && kind->write) return kind->write(scene, path);
  refuse(path, "written", [](const ModelKind& one) { return one.write != nullptr; });
}

}  // namespace periscena
