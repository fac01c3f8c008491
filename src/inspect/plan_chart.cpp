#include <periscena/inspect/report.h>

#include "inspect/markup.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>

namespace periscena::inspect {
namespace {

std::string dot_text(const std::string& text) {
  std::string quoted;
  for (const char c : text) {
    if (c == '"' || c == '\\') quoted += '\\';
    quoted += c;
  }
  return quoted;
}

std::string size_text(const PlannedTarget& target) {
  std::string text = fmt::format("{} x {} {}", target.width, target.height, to_string(target.description.format));
  if (target.samples > 1) text += fmt::format(", {} samples", target.samples);
  if (target.levels > 1) text += fmt::format(", {} levels", target.levels);
  if (target.layers > 1) text += fmt::format(", {} layers", target.layers);
  if (target.frames > 1) text += fmt::format(", {} frames", target.frames);
  return text;
}

/// Muted colours, told apart by hue and lightness, for storages.
std::string storage_color(std::uint32_t storage) {
  const double hue = std::fmod(0.57 + 0.381966 * storage, 1.0) * 6;
  const double lightness = storage % 2 ? 0.56 : 0.46, chroma = 0.30;
  std::array<double, 3> rgb{};
  for (std::size_t i = 0; i < 3; ++i) {
    const double k = std::fmod(hue + (i == 0 ? 0 : i == 1 ? 4 : 2), 6.0);
    rgb[i] = lightness + chroma * std::clamp(std::abs(k - 3) - 1, 0.0, 1.0) - 0.5 * chroma;
  }
  return fmt::format("#{:02x}{:02x}{:02x}", static_cast<int>(255 * rgb[0]), static_cast<int>(255 * rgb[1]),
                     static_cast<int>(255 * rgb[2]));
}

/// Draws the chart row by row.
class Chart {
 public:
  explicit Chart(const FramePlan& plan) : plan_(plan) {
    std::size_t longest_target = 10, longest_pass = 8;
    for (const PlannedTarget& target : plan.targets())
      longest_target = std::max({longest_target, target.name.size(), size_text(target).size() * 4 / 5});
    for (const PlannedPass& pass : plan.passes()) longest_pass = std::max(longest_pass, pass.name.size());
    left_ = 64 + 8.2 * static_cast<double>(longest_target);
    top_ = 96 + 5.4 * static_cast<double>(longest_pass);
    const auto columns = static_cast<double>(plan.passes().size());
    column_ = std::clamp(760 / columns, 34.0, 110.0);
    slant_ = 5.4 * static_cast<double>(longest_pass);
    width_ = std::max(left_ + column_ * columns + 60 + slant_, 1000.0);
    height_ = top_ + row * static_cast<double>(plan.targets().size()) + 74;
  }

  std::string draw() {
    out_ = fmt::format(
        "<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"{0:.0f}\" height=\"{1:.0f}\" viewBox=\"0 0 {0:.0f} "
        "{1:.0f}\" "
        "font-family=\"DejaVu Sans, sans-serif\">\n<rect width=\"100%\" height=\"100%\" fill=\"#14181e\"/>\n",
        width_, height_);
    const std::size_t bytes = plan_.bytes(), unshared = plan_.unshared_bytes();
    text(24, 36, 17, "#e8edf2", fmt::format("frame {} x {}", plan_.width(), plan_.height()));
    text(24, 58, 12, "#93a1b0",
         bytes == unshared ? bytes_text(bytes)
                           : fmt::format("{}, {} without sharing", bytes_text(bytes), bytes_text(unshared)));
    for (std::uint32_t p = 0; p < plan_.passes().size(); ++p) draw_pass(p);
    for (std::uint32_t t = 0; t < plan_.targets().size(); ++t) draw_target(t);
    draw_legend();
    return out_ + "</svg>\n";
  }

 private:
  static constexpr double row = 40;

  double x_of(double pass) const { return left_ + column_ * (pass + 0.5); }
  double y_of(std::uint32_t target) const { return top_ + row * (target + 0.5); }

  void text(double x, double y, double size, const char* color, const std::string& words, const char* more = "") {
    out_ += fmt::format("<text x=\"{:.1f}\" y=\"{:.1f}\" font-size=\"{}\" fill=\"{}\" {}>{}</text>\n", x, y, size,
                        color, more, escaped(words));
  }

  void draw_pass(std::uint32_t p) {
    const PlannedPass& pass = plan_.passes()[p];
    const double x = x_of(p);
    out_ += fmt::format("<line x1=\"{0:.1f}\" y1=\"{1:.1f}\" x2=\"{0:.1f}\" y2=\"{2:.1f}\" stroke=\"#2b333d\"/>\n", x,
                        top_ - 8, height_ - 74);
    const std::string turn = fmt::format("transform=\"rotate(-40 {:.1f} {:.1f})\"", x, top_ - 16);
    text(x, top_ - 16, 12, pass.declared ? "#dfe6ee" : "#8fb7d8", pass.name, turn.c_str());
  }

  void draw_target(std::uint32_t t) {
    const PlannedTarget& target = plan_.targets()[t];
    const double y = y_of(t), half = 0.34 * column_;
    text(24, y - 2, 13, "#e8edf2", target.name);
    text(24, y + 13, 10.5, "#93a1b0", size_text(target) + ", " + bytes_text(target.bytes));
    const std::string color = storage_color(target.storage);
    const double from = x_of(target.lifetime.first) - half,
                 to = x_of(target.lifetime.last) + half + (target.lasts ? 22 : 0);
    out_ += fmt::format(
        "<rect x=\"{:.1f}\" y=\"{:.1f}\" width=\"{:.1f}\" height=\"22\" rx=\"6\" fill=\"{}\"{}/>\n", from, y - 11,
        to - from, color,
        plan_.storages()[target.storage].renderbuffer ? " stroke=\"#e8edf2\" stroke-dasharray=\"3 3\"" : "");
    if (target.lasts) text(to - 16, y + 4.5, 12, "#ffffff", "▸");
    for (std::uint32_t p = 0; p < plan_.passes().size(); ++p) draw_uses(p, t, x_of(p), y);
  }

  void draw_uses(std::uint32_t p, std::uint32_t t, double x, double y) {
    bool reads = false, writes = false, clears = false, earlier = false;
    for (const PlannedRead& read : plan_.passes()[p].reads) {
      reads = reads || (read.target == t && read.history == 0);
      earlier = earlier || (read.target == t && read.history > 0);
    }
    for (const PlannedWrite& write : plan_.passes()[p].writes) {
      writes = writes || write.target == t;
      clears = clears || (write.target == t && write.load == LoadAction::clear);
    }
    const double apart = (reads || earlier) && writes ? 9 : 0;
    if (writes) mark(x + apart, y, clears ? "cleared" : "written");
    if (reads) mark(x - apart, y, "read");
    if (earlier) mark(x - apart, y, "earlier");
  }

  void mark(double x, double y, std::string_view what) {
    if (what == "written")
      out_ += fmt::format("<circle cx=\"{:.1f}\" cy=\"{:.1f}\" r=\"6\" fill=\"#ffffff\"/>\n", x, y);
    if (what == "cleared") {
      out_ += fmt::format(
          "<circle cx=\"{0:.1f}\" cy=\"{1:.1f}\" r=\"6\" fill=\"#ffffff\"/><circle cx=\"{0:.1f}\" "
          "cy=\"{1:.1f}\" r=\"2.5\" fill=\"#14181e\"/>\n",
          x, y);
    }
    if (what == "read" || what == "earlier") {
      out_ += fmt::format(
          "<circle cx=\"{:.1f}\" cy=\"{:.1f}\" r=\"5\" fill=\"none\" stroke=\"#ffffff\" "
          "stroke-width=\"2\"{}/>\n",
          x, y, what == "earlier" ? " stroke-dasharray=\"3 2\"" : "");
    }
  }

  void draw_legend() {
    const double y = height_ - 34;
    double x = 30;
    const bool history = plan_.has_history();
    const auto item = [&](const char* what, const char* words, double width) {
      mark(x, y, what);
      text(x + 12, y + 4, 11, "#93a1b0", words);
      x += width;
    };
    item("cleared", "cleared, then written", 158);
    item("written", "written", 82);
    item("read", "read", 66);
    if (history) item("earlier", "read of an earlier frame", 180);
    text(x, y + 4, 11, "#93a1b0",
         "bars of one colour lie in one storage; dashed ones are renderbuffers; ▸ kept after the frame");
  }

  const FramePlan& plan_;
  double left_, top_, column_, slant_, width_, height_;
  std::string out_;
};

}  // namespace

std::string to_dot(const FramePlan& plan) {
  std::string text =
      "digraph frame {\n  rankdir = LR;\n  node [fontname = \"DejaVu Sans\", fontsize = 11];\n"
      "  edge [fontname = \"DejaVu Sans\", fontsize = 9];\n";
  for (std::size_t p = 0; p < plan.passes().size(); ++p) {
    const PlannedPass& pass = plan.passes()[p];
    text += fmt::format("  pass{} [shape = box, style = \"{}\", label = \"{}. {}\\n{}\"];\n", p,
                        pass.declared ? "filled" : "filled,dashed", p + 1, dot_text(pass.name), dot_text(pass.kind));
  }
  for (std::size_t t = 0; t < plan.targets().size(); ++t) {
    const PlannedTarget& target = plan.targets()[t];
    text += fmt::format("  target{} [shape = ellipse, label = \"{}\\n{}\"];\n", t, dot_text(target.name),
                        size_text(target));
  }
  for (std::size_t p = 0; p < plan.passes().size(); ++p) {
    for (const PlannedRead& read : plan.passes()[p].reads) {
      text += fmt::format("  target{} -> pass{} [label = \"{}\"{}];\n", read.target, p, dot_text(read.slot),
                          read.history ? ", style = dashed, constraint = false" : "");
    }
    for (const PlannedWrite& write : plan.passes()[p].writes)
      text += fmt::format("  pass{} -> target{} [label = \"{}\"];\n", p, write.target, dot_text(write.slot));
  }
  return text + "}\n";
}

std::string to_svg(const FramePlan& plan) {
  return Chart(plan).draw();
}

}  // namespace periscena::inspect
