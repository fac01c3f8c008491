#include <periscena/scene/motion.h>

#include "scene/checks.h"

#include <periscena/base/error.h>

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace periscena {
namespace {

Vec3 between(const Vec3& a, const Vec3& b, float share) {
  return a + share * (b - a);
}

Quat between(const Quat& a, const Quat& b, float share) {
  return a.slerp(share, b);
}

/// Hermite's cubic. @param span  seconds between the keys
Vec3 hermite(const Vec3& from, const Vec3& out, const Vec3& in, const Vec3& to, float share, float span) {
  const float t = share, t2 = t * t, t3 = t2 * t;
  return (2 * t3 - 3 * t2 + 1) * from + span * (t3 - 2 * t2 + t) * out + (3 * t2 - 2 * t3) * to + span * (t3 - t2) * in;
}

Quat hermite(const Quat& from, const Quat& out, const Quat& in, const Quat& to, float share, float span) {
  const float t = share, t2 = t * t, t3 = t2 * t;
  const Quat value((2 * t3 - 3 * t2 + 1) * from.numbers() + span * (t3 - 2 * t2 + t) * out.numbers() +
                   (3 * t2 - 2 * t3) * to.numbers() + span * (t3 - t2) * in.numbers());
  return value.normalized();
}

template <class Value>
bool all_finite(const Track<Value>& track) {
  const auto finite = [](const Value& value) {
    if constexpr (std::is_same_v<Value, Quat>) {
      return is_finite(value.numbers());
    } else {
      return is_finite(value);
    }
  };
  return std::all_of(track.values.begin(), track.values.end(), finite) &&
         std::all_of(track.times.begin(), track.times.end(), [](float time) { return std::isfinite(time); });
}

template <class Value>
void expect_track(const Track<Value>& track, const char* what, std::string_view node, const Place& place) {
  const auto refuse = [&](const std::string& cause, const char* mend) {
    throw Mistake("bad-keys", place, fmt::format("the {} of \"{}\" {}", what, node, cause), mend);
  };
  const std::size_t each = track.interpolation == Interpolation::cubic ? 3 : 1;
  if (track.values.size() != each * track.times.size()) {
    refuse(fmt::format("has {} values for {} times", track.values.size(), track.times.size()),
           "each time takes one value, or three where interpolation is cubic");
  }
  if (!all_finite(track)) refuse("has keys of NaN or infinity", "give finite numbers");
  for (std::size_t i = 1; i < track.times.size(); ++i) {
    if (!(track.times[i] > track.times[i - 1])) {
      refuse(fmt::format("has key {} at {} s, after one at {} s", i, track.times[i], track.times[i - 1]),
             "times must grow from key to key");
    }
  }
}

}  // namespace

void Motion::expect_sound(std::string_view node, const Place& place) const {
  expect_finite(is_finite(axis) && is_finite(pivot) && std::isfinite(from) && std::isfinite(to) &&
                    std::isfinite(period) && std::isfinite(phase),
                "the motion of", node, place);
  if (!(period > 0)) {
    throw Mistake("bad-motion", place, fmt::format("the motion of \"{}\" has a period of {} s", node, period),
                  "choose more than 0 seconds");
  }
  if (!(hold_from >= 0 && hold_to >= 0 && hold_from + hold_to < 1)) {
    throw Mistake("bad-motion", place,
                  fmt::format("the motion of \"{}\" rests for {} and {} of its period", node, hold_from, hold_to),
                  "both must be 0 or more, and together less than 1, so that there is time to move");
  }
  if (axis.stable_norm() < 1e-6f) {
    throw Mistake("bad-motion", place, fmt::format("the motion of \"{}\" has an axis of length 0", node),
                  "give an axis such as [0, 1, 0]");
  }
}

Transform Motion::at(double seconds) const {
  const double turns = seconds / period + phase;
  if (kind == Kind::spin) {
    return rotate(axis, static_cast<float>(2 * std::numbers::pi * (turns - std::floor(turns))), {pivot});
  }
  // 0 at time 0, 1 half a period later, back to 0; then the rests cut off at both ends.
  const double out = 1 - std::abs(2 * (turns - std::floor(turns)) - 1);
  const double moving = std::clamp((out - hold_from) / (1.0 - hold_from - hold_to), 0.0, 1.0);
  const double ease = 0.5 - 0.5 * std::cos(std::numbers::pi * moving);
  const float amount = from + (to - from) * static_cast<float>(ease);
  return kind == Kind::swing ? rotate(axis, amount, {pivot}) : translate(axis.normalized() * amount);
}

template <class Value>
Value Track<Value>::at(double seconds) const {
  const std::size_t each = interpolation == Interpolation::cubic ? 3 : 1, value = each / 2;
  const auto after = static_cast<std::size_t>(
      std::upper_bound(times.begin(), times.end(), seconds, [](double s, float key) { return s < key; }) -
      times.begin());
  if (after == 0) return values[value];
  const std::size_t before = after - 1;
  if (after == times.size() || interpolation == Interpolation::step) return values[before * each + value];
  const float span = times[after] - times[before];
  const auto share = static_cast<float>((seconds - times[before]) / span);
  if (interpolation == Interpolation::linear) return between(values[before], values[after], share);
  return hermite(values[before * 3 + 1], values[before * 3 + 2], values[after * 3], values[after * 3 + 1], share, span);
}

template <class Value>
bool Track<Value>::operator==(const Track& other) const {
  return interpolation == other.interpolation && times == other.times && values == other.values;
}

template struct Track<Vec3>;
template struct Track<Quat>;

Transform KeyedPlacement::at(double seconds) const {
  if (repeat_seconds > 0) seconds -= std::floor(seconds / repeat_seconds) * repeat_seconds;
  const Vec3 factors = scale_track.empty() ? scale : scale_track.at(seconds);
  const Quat turn = rotation_track.empty() ? rotation : rotation_track.at(seconds);
  const Vec3 offset = translation_track.empty() ? translation : translation_track.at(seconds);
  return Transform::scale(factors).then(rotate(turn)).then(translate(offset));
}

void KeyedPlacement::expect_sound(std::string_view node, Place place) const {
  expect_track(scale_track, "scale", node, place);
  expect_track(rotation_track, "rotation", node, place);
  expect_track(translation_track, "translation", node, place);
  for (const Quat& value : rotation_track.values) {
    if (rotation_track.interpolation != Interpolation::cubic && value.numbers().norm() < 1e-6f) {
      throw Mistake("bad-keys", place, fmt::format("the rotation of \"{}\" has a key of length 0", node),
                    "rotations are quaternions of length 1");
    }
  }
}

bool KeyedPlacement::operator==(const KeyedPlacement& other) const {
  return scale == other.scale && rotation == other.rotation && translation == other.translation &&
         scale_track == other.scale_track && rotation_track == other.rotation_track &&
         translation_track == other.translation_track && repeat_seconds == other.repeat_seconds;
}

FixedSteps::FixedSteps(double rate, int most, Place place) : rate_(rate), most_(most) {
  if (rate > 0 && std::isfinite(rate) && most >= 1) return;
  throw Mistake("bad-rate", std::move(place), fmt::format("{} steps a second, at most {} at once", rate, most),
                "choose a rate over 0 and at least 1 step");
}

std::int64_t FixedSteps::due_at(double seconds) const {
  // Steps start at multiples of 1 / rate: the one that starts at `seconds` has not been run.
  return static_cast<std::int64_t>(std::clamp(std::ceil(seconds * rate_), 0.0, 9e15));
}

}  // namespace periscena
