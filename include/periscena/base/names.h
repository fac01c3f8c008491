#pragma once

#include <span>
#include <string>
#include <string_view>
#include <vector>

namespace periscena {

/// Edit distance with neighbouring letters swapped as one step (optimal string alignment), case counting half a step
/// rounded up.
int edit_distance(std::string_view a, std::string_view b);

/// The candidate that `wanted` most likely meant: within a third of its length (at least one step), else one that
/// begins with it, if it has four letters or more. Empty when there is none; the first of equals wins.
std::string_view nearest_name(std::string_view wanted, std::span<const std::string> candidates);

/// What to say about an unknown name: `did you mean "towpath"?`, or the choices (`one of "a", "b"`), at most eight of
/// them. Empty when there are no candidates.
std::string name_hint(std::string_view wanted, std::span<const std::string> candidates);

/// `"a", "b", "c"`; after `most` names "and N more".
std::string quoted_list(std::span<const std::string> names, std::size_t most = 8);

/// "1 texture", "3 textures": a count of things whose plural ends in s.
std::string counted(std::size_t count, std::string_view noun);

}  // namespace periscena
