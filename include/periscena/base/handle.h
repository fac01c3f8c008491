#pragma once

#include <compare>
#include <cstdint>
#include <limits>

namespace periscena {

/// An index that only fits the kind of thing it was made for. Default-made, it points at nothing. Where things can be
/// removed, the generation tells what is there now from what was there before.
template <class Kind>
struct Handle {
  static constexpr std::uint32_t none = std::numeric_limits<std::uint32_t>::max();

  std::uint32_t index = none;
  std::uint32_t generation = 0;

  constexpr bool valid() const { return index != none; }
  constexpr auto operator<=>(const Handle&) const = default;
};

}  // namespace periscena
