#include "passes/shared_keys.h"

namespace periscena::passes {

Reference text_of(const PassSource& source, const char* key, Diagnostics& problems) {
  Reference text;
  if (const Value* value = source.table->find(key))
    KeyType<Reference>::read(*value, {key, "text", {}, "", ""}, text, problems);
  return text;
}

void read_glsl(const PassSource& source, const char* key, gl::ShaderText& into, Diagnostics& problems) {
  const Reference path = text_of(source, key, problems);
  if (path.empty()) return;
  collect_mistakes(path.place, problems,
                   [&] { into = gl::ShaderText::file((source.folder / path.name).string(), pass_shaders()); });
}

}  // namespace periscena::passes
