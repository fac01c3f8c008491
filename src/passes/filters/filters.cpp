#include <periscena/passes/filters.h>

#include "passes/filters/filter_steps.h"
#include "passes/shared_keys.h"

#include <periscena/base/error.h>
#include <periscena/image/color_table.h>

#include <fmt/format.h>

namespace periscena::passes {
namespace {

std::vector<double> three(const std::array<float, 3>& of) {
  return {of[0], of[1], of[2]};
}

/// A filter's kind, but for its keys and its step.
template <class Options>
Kind<Options> filter(const char* name, const char* sentence, const char* example) {
  Kind<Options> kind{.name = name, .sentence = sentence, .example = example, .reads = {}, .writes = {}};
  kind.reads = {{{"from", Need::required, "Linear light, 0..1"}, &Options::from}};
  kind.writes = {{{"color", Need::required, "0..1, linear: for a format that encodes to sRGB, or a floating one"},
                  &Options::color,
                  whole_picture()}};
  return kind;
}

const Kind<Grade>& grade_said() {
  static const Kind<Grade> kind = [] {
    auto said = filter<Grade>("grade", "Lift, gamma, gain and saturation.",
                              "[[pass]]\nname       = \"warm\"\nkind       = \"grade\"\ngain       = [1.04, 1, "
                              "0.95]\nsaturation = 1.1\nreads      = { from = \"picture\" }\n"
                              "writes     = { color = \"output\" }\n");
    said.keys.key("lift", &Grade::lift, {.minimum = -1, .maximum = 1}, "What black becomes, encoded: red, green, blue")
        .key("gamma", &Grade::gamma, {.minimum = 0.1, .maximum = 10}, "Over 1, middles are brighter: red, green, blue")
        .key("gain", &Grade::gain, {.minimum = 0, .maximum = 10}, "What white becomes, encoded: red, green, blue")
        .key("saturation", &Grade::saturation, {.minimum = 0, .maximum = 4}, "0 is grey, 1 leaves colours as they are");
    said.finish = [](const Grade& options, Pass& pass) {
      // What is left as it is takes no time.
      std::vector<std::string> changes;
      if (options.lift != std::array{0.0f, 0.0f, 0.0f}) changes.emplace_back("LIFT");
      if (options.gamma != std::array{1.0f, 1.0f, 1.0f}) changes.emplace_back("GAMMA");
      if (options.saturation != 1) changes.emplace_back("SATURATION");
      make_filter(pass, {.kind = "grade",
                         .encoded = true,
                         .defines = std::move(changes),
                         .uniforms = {{"lift", three(options.lift)},
                                      {"gamma", three(options.gamma)},
                                      {"gain", three(options.gain)},
                                      {"saturation", options.saturation}}});
    };
    return said;
  }();
  return kind;
}

const Kind<Vignette>& vignette_said() {
  static const Kind<Vignette> kind = [] {
    auto said = filter<Vignette>("vignette", "Darker towards the corners.",
                                 "[[pass]]\nname     = \"corners\"\nkind     = \"vignette\"\nstrength = 0.4\nreads    "
                                 "= { from = \"picture\" }\nwrites   = { color = \"output\" }\n");
    said.keys
        .key("strength", &Vignette::strength, {.minimum = 0, .maximum = 1}, "How much of the light the corners lose")
        .key("start", &Vignette::start, {.minimum = 0, .maximum = 0.999},
             "Where it begins, as a share of the way from the middle to a corner");
    said.finish = [](const Vignette& options, Pass& pass) {
      make_filter(pass, {.kind = "vignette", .uniforms = {{"strength", options.strength}, {"start", options.start}}});
    };
    return said;
  }();
  return kind;
}

const Kind<Grain>& grain_said() {
  static const Kind<Grain> kind = [] {
    auto said = filter<Grain>("grain", "Noise as of film, strongest in the middle tones, none in black and white.",
                              "[[pass]]\nname     = \"film\"\nkind     = \"grain\"\nstrength = 0.03\nreads    = { from "
                              "= \"picture\" }\nwrites   = { color = \"output\" }\n");
    said.keys
        .key("strength", &Grain::strength, {.minimum = 0, .maximum = 1}, "Standard deviation at middle grey, encoded")
        .key("rate", &Grain::rate, {.unit = "a second", .minimum = 0, .maximum = 1000},
             "Pictures of noise; 0: it stands still");
    said.finish = [](const Grain& options, Pass& pass) {
      make_filter(
          pass,
          {.kind = "grain", .encoded = true, .uniforms = {{"strength", options.strength}, {"rate", options.rate}}});
    };
    return said;
  }();
  return kind;
}

const Kind<Fringe>& fringe_said() {
  static const Kind<Fringe> kind = [] {
    auto said = filter<Fringe>("fringe", "Colours part towards the edges, as through a simple lens.",
                               "[[pass]]\nname     = \"lens\"\nkind     = \"fringe\"\nstrength = 0.004\nreads    = { "
                               "from = \"picture\" }\nwrites   = { color = \"output\" }\n");
    said.keys.key("strength", &Fringe::strength, {.minimum = 0, .maximum = 0.1},
                  "By how much, as a share of the way from the middle");
    said.finish = [](const Fringe& options, Pass& pass) {
      make_filter(pass, {.kind = "fringe", .reach = FilterReach::around, .uniforms = {{"strength", options.strength}}});
    };
    return said;
  }();
  return kind;
}

const Kind<Sharpen>& sharpen_said() {
  static const Kind<Sharpen> kind = [] {
    auto said = filter<Sharpen>("sharpen", "Finer contrast, without rims along edges.",
                                "[[pass]]\nname     = \"crisp\"\nkind     = \"sharpen\"\nstrength = 0.6\nreads    = { "
                                "from = \"picture\" }\nwrites   = { color = \"output\" }\n");
    said.keys.key("strength", &Sharpen::strength, {.minimum = 0, .maximum = 4},
                  "How much of what differs from its neighbours is added");
    said.finish = [](const Sharpen& options, Pass& pass) {
      make_filter(pass,
                  {.kind = "sharpen", .reach = FilterReach::around, .uniforms = {{"strength", options.strength}}});
    };
    return said;
  }();
  return kind;
}

const Kind<Pixelate>& pixelate_said() {
  static const Kind<Pixelate> kind = [] {
    auto said = filter<Pixelate>("pixelate", "Large pixels: each cell has the mean of what is in it.",
                                 "[[pass]]\nname   = \"mosaic\"\nkind   = \"pixelate\"\ncell   = 12\nreads  = { from = "
                                 "\"picture\" }\nwrites = { color = \"output\" }\n");
    said.keys.key("cell", &Pixelate::cell, {.unit = "pixels", .minimum = 1, .maximum = 256},
                  "Width and height of a cell; cells are counted from the upper left corner");
    said.finish = [](const Pixelate& options, Pass& pass) {
      make_filter(pass, {.kind = "pixelate",
                         .reach = FilterReach::around,
                         .uniforms = {{"cell", static_cast<double>(options.cell)}}});
    };
    return said;
  }();
  return kind;
}

const Kind<ColorTablePass>& color_table_said() {
  static const Kind<ColorTablePass> kind = [] {
    auto said = filter<ColorTablePass>("color_table", "Colours by a table of a .cube file, linear between its entries.",
                                       "[[pass]]\nname   = \"evening look\"\nkind   = \"color_table\"\nfile   = "
                                       "\"evening.cube\"\nreads  = { from = \"picture\" }\nwrites = { color "
                                       "= \"output\" }\n");
    said.keys
        .elsewhere("file", "text", {.required = true},
                   "A .cube file of one or three dimensions: a path from this file's folder")
        .key("strength", &ColorTablePass::strength, {.minimum = 0, .maximum = 1},
             "From what a colour is (0) to what the table says (1)")
        .key("of_light", &ColorTablePass::of_light, {},
             "true: the table is meant for linear light; false: for sRGB-encoded colours");
    said.read_more = [](const PassSource& source, ColorTablePass& options, Diagnostics& problems) {
      const Reference path = text_of(source, "file", problems, Need::required);
      if (!path.empty()) options.file = {(source.folder / path.name).string(), path.place};
    };
    said.finish = [](const ColorTablePass& options, Pass& pass) {
      FilterStep step{.kind = "color_table"};
      if (options.file.empty()) {
        if (pass.problems.has_errors()) return;  // why it is not there
        pass.problems.error("missing-key", pass.place, fmt::format("pass \"{}\" has no table", options.name),
                            "name its .cube file");
        return;
      }
      try {
        step.table = std::make_shared<const ColorTable>(read_color_table(options.file.name));
      } catch (const Mistake& mistake) {
        pass.problems.append(mistake.diagnostics());  // with the line of the table
        return;
      } catch (const Error& error) {
        for (const Diagnostic& one : error.diagnostics())
          pass.problems.error(one.slug, options.file.place.known() ? options.file.place : pass.place, one.message,
                              one.mend);
        return;
      }
      step.uniforms = {{"lowest", three(step.table->lowest)},
                       {"highest", three(step.table->highest)},
                       {"size", static_cast<double>(step.table->size)},
                       {"strength", options.strength},
                       {"by_channel", step.table->dimensions == 1 ? 1.0 : 0.0}};
      step.encoded = !options.of_light;
      make_filter(pass, std::move(step));
    };
    return said;
  }();
  return kind;
}

}  // namespace

Pass grade(const Grade& options, Place place) {
  return grade_said().make(options, std::move(place));
}
PassKind grade_kind() {
  return grade_said().kind();
}

Pass color_table(const ColorTablePass& options, Place place) {
  return color_table_said().make(options, std::move(place));
}
PassKind color_table_kind() {
  return color_table_said().kind();
}

Pass vignette(const Vignette& options, Place place) {
  return vignette_said().make(options, std::move(place));
}
PassKind vignette_kind() {
  return vignette_said().kind();
}

Pass grain(const Grain& options, Place place) {
  return grain_said().make(options, std::move(place));
}
PassKind grain_kind() {
  return grain_said().kind();
}

Pass fringe(const Fringe& options, Place place) {
  return fringe_said().make(options, std::move(place));
}
PassKind fringe_kind() {
  return fringe_said().kind();
}

Pass sharpen(const Sharpen& options, Place place) {
  return sharpen_said().make(options, std::move(place));
}
PassKind sharpen_kind() {
  return sharpen_said().kind();
}

Pass pixelate(const Pixelate& options, Place place) {
  return pixelate_said().make(options, std::move(place));
}
PassKind pixelate_kind() {
  return pixelate_said().kind();
}

}  // namespace periscena::passes
