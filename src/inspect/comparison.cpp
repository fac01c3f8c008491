#include <periscena/inspect/comparison.h>

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace periscena::inspect {
namespace {

bool same_place(const CaptureEntry& a, const CaptureEntry& b) {
  return a.pass == b.pass && a.target == b.target && a.slot == b.slot && a.level == b.level && a.layer == b.layer &&
         a.stencil == b.stencil;
}

const CaptureEntry* find(const CaptureIndex& capture, const CaptureEntry& wanted) {
  const auto found = std::find_if(capture.entries.begin(), capture.entries.end(),
                                  [&](const CaptureEntry& entry) { return same_place(entry, wanted); });
  return found == capture.entries.end() ? nullptr : &*found;
}

}  // namespace

CaptureComparison compare_captures(const std::filesystem::path& path_a, const std::filesystem::path& path_b) {
  const CaptureIndex a = read_capture(path_a), b = read_capture(path_b);
  CaptureComparison found;
  for (const CaptureEntry& entry : a.entries) {
    CaptureDifference difference{entry.pass, entry.target, {}, {}};
    const CaptureEntry* other = find(b, entry);
    if (!other) {
      difference.what = "only in the first";
    } else if (entry.width != other->width || entry.height != other->height) {
      difference.what =
          fmt::format("{} x {} pixels against {} x {}", entry.width, entry.height, other->width, other->height);
    } else if (entry.format != other->format) {
      difference.what = fmt::format("{} against {}", entry.format, other->format);
    }
    if (difference.what.empty()) {
      ++found.compared;
      const Image left = read_captured(a, entry), right = read_captured(b, *other);
      // Equal files are equal pictures.
      if (entry.hash == other->hash) continue;
      difference.numbers = compare(left, right);
      if (difference.numbers.pixels == 0) continue;
      if (found.heat.width() == 0) {
        const double most = difference.numbers.greatest;
        found.heat = difference_heat(left, right, std::isfinite(most) ? most : difference.numbers.peak);
      }
    }
    found.differences.push_back(std::move(difference));
  }
  for (const CaptureEntry& entry : b.entries) {
    if (!find(a, entry)) found.differences.push_back({entry.pass, entry.target, "only in the second", {}});
  }
  return found;
}

std::string to_text(const PictureDifference& difference) {
  if (difference.pixels == 0) return "equal";
  const std::string channel = fmt::format("{}", "RGBA"[std::clamp(difference.channel, 0, 3)]);
  return fmt::format(
      "rmse {:.6g}, psnr {:.2f} dB, ssim {:.5f}; greatest difference {:.6g} at {},{} in {}; {} pixel{} differ{}",
      difference.rmse, difference.psnr, difference.ssim, difference.greatest, difference.x, difference.y, channel,
      difference.pixels, difference.pixels == 1 ? "" : "s", difference.pixels == 1 ? "s" : "");
}

}  // namespace periscena::inspect
