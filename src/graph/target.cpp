#include <periscena/graph/pass.h>

#include <algorithm>

namespace periscena {
namespace {

constexpr std::array holds_words{"automatic", "color", "data", "normal", "depth", "id"};
constexpr std::array rule_words{"automatic", "average", "first_sample", "least", "greatest"};

template <class Enum, std::size_t count>
bool parse(const std::array<const char*, count>& words, std::string_view name, Enum& into) {
  const auto found = std::find(words.begin() + 1, words.end(), name);
  if (found == words.end()) return false;
  into = static_cast<Enum>(found - words.begin());
  return true;
}

}  // namespace

Holds TargetDescription::meaning() const {
  if (holds != Holds::automatic) return holds;
  const FormatInfo& known = info(format);
  if (known.depth) return Holds::depth;
  return known.integer() || known.stencil ? Holds::id : Holds::color;
}

ResolveRule TargetDescription::resolve_rule() const {
  if (resolve != ResolveRule::automatic) return resolve;
  const Holds what = meaning();
  return what == Holds::color || what == Holds::data ? ResolveRule::average : ResolveRule::first_sample;
}

TargetUse::TargetUse(TargetHandle target, Place place) : handle(target), reference("", std::move(place)) {}
TargetUse::TargetUse(Reference name) : reference(std::move(name)) {}
TargetUse::TargetUse(const char* name, std::source_location location) : reference(name, location) {}

std::string_view to_string(TargetShape shape) {
  switch (shape) {
    case TargetShape::flat: return "flat";
    case TargetShape::array: return "array";
    case TargetShape::cube: break;
  }
  return "cube";
}

std::string_view to_string(Holds holds) {
  return holds_words[static_cast<std::size_t>(holds)];
}

std::string_view to_string(ResolveRule rule) {
  return rule_words[static_cast<std::size_t>(rule)];
}

std::string_view to_string(ValueKind kind) {
  switch (kind) {
    case ValueKind::floating: return "float";
    case ValueKind::signed_integer: return "int";
    case ValueKind::unsigned_integer: break;
  }
  return "uint";
}

ValueKind value_kind(Format format) {
  switch (info(format).numbers) {
    case NumberKind::signed_integer: return ValueKind::signed_integer;
    case NumberKind::unsigned_integer: return ValueKind::unsigned_integer;
    default: return ValueKind::floating;
  }
}

const std::vector<std::string>& choices_of(Holds) {
  static const std::vector<std::string> names(holds_words.begin(), holds_words.end());
  return names;
}

const std::vector<std::string>& choices_of(ResolveRule) {
  static const std::vector<std::string> names(rule_words.begin(), rule_words.end());
  return names;
}

}  // namespace periscena
