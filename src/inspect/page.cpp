#include <periscena/inspect/costs.h>

#include "inspect/markup.h"

#include <periscena/image/files.h>
#include <periscena/inspect/report.h>

#include <fmt/format.h>

#include <algorithm>

namespace periscena::inspect {
namespace {

constexpr const char* head = R"(<!doctype html>
<html lang="en">
<meta charset="utf-8">
<meta name="viewport" content="width=device-width">
<title>Frames, and what each pass takes</title>
<style>
body { margin: 0 auto; padding: 24px; max-width: 1240px; background: #14181e; color: #e8edf2; font: 15px/1.5 "DejaVu Sans", sans-serif; }
h1 { font-size: 22px; font-weight: 600; margin: 0; }
h2 { font-size: 17px; font-weight: 600; margin: 0 0 8px; }
p { color: #93a1b0; margin: 4px 0 24px; }
section { display: grid; grid-template-columns: minmax(0, 3fr) minmax(0, 2fr); gap: 20px; margin: 0 0 36px; align-items: start; }
section h2 { grid-column: 1 / -1; margin: 0; }
img { width: 100%; height: auto; display: block; border-radius: 4px; }
table { border-collapse: collapse; width: 100%; font-size: 13px; }
td { padding: 3px 0; vertical-align: middle; }
td.ms { text-align: right; padding-left: 10px; white-space: nowrap; font-variant-numeric: tabular-nums; }
td.name { position: relative; width: 100%; }
td.name span { position: relative; padding-left: 8px; }
td.name i { position: absolute; left: 0; top: 3px; bottom: 3px; background: #2c3a4a; border-radius: 2px; }
tr.most td.name i { background: #7a5a24; }
small { color: #93a1b0; }
tr.sum td { border-top: 1px solid #33404e; padding-top: 6px; color: #93a1b0; }
@media (max-width: 800px) { section { grid-template-columns: 1fr; } }
</style>
)";

/// RFC 4648, 4.
std::string base64(const std::string& bytes) {
  constexpr const char* digits = "ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/";
  std::string text;
  text.reserve((bytes.size() + 2) / 3 * 4);
  for (std::size_t i = 0; i < bytes.size(); i += 3) {
    const auto byte = [&](std::size_t k) {
      return i + k < bytes.size() ? static_cast<std::uint32_t>(static_cast<unsigned char>(bytes[i + k])) : 0u;
    };
    const std::uint32_t three = byte(0) << 16 | byte(1) << 8 | byte(2);
    for (std::size_t k = 0; k < 4; ++k) text += i + k <= bytes.size() ? digits[three >> (18 - 6 * k) & 63] : '=';
  }
  return text;
}

std::string table_of(const FrameCosts& costs) {
  double most = 1e-9;
  for (const PassCost& pass : costs.passes) most = std::max(most, pass.milliseconds);
  std::string text = "<table>\n";
  for (const PassCost& pass : costs.passes) {
    text += fmt::format(
        "<tr{}><td class=\"name\"><i style=\"width:{:.1f}%\"></i><span>{} <small>{}</small></span></td><td "
        "class=\"ms\">{:.1f} ms</td></tr>\n",
        pass.milliseconds == most ? " class=\"most\"" : "", 100 * pass.milliseconds / most, escaped(pass.name),
        escaped(pass.kind), pass.milliseconds);
  }
  return text + fmt::format(
                    "<tr class=\"sum\"><td>the frame, nobody waiting between passes; {}</td><td class=\"ms\">{:.1f} "
                    "ms</td></tr>\n</table>\n",
                    bytes_text(costs.bytes), costs.milliseconds);
}

}  // namespace

std::string page_html(std::span<const PageFrame> frames, const std::string& device) {
  std::string html = head;
  html += fmt::format(
      "<h1>{} frame{}, and what each pass takes</h1>\n<p>By the wall clock, with the device idle before and after each "
      "pass, on {}. Medians; everything is drawn "
      "anew.</p>\n",
      frames.size(), frames.size() == 1 ? "" : "s", escaped(device));
  for (const PageFrame& frame : frames) {
    html += fmt::format("<section>\n<h2>{}</h2>\n", escaped(frame.title));
    if (frame.picture.width() > 0)
      html += fmt::format("<img alt=\"{}\" width=\"{}\" height=\"{}\" src=\"data:image/png;base64,{}\">\n",
                          escaped(frame.title), frame.picture.width(), frame.picture.height(),
                          base64(encode_png(frame.picture)));
    html += table_of(frame.costs) + "</section>\n";
  }
  return html + "</html>\n";
}

}  // namespace periscena::inspect
