#pragma once

// What the options of several kinds of passes share.

#include <periscena/batch/batching.h>
#include <periscena/graph/read_write.h>
#include <periscena/scene/choice.h>
#include <periscena/scene/default_cache.h>

#include <memory>
#include <string>
#include <vector>

namespace periscena {
struct Pass;
class Scene;
}  // namespace periscena

namespace periscena::passes {
struct PassKind;
}  // namespace periscena::passes
