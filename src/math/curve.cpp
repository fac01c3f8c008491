#include <periscena/math/curve.h>

#include <periscena/base/error.h>

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace periscena {
namespace {

double smooth(double t) {
  return t * t * (3 - 2 * t);
}

/// A random number from 0 to 1 for each whole one: SplitMix64 (Steele, Lea and Flood, OOPSLA 2014).
double random_at(std::int64_t i, std::uint64_t seed) {
  std::uint64_t z = seed + static_cast<std::uint64_t>(i) * 0x9E3779B97F4A7C15u;
  z = (z ^ (z >> 30)) * 0xBF58476D1CE4E5B9u;
  z = (z ^ (z >> 27)) * 0x94D049BB133111EBu;
  return static_cast<double>((z ^ (z >> 31)) >> 11) * 0x1p-53;
}

void expect_count(int count, const Place& place) {
  if (count >= 1 && count <= static_cast<int>(Curve::most_numbers)) return;
  throw Mistake("broken-curve", place, fmt::format("a curve has {} numbers", count), "give it 1 to 4");
}

void expect_finite(const Curve::Numbers& value, const Place& place) {
  if (std::all_of(value.begin(), value.end(), [](double number) { return std::isfinite(number); })) return;
  throw Mistake("broken-curve", place, "a curve goes through a number that is not finite", "give finite numbers");
}

/// @param before  null for the first @param number  1 and up, for messages
void expect_key(const Curve::Key& key, const Curve::Key* before, std::size_t number, const Place& place) {
  expect_finite(key.value, place);
  if (std::isfinite(key.seconds) && !(before && key.seconds <= before->seconds)) return;
  throw Mistake("broken-curve", place, fmt::format("key {} of a curve is at {} s", number, key.seconds),
                "give keys in the order of their times, no two at one");
}

}  // namespace

const std::vector<std::string>& choices_of(Curve::Ease) {
  static const std::vector<std::string> names{"step", "linear", "smooth", "cubic"};
  return names;
}

Curve::Curve(std::vector<Key> keys, const Options& options, Place place) : keys_(std::move(keys)), options_(options) {
  expect_count(options.count, place);
  if (keys_.empty())
    throw Mistake("broken-curve", place, "a curve has no keys", "give it [seconds, value], at least once");
  for (std::size_t i = 0; i < keys_.size(); ++i) expect_key(keys_[i], i > 0 ? &keys_[i - 1] : nullptr, i + 1, place);
  if (options.repeats && keys_.size() < 2)
    throw Mistake("broken-curve", place, "a curve of one key can't repeat",
                  "give it a second key, or leave out repeat");
  if (options.ease == Ease::cubic) find_slopes();
}

Curve Curve::constant(const Numbers& value, int count, Place place) {
  return Curve({{0, value}}, {.count = count}, std::move(place));
}

void Curve::add(const Key& key, Place place) {
  if (is_noise()) throw Mistake("broken-curve", place, "noise has no keys to add to", "make a curve through keys");
  expect_key(key, &keys_.back(), keys_.size() + 1, place);
  keys_.push_back(key);
  if (options_.ease == Ease::cubic) find_slopes();
}

void Curve::forget_before(double seconds) {
  if (is_noise() || options_.repeats || options_.ease == Ease::cubic) return;
  const auto later = std::upper_bound(keys_.begin(), keys_.end(), seconds,
                                      [](double time, const Key& key) { return time < key.seconds; });
  if (later - keys_.begin() > 1) keys_.erase(keys_.begin(), later - 1);
}

Curve Curve::noise(const Numbers& low, const Numbers& high, int count, double rate, std::uint64_t seed, Place place) {
  expect_count(count, place);
  expect_finite(low, place);
  expect_finite(high, place);
  if (!(rate > 0 && std::isfinite(rate)))
    throw Mistake("broken-curve", place, fmt::format("noise changes {} times a second", rate),
                  "give a rate of more than 0");
  Curve made({{0, low}, {1, high}}, {.count = count});
  made.rate_ = rate;
  made.seed_ = seed;
  return made;
}

/// Slopes that keep each piece between its two keys.
/// @see Fritsch and Carlson, "Monotone Piecewise Cubic Interpolation", SIAM Journal on Numerical Analysis 17(2), 1980
void Curve::find_slopes() {
  slopes_.assign(keys_.size(), {});
  for (std::size_t k = 0; k < static_cast<std::size_t>(options_.count); ++k) {
    const auto secant = [&](std::size_t i) {
      return (keys_[i + 1].value[k] - keys_[i].value[k]) / (keys_[i + 1].seconds - keys_[i].seconds);
    };
    const std::size_t last = keys_.size() - 1;
    for (std::size_t i = 1; i < last; ++i) {
      const double before = secant(i - 1), after = secant(i);
      slopes_[i][k] = before * after > 0 ? (before + after) / 2 : 0;
    }
    if (last > 0) {
      slopes_[0][k] = secant(0);
      slopes_[last][k] = secant(last - 1);
      // A curve that repeats without a jump goes on as it began.
      if (options_.repeats && keys_[0].value[k] == keys_[last].value[k])
        slopes_[0][k] = slopes_[last][k] = secant(0) * secant(last - 1) > 0 ? (secant(0) + secant(last - 1)) / 2 : 0;
    }
    for (std::size_t i = 0; i < last; ++i) {
      const double between = secant(i);
      if (between == 0) {
        slopes_[i][k] = slopes_[i + 1][k] = 0;
        continue;
      }
      const double a = slopes_[i][k] / between, b = slopes_[i + 1][k] / between, length = a * a + b * b;
      if (length <= 9) continue;
      slopes_[i][k] *= 3 / std::sqrt(length);
      slopes_[i + 1][k] *= 3 / std::sqrt(length);
    }
  }
}

Curve::Numbers Curve::at(double seconds) const {
  const auto between = [&](const Numbers& a, const Numbers& b, double t) {
    Numbers value = {};
    for (std::size_t k = 0; k < static_cast<std::size_t>(options_.count); ++k) value[k] = a[k] + t * (b[k] - a[k]);
    return value;
  };
  if (rate_ > 0) {
    const double place = seconds * rate_, whole = std::floor(place);
    // Where doubles are no longer whole numbers apart, nothing changes any more.
    if (!(std::abs(place) < 0x1p53)) return keys_[0].value;
    const auto i = static_cast<std::int64_t>(whole);
    const double from = random_at(i, seed_), to = random_at(i + 1, seed_);
    return between(keys_[0].value, keys_[1].value, from + smooth(place - whole) * (to - from));
  }
  const double first = keys_.front().seconds, last = keys_.back().seconds;
  if (options_.repeats) {
    const double period = last - first;
    seconds = first + (seconds - first) - period * std::floor((seconds - first) / period);
  }
  if (!(seconds > first)) return keys_.front().value;
  if (seconds >= last) return keys_.back().value;
  const auto next = std::upper_bound(keys_.begin(), keys_.end(), seconds,
                                     [](double time, const Key& key) { return time < key.seconds; });
  const Key &to = *next, &from = *(next - 1);
  const double length = to.seconds - from.seconds, t = (seconds - from.seconds) / length;
  switch (options_.ease) {
    case Ease::step: return from.value;
    case Ease::linear: return between(from.value, to.value, t);
    case Ease::smooth: return between(from.value, to.value, smooth(t));
    case Ease::cubic: break;
  }
  // The cubic through both keys with their slopes (Hermite).
  const auto i = static_cast<std::size_t>(next - keys_.begin()) - 1;
  Numbers value = {};
  for (std::size_t k = 0; k < static_cast<std::size_t>(options_.count); ++k) {
    const double t2 = t * t, t3 = t2 * t;
    value[k] = (2 * t3 - 3 * t2 + 1) * from.value[k] + (t3 - 2 * t2 + t) * length * slopes_[i][k] +
               (3 * t2 - 2 * t3) * to.value[k] + (t3 - t2) * length * slopes_[i + 1][k];
    // Rounding alone could lead beyond.
    value[k] = std::clamp(value[k], std::min(from.value[k], to.value[k]), std::max(from.value[k], to.value[k]));
  }
  return value;
}

std::array<Curve::Numbers, 2> Curve::extremes() const {
  std::array<Numbers, 2> both{keys_[0].value, keys_[0].value};
  for (const Key& key : keys_) {
    for (std::size_t k = 0; k < most_numbers; ++k) {
      both[0][k] = std::min(both[0][k], key.value[k]);
      both[1][k] = std::max(both[1][k], key.value[k]);
    }
  }
  return both;
}

}  // namespace periscena
