#pragma once

#if __has_include(<sanitizer/allocator_interface.h>)
#include <sanitizer/allocator_interface.h>
#endif
#include <malloc.h>
#include <cstddef>
#include "sanitized.h"

/// What this process and its driver have allocated and not given back, to the byte. Not its resident memory, which also
/// depends on what allocators keep of what was freed.
inline std::size_t held_bytes() {
#if __has_include(<sanitizer/allocator_interface.h>)
  if constexpr (sanitized) return __sanitizer_get_current_allocated_bytes();
#endif
  const struct mallinfo2 heap = mallinfo2();
  return heap.uordblks + heap.hblkhd;
}
