#include <periscena/inspect/sheet.h>

#include <periscena/base/names.h>

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace periscena::inspect {
namespace {

using Color = std::array<double, 3>;  // linear, 0..1

double to_srgb(double linear) {
  const double v = std::clamp(linear, 0.0, 1.0);
  return v <= 0.0031308 ? 12.92 * v : 1.055 * std::pow(v, 1 / 2.4) - 0.055;
}

double from_srgb(double coded) {
  return coded <= 0.04045 ? coded / 12.92 : std::pow((coded + 0.055) / 1.055, 2.4);
}

/// Three digits that count: "1480", "2.35", "0.0421".
std::string short_number(double value) {
  return std::abs(value) >= 100 && std::abs(value) < 1e7 ? fmt::format("{:.0f}", value) : fmt::format("{:.3g}", value);
}

constexpr const char* directions_scale = "x, y, z from -1 to 1 as red, green, blue";
constexpr Color nan_color{1, 0, 1}, infinite_color{0, 1, 1};

/// A colour of its own for each number; 0 is nearly black.
Color id_color(double id) {
  if (id == 0) return {0.01, 0.01, 0.012};
  auto bits = static_cast<std::uint64_t>(static_cast<std::int64_t>(id)) * 0x9E3779B97F4A7C15ull;
  bits ^= bits >> 31;
  const double hue = static_cast<double>(bits & 0xFFFF) / 65536 * 6,
               value = 0.35 + 0.6 * static_cast<double>((bits >> 16) & 0xFF) / 255;
  const double weak = value * (0.15 + 0.3 * static_cast<double>((bits >> 24) & 0xFF) / 255);
  const auto channel = [&](double at) {
    const double k = std::fmod(hue + at, 6.0);
    return weak + (value - weak) * std::clamp(std::abs(k - 3) - 1, 0.0, 1.0);
  };
  return {channel(0), channel(4), channel(2)};
}

/// The value that a share of the numbers is below.
double percentile(std::vector<double>& numbers, double share) {
  if (numbers.empty()) return 0;
  const auto at = static_cast<std::ptrdiff_t>(share * static_cast<double>(numbers.size() - 1));
  std::nth_element(numbers.begin(), numbers.begin() + at, numbers.end());
  return numbers[static_cast<std::size_t>(at)];
}

/// Turns one target's numbers into colours.
class View {
 public:
  explicit View(const CapturedTarget& target) : target_(target), format_(info(target.format)) {
    depth_ = format_.depth && !target.stencil;
    octahedral_ = target.shows == Shows::directions;
    motion_ = target.shows == Shows::motions;
    if (target.stencil) {
      find_levels();
    } else if (octahedral_) {
      scale_ = directions_scale;
    } else if (motion_) {
      fit_motions();
    } else if (depth_) {
      fit_depth();
    } else if (format_.integer() || target.holds == Holds::id) {
      scale_ = "each id its own colour, 0 black";
    } else if (target.holds == Holds::normal) {
      fit_normals();
    } else {
      fit_light();
      if (target.shows == Shows::surface_kind) scale_ = "roughness red, metalness green, occlusion blue";
    }
  }

  const std::string& scale() const { return scale_; }

  Color color(int x, int y) const {
    const auto pixel = target_.image.at(x, y);
    const int channels = std::min(format_.color() ? format_.channels : 1, 3);
    for (std::size_t c = 0; c < static_cast<std::size_t>(channels); ++c) {
      if (std::isnan(pixel[c])) return nan_color;
    }
    for (std::size_t c = 0; c < static_cast<std::size_t>(channels); ++c) {
      if (std::isinf(pixel[c])) return infinite_color;
    }
    if (target_.stencil) return level_color(pixel[0]);
    if (depth_) return depth_color(pixel[0]);
    if (format_.integer() || target_.holds == Holds::id) return id_color(pixel[0] + 65599 * pixel[1]);
    if (octahedral_) return direction_color(pixel);
    if (motion_) return motion_color(pixel);
    if (target_.holds == Holds::normal) return normal_color(pixel);
    return light_color(pixel, channels);
  }

  static bool stands_out(const Color& color) { return color == nan_color || color == infinite_color; }

 private:
  template <class Take>
  std::vector<double> gather(Take take) const {
    // Every pixel of small targets, every few of large ones.
    const int step = std::max(1, std::max(target_.image.width(), target_.image.height()) / 512);
    std::vector<double> numbers;
    for (int y = 0; y < target_.image.height(); y += step) {
      for (int x = 0; x < target_.image.width(); x += step) {
        const double number = take(target_.image.at(x, y));
        if (std::isfinite(number)) numbers.push_back(number);
      }
    }
    return numbers;
  }

  void fit_light() {
    if (target_.image.is_eight_bit()) {
      scale_ = format_.numbers == NumberKind::srgb ? "as seen"
               : target_.holds == Holds::color     ? "linear 0 to 1"
                                                   : "0 to 1";
      return;
    }
    // What is dark has no say: a few lamps in the night are to be seen, too.
    auto peaks = gather([&](const auto& pixel) {
      const double peak = std::max({pixel[0], pixel[1], pixel[2]});
      return peak > 0 ? peak : std::nan("");
    });
    const double most = percentile(peaks, 0.99);
    const bool light = target_.holds == Holds::color && target_.shows != Shows::counts;
    if (!light && most <= 1) {
      scale_ = "0 to 1";
      return;
    }
    white_ = most > 0 ? most : 1;
    scale_ = fmt::format("white is {}{}", short_number(white_), light ? " nits" : "");
  }

  Color light_color(const std::array<double, 4>& pixel, int channels) const {
    Color color{};
    for (std::size_t c = 0; c < 3; ++c) {
      const double value = channels == 1 ? pixel[0] : static_cast<int>(c) < channels ? pixel[c] : 0;
      if (!target_.image.is_eight_bit()) {
        color[c] = std::clamp(value / white_, 0.0, 1.0);
      } else if (format_.numbers == NumberKind::srgb || target_.holds != Holds::color) {
        color[c] = from_srgb(value / 255);
      } else {
        color[c] = value / 255;
      }
    }
    return color;
  }

  double distance(double depth) const {
    return target_.camera ? target_.camera->projection(1).distance_at(static_cast<float>(depth)) : depth;
  }

  bool is_far(double depth) const {
    const bool reversed = !target_.camera || target_.camera->depth == DepthOrder::reversed;
    return target_.camera && depth == (reversed ? 0.0 : 1.0);
  }

  void fit_depth() {
    if (target_.camera) lens_ = target_.camera->projection(1);
    auto distances = gather([&](const auto& pixel) {
      return is_far(pixel[0]) ? std::nan("")
             : lens_          ? static_cast<double>(lens_->distance_at(static_cast<float>(pixel[0])))
                              : pixel[0];
    });
    least_ = percentile(distances, 0.005);
    most_ = std::max(least_ + 1e-9, percentile(distances, 0.98));
    if (distances.empty()) {
      scale_ = "nothing nearer than the far end";
    } else if (target_.camera) {
      scale_ = fmt::format("{} m light, {} m dark, beyond blue", short_number(least_), short_number(most_));
    } else {
      scale_ = fmt::format("{} dark, {} light", short_number(least_), short_number(most_));
    }
  }

  Color depth_color(double depth) const {
    if (is_far(depth)) return {0.01, 0.02, 0.07};
    const double at = lens_ ? static_cast<double>(lens_->distance_at(static_cast<float>(depth))) : depth;
    // Distances by their ratio, so that what is near keeps its shape before a far background.
    const double share = std::clamp(
        lens_ && least_ > 0 ? std::log(at / least_) / std::log(most_ / least_) : (at - least_) / (most_ - least_), 0.0,
        1.0);
    // Even steps for the eye, whether near is light (a lens is known) or large numbers are.
    const double grey = from_srgb(lens_ ? 0.97 - 0.85 * share : 0.06 + 0.9 * share);
    return {grey, grey, grey};
  }

  /// Of shares of the picture, to the right and up.
  void fit_motions() {
    auto lengths = gather([](const auto& pixel) {
      const double length = std::hypot(pixel[0], pixel[1]);
      return length > 0 ? length : std::nan("");
    });
    most_ = percentile(lengths, 0.98);
    scale_ = most_ > 0 ? fmt::format("to the right red, up green; full is {} of the picture", short_number(most_))
                       : "nothing moves";
  }

  Color motion_color(const std::array<double, 4>& pixel) const {
    const double half = most_ > 0 ? 0.5 / most_ : 0;
    return {from_srgb(std::clamp(0.5 + half * pixel[0], 0.0, 1.0)),
            from_srgb(std::clamp(0.5 + half * pixel[1], 0.0, 1.0)), from_srgb(0.5)};
  }

  void fit_normals() {
    auto least = gather([](const auto& pixel) { return std::min({pixel[0], pixel[1], pixel[2]}); });
    is_signed_ = percentile(least, 0) < 0;
    scale_ = is_signed_ ? directions_scale : "as stored, 0 to 1";
  }

  /// Of an octahedral normal, see geometry_buffer.glsl.
  static Color direction_color(const std::array<double, 4>& pixel) {
    if (pixel[0] == 0 && pixel[1] == 0 && pixel[2] == 0 && pixel[3] == 0) return {0.01, 0.01, 0.012};
    const double x = 2 * pixel[0] - 1, y = 2 * pixel[1] - 1, z = 1 - std::abs(x) - std::abs(y);
    const DoubleVec3 unfolded(z < 0 ? std::copysign(1 - std::abs(y), x) : x,
                              z < 0 ? std::copysign(1 - std::abs(x), y) : y, z);
    const Vec3 normal = unfolded.cast<float>().normalized();
    return {from_srgb(0.5 + 0.5 * normal.x()), from_srgb(0.5 + 0.5 * normal.y()), from_srgb(0.5 + 0.5 * normal.z())};
  }

  Color normal_color(const std::array<double, 4>& pixel) const {
    Color color{};
    const double scale = target_.image.is_eight_bit() ? 1.0 / 255 : 1;
    for (std::size_t c = 0; c < 3; ++c)
      color[c] = from_srgb(std::clamp(is_signed_ ? 0.5 + 0.5 * pixel[c] : pixel[c] * scale, 0.0, 1.0));
    return color;
  }

  void find_levels() {
    levels_ = gather([](const auto& pixel) { return pixel[0]; });
    std::sort(levels_.begin(), levels_.end());
    levels_.erase(std::unique(levels_.begin(), levels_.end()), levels_.end());
    scale_ = counted(levels_.size(), "level") + ":";
    for (std::size_t i = 0; i < std::min<std::size_t>(levels_.size(), 8); ++i) scale_ += fmt::format(" {}", levels_[i]);
  }

  Color level_color(double level) const {
    const auto at = std::lower_bound(levels_.begin(), levels_.end(), level) - levels_.begin();
    const double share = levels_.size() < 2 ? 0.5 : static_cast<double>(at) / static_cast<double>(levels_.size() - 1);
    const double grey = from_srgb(0.08 + 0.87 * share);
    return {grey, grey, grey};
  }

  const CapturedTarget& target_;
  const FormatInfo& format_;
  bool depth_ = false, is_signed_ = false, octahedral_ = false, motion_ = false;
  double white_ = 1, least_ = 0, most_ = 1;
  std::optional<Projection> lens_;
  std::vector<double> levels_;
  std::string scale_;
};

}  // namespace

FittingView fitting_view(const CapturedTarget& target, int width, int height) {
  const View view(target);
  const Image& from = target.image;
  const double scale =
      std::min({1.0, static_cast<double>(width) / from.width(), static_cast<double>(height) / from.height()});
  FittingView fitted;
  fitted.scale = view.scale();
  fitted.picture = Image(std::max(1, static_cast<int>(std::lround(from.width() * scale))),
                         std::max(1, static_cast<int>(std::lround(from.height() * scale))), Format::rgba8_srgb);
  Image& into = fitted.picture;
  // The mean, in linear light, of all pixels that one covers; but what stands out is not averaged away.
  for (int y = 0; y < into.height(); ++y) {
    const int top = static_cast<int>(static_cast<std::int64_t>(y) * from.height() / into.height());
    const int bottom =
        std::max(top + 1, static_cast<int>(static_cast<std::int64_t>(y + 1) * from.height() / into.height()));
    for (int x = 0; x < into.width(); ++x) {
      const int left = static_cast<int>(static_cast<std::int64_t>(x) * from.width() / into.width());
      const int right =
          std::max(left + 1, static_cast<int>(static_cast<std::int64_t>(x + 1) * from.width() / into.width()));
      Color sum{};
      std::optional<Color> marked;
      for (int sy = top; sy < bottom; ++sy) {
        for (int sx = left; sx < right; ++sx) {
          const Color color = view.color(sx, sy);
          if (View::stands_out(color) && (!marked || color == nan_color)) marked = color;
          for (std::size_t c = 0; c < 3; ++c) sum[c] += color[c];
        }
      }
      std::array<double, 4> shown{0, 0, 0, 255};
      const double count = static_cast<double>((bottom - top) * (right - left));
      for (std::size_t c = 0; c < 3; ++c) shown[c] = 255 * to_srgb(marked ? (*marked)[c] : sum[c] / count);
      into.set(x, y, shown);
    }
  }
  return fitted;
}

}  // namespace periscena::inspect
