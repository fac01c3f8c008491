#include "passes/shared_keys.h"

namespace periscena::passes {

Reference text_of(const PassSource& source, const char* key, Diagnostics& problems, Need need) {
  Reference text;
  if (const Value* value = source.table->find(key))
    KeyType<Reference>::read(*value, {key, "text", {.required = need == Need::required}, "", ""}, text, problems);
  return text;
}

void read_glsl(const PassSource& source, const char* key, gl::ShaderText& into, Diagnostics& problems, Need need) {
  const Reference path = text_of(source, key, problems, need);
  if (path.empty()) return;
  collect_mistakes(path.place, problems,
                   [&] { into = gl::ShaderText::file((source.folder / path.name).string(), pass_shaders()); });
}

}  // namespace periscena::passes
