#include <periscena/math/curve_keys.h>

#include <periscena/base/error.h>
#include <periscena/base/hash.h>
#include <periscena/base/names.h>

#include <fmt/format.h>

#include <algorithm>

namespace periscena {
namespace {

struct CurveKeys {
  Value curve, noise;
  Curve::Ease ease = Curve::Ease::linear;
  bool repeat = false;
  float rate = 8;
  std::optional<int> seed;
};

const Keys<CurveKeys>& own_keys() {
  static const auto keys = [] {
    Keys<CurveKeys> k;
    k.key("curve", &CurveKeys::curve, {},
          "Keys in the order of their times: [[0, 0.05], [2, 0.4]], or [[0, [1, 0, 0]], [2, [0, 0, 1]]]. Before the "
          "first and after the last, their values hold")
        .key("ease", &CurveKeys::ease, {},
             "How it goes from one key to the next. smooth: slowly away and slowly in; cubic: through the keys without "
             "a kink, and never beyond them")
        .key("repeat", &CurveKeys::repeat, {}, "true: from the first key's time to the last one's, again and again")
        .key("noise", &CurveKeys::noise, {}, "Instead of curve, random between two values: [0.8, 1]")
        .key("rate", &CurveKeys::rate, {.unit = "per second", .minimum = 0, .above_minimum = true},
             "Of noise: how often it is another value; it goes smoothly from one to the next")
        .key("seed", &CurveKeys::seed, {.minimum = 0},
             "Of noise: another number makes another; left out, each key of each section has its own, "
             "and each key that is a \"value or curve\"");
    return k;
  }();
  return keys;
}

/// A number, or a list of up to four. @return how many; 0 for what is neither
int read_numbers(const Value& value, Curve::Numbers& into) {
  if (value.number(into[0])) return 1;
  const Value::Array* list = value.array();
  if (!list || list->empty() || list->size() > Curve::most_numbers) return 0;
  for (std::size_t i = 0; i < list->size(); ++i) {
    if (!(*list)[i].number(into[i])) return 0;
  }
  return static_cast<int>(list->size());
}

[[noreturn]] void refuse(const Value& at, const std::string& cause, const std::string& help) {
  throw Mistake("broken-curve", at.place, cause, help);
}

Curve read_keyed(const CurveKeys& given) {
  constexpr const char* help = "write curve = [[0, 0.05], [2, 0.4]]: seconds, then a number or a list of up to 4";
  const Value::Array* list = given.curve.array();
  if (!list)
    refuse(given.curve, fmt::format("a curve wants a list of keys, but this is {}", given.curve.describe()), help);
  std::vector<Curve::Key> keys;
  int count = 0;
  for (const Value& item : *list) {
    const Value::Array* pair = item.array();
    Curve::Key key;
    const int numbers =
        pair && pair->size() == 2 && (*pair)[0].number(key.seconds) ? read_numbers((*pair)[1], key.value) : 0;
    if (numbers == 0)
      refuse(item, fmt::format("a key of a curve wants [seconds, value], but this is {}", item.describe()), help);
    if (count > 0 && numbers != count)
      refuse(item,
             fmt::format("a key of a curve has {}, those before it {}",
                         counted(static_cast<std::size_t>(numbers), "number"), count),
             "give all keys as many");
    count = numbers;
    keys.push_back(key);
  }
  return {std::move(keys), {std::max(1, count), given.ease, given.repeat}, given.curve.place};
}

Curve read_noise(const CurveKeys& given, std::uint64_t own_seed) {
  constexpr const char* help = "write noise = [0.8, 1], or two lists of numbers";
  const Value::Array* list = given.noise.array();
  Curve::Numbers low = {}, high = {};
  const int count = list && list->size() == 2 ? read_numbers((*list)[0], low) : 0;
  if (count == 0 || read_numbers((*list)[1], high) != count)
    refuse(given.noise, "noise wants two values, between which it goes", help);
  const std::uint64_t seed = given.seed ? static_cast<std::uint64_t>(*given.seed) : own_seed;
  return Curve::noise(low, high, count, given.rate, seed, given.noise.place);
}

}  // namespace

bool is_curve(const Value& value) {
  return value.find("curve") || value.find("noise");
}

const KeyTable& curve_keys() {
  return own_keys();
}

Curve read_curve(const Value& value, std::uint64_t own_seed) {
  CurveKeys given;
  Diagnostics found;
  own_keys().read(value, "a curve", given, found);
  report_unknown_keys(value, "a curve", own_keys().names(), found);
  if (!given.curve.empty() && !given.noise.empty())
    found.error("broken-curve", value.place, "a curve has both keys and noise", "leave out one of them");
  if (found.has_errors()) throw Mistake(std::move(found));
  return given.noise.empty() ? read_keyed(given) : read_noise(given, own_seed);
}

Value write_numbers(const Curve::Numbers& numbers, int count, const Place& place) {
  if (count == 1) return {numbers[0], place};
  Value::Array list;
  for (std::size_t i = 0; i < static_cast<std::size_t>(count); ++i) list.push_back({numbers[i], place});
  return {std::move(list), place};
}

Value write_curve(const Curve& curve) {
  if (curve.is_constant()) return write_numbers(curve.keys()[0].value, curve.count());
  Value::Array list;
  for (const Curve::Key& key : curve.keys()) {
    Value value = write_numbers(key.value, curve.count());
    list.push_back(curve.is_noise() ? std::move(value) : Value{Value::Array{{key.seconds, {}}, std::move(value)}, {}});
  }
  Value::Table table;
  const auto put = [&](const char* name, auto data) { table.push_back({name, {}, {std::move(data), {}}}); };
  put(curve.is_noise() ? "noise" : "curve", std::move(list));
  if (curve.is_noise()) {
    put("rate", curve.rate());
    if (curve.seed() <= std::numeric_limits<int>::max()) put("seed", static_cast<std::int64_t>(curve.seed()));
  } else {
    put("ease", KeyType<Curve::Ease>::choices()[static_cast<std::size_t>(curve.options().ease)]);
    if (curve.options().repeats) put("repeat", true);
  }
  return {std::move(table), {}};
}

std::string KeyType<Curve>::show(const Curve& curve) {
  return detail::numbers_text({curve.keys()[0].value.data(), static_cast<std::size_t>(curve.count())});
}

void KeyType<Curve>::read(const Value& value, const KeyInfo& info, Curve& into, Diagnostics& diagnostics) {
  try {
    Curve::Numbers numbers = {};
    const int count = read_numbers(value, numbers);
    if (count == 0 && !is_curve(value)) return detail::wrong_type(value, info, diagnostics);
    Curve curve = count > 0 ? Curve::constant(numbers, count, value.place) : read_curve(value, content_hash(info.name));
    if (curve.count() != into.count()) {
      const auto said = [](int numbers_in_it) { return counted(static_cast<std::size_t>(numbers_in_it), "number"); };
      refuse(value, fmt::format("\"{}\" has values of {}", info.name, said(curve.count())),
             fmt::format("give it values of {}", said(into.count())));
    }
    Diagnostics found;
    check(curve, info, value.place, found);
    if (!found.has_errors()) into = std::move(curve);
    diagnostics.append(found);
  } catch (const Mistake& mistake) {
    diagnostics.append(mistake.diagnostics());
  }
}

void KeyType<Curve>::check(const Curve& curve, const KeyInfo& info, const Place& place, Diagnostics& diagnostics) {
  for (const Curve::Numbers& end : curve.extremes()) {
    if (!detail::expect_numbers({end.data(), static_cast<std::size_t>(curve.count())}, place, info, diagnostics))
      return;
  }
}

}  // namespace periscena
