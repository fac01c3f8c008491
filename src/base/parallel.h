#pragma once

#include <cstddef>
#include <functional>

namespace periscena {

/// Does `work(0)` to `work(count - 1)` on as many threads as the machine has, the calling one among them, and returns
/// when all are done. The work must not change what is shared.
/// @throws  what the work with the lowest number threw, when all have ended
void parallel_for(std::size_t count, const std::function<void(std::size_t)>& work);

}  // namespace periscena
