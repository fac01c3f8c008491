#include <periscena/inspect/sheet.h>

#include "inspect/paper.h"

#include <periscena/base/error.h>
#include <periscena/inspect/report.h>

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace periscena::inspect {
namespace {

constexpr int label_height = 58, title_height = 54;

struct Cell {
  FittingView view;
  std::string title, make, trouble;
};

std::string part_text(const CapturedTarget& found) {
  std::string text;
  if (found.levels > 1) text += fmt::format(", level {}", found.level);
  constexpr const char* faces[] = {"+x", "-x", "+y", "-y", "+z", "-z"};
  if (found.layers == 6) text += fmt::format(", {}", faces[found.layer]);
  if (found.layers > 1 && found.layers != 6) text += fmt::format(", layer {}", found.layer);
  if (found.stencil) text += ", stencil";
  return text;
}

/// "3 NaN, 1 infinite"; empty when all is finite.
std::string trouble_text(const CapturedTarget& found) {
  std::size_t nan = 0, infinite = 0;
  for (const ChannelStatistics& channel : statistics(found.image)) {
    nan = std::max(nan, channel.nan);
    infinite = std::max(infinite, channel.infinite);
  }
  std::string text;
  if (nan) text += fmt::format("{} pixel{} NaN (magenta)", nan, nan == 1 ? " is" : "s are");
  if (infinite) text += fmt::format("{}{} infinite (cyan)", nan ? ", " : "", infinite);
  return text;
}

/// Each pixel as a square of `times` by `times`.
Image enlarged(const Image& small, int times) {
  Image large(small.width() * times, small.height() * times, small.format());
  for (int y = 0; y < large.height(); ++y) {
    for (int x = 0; x < large.width(); ++x) large.set(x, y, small.at(x / times, y / times));
  }
  return large;
}

Cell make_cell(const CapturedTarget& found, int width, int height) {
  Cell cell;
  cell.view = fitting_view(found, width, height);
  const int times = std::min(width / cell.view.picture.width(), height / cell.view.picture.height());
  if (times > 1) cell.view.picture = enlarged(cell.view.picture, times);
  cell.title = fmt::format("{}  {}{}", found.pass + 1, found.target, part_text(found));
  cell.make = fmt::format("{} {} x {}{}", to_string(found.format), found.image.width(), found.image.height(),
                          found.samples > 1 ? fmt::format(", {} samples", found.samples) : "");
  cell.trouble = found.image.is_float() ? trouble_text(found) : "";
  return cell;
}

}  // namespace

Image make_sheet(gl::FrameRunner& runner, const Moment& moment, const SheetOptions& options) {
  if (options.width < 320 || options.width > 16384 || options.columns < 0 || options.columns > 64) {
    throw Mistake("bad-size", {}, fmt::format("a sheet of {} pixels and {} columns", options.width, options.columns),
                  "choose a width of 320 to 16384 and at most 64 columns");
  }
  const FramePlan& plan = runner.plan();
  const int columns = options.columns ? options.columns : std::max(1, options.width / 300);
  const int cell_width = (options.width - 2 * paper_margin - (columns - 1) * picture_gap) / columns;
  if (cell_width < 40) {
    throw Mistake("bad-size", {}, fmt::format("{} columns in {} pixels", options.columns, options.width),
                  "choose fewer columns");
  }
  const int cell_height =
      std::clamp(cell_width * plan.height() / std::max(1, plan.width()), cell_width / 4, cell_width * 2);
  std::vector<Cell> cells;
  std::vector<std::string> pass_names;
  visit_targets(runner, moment, [&](const CapturedTarget& found) {
    cells.push_back(make_cell(found, cell_width, cell_height));
    pass_names.push_back(found.pass_name);
  });
  const int rows =
      static_cast<int>((cells.size() + static_cast<std::size_t>(columns) - 1) / static_cast<std::size_t>(columns));
  Image sheet =
      empty_paper(options.width, title_height + rows * (cell_height + label_height + picture_gap) + paper_margin);
  const Lettering letters;
  const std::string title = fmt::format("frame {} x {} at {} s: {} pass{}", plan.width(), plan.height(), moment.seconds,
                                        plan.passes().size(), plan.passes().size() == 1 ? "" : "es");
  letters.write(sheet, title, paper_margin, 34, 17, bright, options.width - 2 * paper_margin);
  for (std::size_t i = 0; i < cells.size(); ++i) {
    const Cell& cell = cells[i];
    const int left = paper_margin + static_cast<int>(i) % columns * (cell_width + picture_gap);
    const int top = title_height + static_cast<int>(i) / columns * (cell_height + label_height + picture_gap);
    put(cell.view.picture, sheet, left, top + cell_height - cell.view.picture.height());
    letters.write(sheet, cell.title, left, top + cell_height + 17, 13, bright, cell_width);
    letters.write(sheet, fmt::format("{}; {}", pass_names[i], cell.make), left, top + cell_height + 33, 11, dim,
                  cell_width);
    letters.write(sheet, cell.trouble.empty() ? cell.view.scale : cell.trouble, left, top + cell_height + 48, 11,
                  cell.trouble.empty() ? dim : warning_color, cell_width);
  }
  return sheet;
}

}  // namespace periscena::inspect
