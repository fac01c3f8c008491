#pragma once

#include <periscena/base/place.h>

#include <array>
#include <cstdint>
#include <string>
#include <vector>

namespace periscena {

/// A number, or up to four, as a function of absolute time. The same time gives the same value, on every machine.
class Curve {
 public:
  static constexpr std::size_t most_numbers = 4;
  using Numbers = std::array<double, most_numbers>;

  /// How it goes from one key to the next.
  enum class Ease {
    step,    ///< the value of a key holds until the next one
    linear,  ///< evenly
    smooth,  ///< slowly away and slowly in: 3 t² − 2 t³
    cubic,   ///< with one slope through each key, and never beyond the keys next to it (Fritsch and Carlson, 1980)
  };

  struct Key {
    double seconds = 0;
    Numbers value = {};
    bool operator==(const Key&) const = default;
  };

  struct Options {
    int count = 1;  ///< how many numbers there are, 1 to 4
    Ease ease = Ease::linear;
    bool repeats = false;  ///< from the first key's time to the last one's, again and again; else the ends hold
    bool operator==(const Options&) const = default;
  };

  /// Through keys. @param keys  at least one, in the order of their times, which differ
  /// @throws Mistake "broken-curve"
  Curve(std::vector<Key> keys, const Options& options, Place place = Place::here());

  /// Smooth noise between two values: a new random share of the way, `rate` times a second, the same for all numbers.
  /// @param count  of numbers @param rate  > 0 @throws Mistake "broken-curve"
  static Curve noise(const Numbers& low, const Numbers& high, int count, double rate, std::uint64_t seed,
                     Place place = Place::here());

  /// The same at all times. @param count  of numbers @throws Mistake "broken-curve"
  static Curve constant(const Numbers& value, int count = 1, Place place = Place::here());

  Numbers at(double seconds) const;
  double number_at(double seconds) const { return at(seconds)[0]; }

  int count() const { return options_.count; }
  bool is_constant() const { return rate_ == 0 && keys_.size() == 1; }
  bool is_noise() const { return rate_ > 0; }
  const std::vector<Key>& keys() const { return keys_; }  ///< of noise, its two ends
  const Options& options() const { return options_; }
  double rate() const { return rate_; }  ///< of noise: values a second
  std::uint64_t seed() const { return seed_; }

  /// A key after the last one, as a program records what happens. Values up to the last key stay as they were, except
  /// with Ease::cubic, whose slopes depend on the next key. @throws Mistake "broken-curve" for noise, and for a key
  /// that is not after the last one
  void add(const Key& key, Place place = Place::here());

  /// Removes keys on which no time from `seconds` on depends. Curves that repeat or are cubic keep them all.
  void forget_before(double seconds);

  bool operator==(const Curve&) const = default;

  /// The least and the greatest value of each of its numbers.
  std::array<Numbers, 2> extremes() const;

 private:
  void find_slopes();

  std::vector<Key> keys_;        ///< of noise, its two ends
  std::vector<Numbers> slopes_;  ///< of Ease::cubic, per second, by key
  Options options_;
  double rate_ = 0;  ///< of noise; 0: keys
  std::uint64_t seed_ = 0;
};

const std::vector<std::string>& choices_of(Curve::Ease);

}  // namespace periscena
