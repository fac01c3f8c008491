#include "math/odd_numbers.h"
#include "thrown.h"

#include <periscena/math/curve.h>
#include <periscena/math/curve_keys.h>

#include <algorithm>
#include <cmath>
#include <random>

using namespace periscena;
using Ease = Curve::Ease;

TEST_CASE("a curve goes through its keys, and in between as its ease says") {
  const std::vector<Curve::Key> keys{{1, {10}}, {3, {20}}, {4, {0}}};
  const Curve step(keys, {.ease = Ease::step}), linear(keys, {}), smooth(keys, {.ease = Ease::smooth}),
      cubic(keys, {.ease = Ease::cubic});
  for (const Curve& curve : {step, linear, smooth, cubic}) {
    for (const Curve::Key& key : keys) CHECK(curve.number_at(key.seconds) == key.value[0]);
    CHECK(curve.number_at(-7) == 10);
    CHECK(curve.number_at(99) == 0);
  }
  CHECK(step.number_at(2.9) == 10);
  CHECK(linear.number_at(1.5) == 12.5);
  CHECK(linear.number_at(3.75) == 5);
  CHECK(smooth.number_at(2) == 15);
  CHECK(smooth.number_at(1.5) == Approx(10 + 10 * 0.15625));  // 3 t² − 2 t³ at a quarter
  // The slope at the key in the middle, a summit, is 0: near it the curve is flat.
  CHECK(std::abs(cubic.number_at(3 - 1e-4) - 20) < 1e-6);
  CHECK(std::abs(cubic.number_at(3 + 1e-4) - 20) < 1e-5);
}

TEST_CASE("a cubic curve through points of a line is that line, and never leaves the range of its two keys") {
  const Curve line({{0, {1}}, {1, {3}}, {4, {9}}}, {.ease = Ease::cubic});
  for (double t = 0; t <= 4; t += 0.1) CHECK(line.number_at(t) == Approx(1 + 2 * t));
  std::mt19937 random(3);
  std::uniform_real_distribution<double> number(-5, 5), gap(0.01, 2);
  for (int round = 0; round < 100; ++round) {
    std::vector<Curve::Key> keys;
    double at = number(random);
    for (int i = 0; i < 8; ++i) keys.push_back({at += gap(random), {number(random)}});
    const Curve curve(keys, {.ease = Ease::cubic, .repeats = round % 2 == 0});
    for (std::size_t i = 0; i + 1 < keys.size(); ++i) {
      const double low = std::min(keys[i].value[0], keys[i + 1].value[0]),
                   high = std::max(keys[i].value[0], keys[i + 1].value[0]);
      double before = keys[i].value[0];
      for (int n = 1; n < 20; ++n) {
        const double value = curve.number_at(keys[i].seconds + n / 20.0 * (keys[i + 1].seconds - keys[i].seconds));
        REQUIRE(value >= low);
        REQUIRE(value <= high);
        // It goes one way from key to key.
        REQUIRE((value - before) * (keys[i + 1].value[0] - keys[i].value[0]) >= -1e-9);
        before = value;
      }
    }
  }
}

TEST_CASE("a curve that repeats is the same a period later and earlier, of all its numbers") {
  const Curve curve({{2, {0, 5, 1}}, {3, {1, 5, 0}}, {5, {0, 7, 1}}}, {.count = 3, .repeats = true});
  for (const double t : {2.0, 2.25, 3.5, 4.75}) {
    for (const double periods : {-3.0, -1.0, 1.0, 1000.0}) {
      for (std::size_t k = 0; k < 3; ++k) CHECK(curve.at(t + 3 * periods)[k] == Approx(curve.at(t)[k]).margin(1e-9));
    }
  }
  CHECK(curve.at(2.5)[0] == 0.5);
  CHECK(curve.at(4)[1] == 6);
  CHECK(curve.at(4)[3] == 0);
}

TEST_CASE("noise stays between its ends, has its rate, and is the same at the same time") {
  const Curve noise = Curve::noise({2, 10}, {4, 20}, 2, 5, 42), other = Curve::noise({2, 10}, {4, 20}, 2, 5, 43);
  double sum = 0, least = 9, most = 0;
  int alike = 0;
  for (int i = 0; i < 20000; ++i) {
    const double t = -100 + 0.01 * i;
    const Curve::Numbers value = noise.at(t);
    REQUIRE(value[0] >= 2);
    REQUIRE(value[0] <= 4);
    REQUIRE(value[1] == Approx(10 + 5 * (value[0] - 2)));  // all numbers go the same share of the way
    sum += value[0];
    least = std::min(least, value[0]);
    most = std::max(most, value[0]);
    // At most the way between two random values, 1.5 times as fast as evenly, five times a second.
    REQUIRE(std::abs(noise.number_at(t + 1e-4) - value[0]) <= 2 * 1.5 * 5 * 1e-4 + 1e-12);
    alike += std::abs(other.number_at(t) - value[0]) < 1e-3;
  }
  CHECK(sum / 20000 == Approx(3).margin(0.1));  // 1,000 values of a standard deviation of 0.58: 0.02 of the mean
  CHECK(least < 2.1);
  CHECK(most > 3.9);
  CHECK(alike < 200);
  CHECK(noise.at(12.34) == Curve::noise({2, 10}, {4, 20}, 2, 5, 42).at(12.34));
}

TEST_CASE("curves that say nothing, or nothing finite, are refused") {
  using Keys = std::vector<Curve::Key>;
  const auto refused = [](const Keys& keys, const Curve::Options& options = {}) {
    return thrown_slug([&] { Curve(keys, options); }) == "broken-curve";
  };
  CHECK(refused({}));
  CHECK(refused({{1, {}}, {1, {}}}));
  CHECK(refused({{2, {}}, {1, {}}}));
  CHECK(refused({{nan_value, {}}}));
  CHECK(refused({{0, {1, infinity}}}, {.count = 2}));
  CHECK(refused({{0, {}}}, {.repeats = true}));
  CHECK(refused({{0, {}}}, {.count = 0}));
  CHECK(refused({{0, {}}}, {.count = 5}));
  CHECK(thrown_slug([] { Curve::noise({0}, {1}, 1, 0, 1); }) == "broken-curve");
  CHECK(thrown_slug([] { Curve::noise({0}, {nan_value}, 1, 1, 1); }) == "broken-curve");
  CHECK(Curve({{5, {3}}}, {}).number_at(-1) == 3);
}

TEST_CASE("times beyond all measure give a value of the curve") {
  const Curve noise = Curve::noise({2}, {4}, 1, 5, 1), repeats({{0, {2}}, {3, {4}}}, {.repeats = true}),
              ends({{0, {2}}, {3, {4}}}, {.ease = Ease::cubic});
  for (const double seconds : {1e30, -1e30, 1e300, -1e300, double(infinity), -double(infinity), double(nan_value)}) {
    for (const Curve& curve : {noise, repeats, ends}) {
      CHECK(curve.number_at(seconds) >= 2);
      CHECK(curve.number_at(seconds) <= 4);
    }
  }
  CHECK(ends.number_at(double(infinity)) == 4);
}

TEST_CASE("a curve that goes on stays as it was before its last key") {
  for (const Curve::Ease ease : {Curve::Ease::step, Curve::Ease::linear, Curve::Ease::smooth, Curve::Ease::cubic}) {
    std::vector<Curve::Key> keys;
    for (int i = 0; i < 12; ++i) keys.push_back({0.5 * i, {std::sin(1.7 * i), 1.0 * i}});
    const Curve whole(keys, {.count = 2, .ease = ease});
    Curve recorded({keys[0]}, {.count = 2, .ease = ease});
    CHECK(recorded.is_constant());
    for (std::size_t i = 1; i < keys.size(); ++i) {
      recorded.add(keys[i]);
      recorded.forget_before(keys[i].seconds - 1.2);
      if (ease == Curve::Ease::cubic) continue;  // whose slopes follow from what comes next
      for (double t = keys[i].seconds - 1.2; t < keys[i].seconds; t += 0.1)
        if (t >= 0) REQUIRE(recorded.at(t) == whole.at(t));
    }
    CHECK(recorded.keys().size() == (ease == Curve::Ease::cubic ? 12 : 4));
    CHECK((recorded == whole) == (ease == Curve::Ease::cubic));
    CHECK(recorded.at(7) == whole.at(7));
    recorded.forget_before(100);
    CHECK(recorded.at(100) == whole.at(100));
  }
  Curve period({{0, {0}}, {1, {2}}}, {.repeats = true});
  period.forget_before(50);
  CHECK(period.keys().size() == 2);
}

TEST_CASE("keys that can't be added to a curve are refused, and it stays as it was") {
  Curve curve({{0, {1}}, {2, {3}}}, {});
  const Curve before = curve;
  CHECK_THROWS_AS(curve.add({2, {1}}), Mistake);
  CHECK_THROWS_AS(curve.add({NAN, {1}}), Mistake);
  CHECK_THROWS_AS(curve.add({3, {INFINITY}}), Mistake);
  CHECK(curve == before);
  Curve noise = Curve::noise({0}, {1}, 1, 4, 7);
  CHECK_THROWS_AS(noise.add({3, {1}}), Mistake);
}

TEST_CASE("a curve that is written as a key's value is read as the same") {
  const KeyInfo info{"path", KeyType<Curve>::name(), {}, "", ""};
  for (const Curve& curve :
       {Curve::constant({1, 2, 3}, 3), Curve::constant({0.25}),
        Curve({{0, {1}}, {2, {3}}}, {.ease = Curve::Ease::step}),
        Curve({{-1, {1, 2}}, {2.5, {3, 4}}, {3, {0, 0}}}, {.count = 2, .ease = Curve::Ease::cubic, .repeats = true}),
        Curve::noise({0.5}, {1}, 1, 4, 7)}) {
    Curve read = Curve::constant({}, curve.count());
    Diagnostics problems;
    KeyType<Curve>::read(KeyType<Curve>::write(curve), info, read, problems);
    CHECK(to_text(problems) == "");
    CHECK(read == curve);
  }
  const auto found = [&](const Value& value, KeyRules rules = {}) {
    Curve read = Curve::constant({});
    Diagnostics problems;
    KeyInfo key = info;
    key.rules = std::move(rules);
    KeyType<Curve>::read(value, key, read, problems);
    CHECK(read == Curve::constant({}));
    return to_text(problems);
  };
  CHECK(found({std::string("left"), {}}).find("wants a value or curve, but this is the text") != std::string::npos);
  CHECK(found(write_curve(Curve::constant({1, 2}, 2))).find("has values of 2 numbers") != std::string::npos);
  CHECK(found(write_curve(Curve({{0, {0}}, {1, {2}}}, {})), {.minimum = 0, .maximum = 1}).find("out-of-range") !=
        std::string::npos);
}
