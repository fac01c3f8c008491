#pragma once

#include <cstdint>
#include <span>
#include <string>
#include <string_view>
#include <unordered_map>
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

/// While one exists, nearest_name of this thread compares so many pairs of letters (some tens of milliseconds), and
/// finds nothing after that: of the hints for thousands of unknown names among thousands only the first are ever read.
class HintLimit {
 public:
  explicit HintLimit(std::int64_t most = 20'000'000);
  HintLimit(const HintLimit&) = delete;
  HintLimit& operator=(const HintLimit&) = delete;
  ~HintLimit();

  /// Is it in vain to collect names to choose from?
  static bool reached();

 private:
  std::int64_t before_;
};

/// Names of things, for hints; those without one are left out.
template <class Thing>
std::vector<std::string> names_of(const std::vector<Thing>& things) {
  std::vector<std::string> names;
  for (const Thing& thing : things) {
    if (!thing.name.empty()) names.push_back(thing.name);
  }
  return names;
}

/// `"a", "b", "c"`; after `most` names "and N more".
std::string quoted_list(std::span<const std::string> names, std::size_t most = 8);

/// Gives names that are free: "gate", then "gate 2", "gate 3". It remembers the last number of each, so that many
/// things of one name take a time that grows with their number.
class FreeNames {
 public:
  /// @param taken  says whether a name is in use already
  template <class Taken>
  std::string next(const std::string& name, Taken taken) {
    if (!taken(name)) return name;
    int& number = numbers_.try_emplace(name, 1).first->second;
    for (;;) {
      std::string numbered = name + " " + std::to_string(++number);
      if (!taken(numbered)) return numbered;
    }
  }

 private:
  std::unordered_map<std::string, int> numbers_;
};

/// "1 texture", "3 textures": a count of things whose plural ends in s.
std::string counted(std::size_t count, std::string_view noun);

}  // namespace periscena
