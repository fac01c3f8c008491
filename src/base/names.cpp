#include <periscena/base/names.h>

#include <fmt/format.h>

#include <algorithm>
#include <cctype>
#include <limits>

namespace periscena {
namespace {

/// A letter replaced costs two half steps, one that only differs in case costs one.
int replace_cost(char a, char b) {
  if (a == b) return 0;
  return std::tolower(static_cast<unsigned char>(a)) == std::tolower(static_cast<unsigned char>(b)) ? 1 : 2;
}

/// Pairs of letters that this thread may still compare.
constexpr std::int64_t any_number = std::numeric_limits<std::int64_t>::max();
thread_local std::int64_t pairs_left = any_number;

}  // namespace

HintLimit::HintLimit(std::int64_t most) : before_(pairs_left) {
  pairs_left = std::min(pairs_left, most);
}

HintLimit::~HintLimit() {
  pairs_left = before_;
}

bool HintLimit::reached() {
  return pairs_left <= 0;
}

int edit_distance(std::string_view a, std::string_view b) {
  std::vector<int> before(b.size() + 1), above(b.size() + 1), row(b.size() + 1);
  for (std::size_t j = 0; j <= b.size(); ++j) above[j] = static_cast<int>(2 * j);
  for (std::size_t i = 1; i <= a.size(); ++i) {
    row[0] = static_cast<int>(2 * i);
    for (std::size_t j = 1; j <= b.size(); ++j) {
      row[j] = std::min({above[j] + 2, row[j - 1] + 2, above[j - 1] + replace_cost(a[i - 1], b[j - 1])});
      if (i > 1 && j > 1 && a[i - 1] == b[j - 2] && a[i - 2] == b[j - 1]) row[j] = std::min(row[j], before[j - 2] + 2);
    }
    std::swap(before, above);
    std::swap(above, row);
  }
  return (above[b.size()] + 1) / 2;
}

std::string_view nearest_name(std::string_view wanted, std::span<const std::string> candidates) {
  constexpr std::size_t longest = 200;
  if (wanted.empty() || wanted.size() > longest) return {};
  std::string_view best;
  int best_distance = std::max(1, static_cast<int>(wanted.size()) / 3) + 1;
  for (const std::string& candidate : candidates) {
    if (candidate.size() > longest) continue;
    if (HintLimit::reached()) return {};
    constexpr std::int64_t to_begin = 64;  // with what it takes to collect the name
    if (pairs_left != any_number) pairs_left -= to_begin + static_cast<std::int64_t>(wanted.size() * candidate.size());
    const int distance = edit_distance(wanted, candidate);
    if (distance < best_distance) {
      best = candidate;
      best_distance = distance;
    }
  }
  if (!best.empty() || wanted.size() < 4) return best;
  // A key without its unit: "rotate" for "rotate_degrees".
  const auto longer = std::find_if(candidates.begin(), candidates.end(), [&](const std::string& candidate) {
    return candidate.size() <= longest && candidate.starts_with(wanted);
  });
  return longer == candidates.end() ? std::string_view() : std::string_view(*longer);
}

std::string quoted_list(std::span<const std::string> names, std::size_t most) {
  std::string list;
  for (std::size_t i = 0; i < names.size() && i < most; ++i) list += fmt::format("{}\"{}\"", i ? ", " : "", names[i]);
  if (names.size() > most) list += fmt::format(" and {} more", names.size() - most);
  return list;
}

std::string name_hint(std::string_view wanted, std::span<const std::string> candidates) {
  if (const std::string_view nearest = nearest_name(wanted, candidates); !nearest.empty()) {
    return fmt::format("did you mean \"{}\"?", nearest);
  }
  if (candidates.empty()) return {};
  return fmt::format("{}{}", candidates.size() == 1 ? "there is only " : "one of ", quoted_list(candidates));
}

std::string counted(std::size_t count, std::string_view noun) {
  return fmt::format("{} {}{}", count, noun, count == 1 ? "" : "s");
}

}  // namespace periscena
