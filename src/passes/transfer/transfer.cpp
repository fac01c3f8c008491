#include <periscena/passes/transfer.h>

#include "passes/pass_checks.h"

#include <fmt/format.h>

#include <optional>

namespace periscena::passes {
namespace {

PixelRect rect_of(const std::optional<std::array<int, 4>>& area) {
  return area ? PixelRect{(*area)[0], (*area)[1], (*area)[2], (*area)[3]} : PixelRect{};
}

struct CopyKeys {
  std::optional<std::array<int, 4>> from_area, to_area;
  std::string filter = "nearest";
};

Keys<CopyKeys> copy_keys() {
  Keys<CopyKeys> keys;
  keys.key("from_area", &CopyKeys::from_area, {.unit = "pixels", .minimum = 0},
           "Left, top, width and height of what is copied; without it, all")
      .key("to_area", &CopyKeys::to_area, {.unit = "pixels", .minimum = 0},
           "Left, top, width and height of where it goes; without it, all")
      .key("filter", &CopyKeys::filter, {.choices = {"nearest", "linear"}},
           "How it is stretched where the areas differ");
  return keys;
}

struct ResolveKeys {
  std::string by;
};

Keys<ResolveKeys> resolve_keys() {
  Keys<ResolveKeys> keys;
  keys.key("by", &ResolveKeys::by, {.choices = resolve_rule_names()},
           "How the samples become one value; without it, by the rule of the target");
  return keys;
}

/// The one read or write, or nothing where the file's reader has told that it is missing.
template <class Use>
Use only(const std::vector<Use>& uses) {
  return uses.empty() ? Use{} : uses.front();
}

Pass finish(Pass pass, const PassSource& source, Diagnostics problems) {
  std::erase_if(pass.reads, [](const Read& read) { return read.target.empty(); });
  std::erase_if(pass.writes, [](const Write& write) { return write.target.empty(); });
  // Without its ends it can only be told off for that.
  if (source.writes.empty()) pass.operation = {};
  pass.problems.append(problems);
  return pass;
}

}  // namespace

Pass copy(const Copy& options, Place place) {
  Pass pass;
  pass.name = options.name;
  pass.kind = "copy";
  pass.reads = {options.from};
  pass.writes = {options.to};
  pass.reads[0].slot = "from";
  pass.reads[0].level = std::max(0, options.from.level);
  pass.reads[0].samples = SampleReading::resolved;
  pass.writes[0].slot = "to";
  pass.writes[0].covering = options.to_area.whole() ? Covering::replaces : Covering::draws_over;
  pass.operation = CopyOperation{options.from_area, options.to_area, options.linear};
  pass.place = std::move(place);
  return pass;
}

Pass resolve(const Resolve& options, Place place) {
  Pass pass;
  pass.name = options.name;
  pass.kind = "resolve";
  pass.reads = {options.from};
  pass.writes = {options.to};
  pass.reads[0].slot = "from";
  pass.reads[0].samples = SampleReading::each;
  pass.writes[0].slot = "to";
  pass.writes[0].covering = Covering::replaces;
  pass.operation = ResolveOperation{options.by};
  pass.place = std::move(place);
  return pass;
}

Pass mip_chain(const MipChain& options, Place place) {
  Pass pass;
  pass.name = options.name;
  pass.kind = "mip_chain";
  pass.reads = {{.slot = "level 0", .target = options.target, .level = 0}};
  pass.writes = {{.slot = "levels", .target = options.target, .covering = Covering::replaces, .level = upper_levels}};
  pass.operation = LevelsOperation{};
  pass.place = std::move(place);
  return pass;
}

PassKind copy_kind() {
  static const Keys<CopyKeys> keys = copy_keys();
  PassKind kind;
  kind.name = "copy";
  kind.sentence =
      "Copies a target, or a part of it, to another target, level or layer, stretched where the sizes differ.";
  kind.example =
      "[[pass]]\nname   = \"keep a small one\"\nkind   = \"copy\"\nfilter = \"linear\"\n"
      "reads  = { from = \"scene.color\" }\nwrites = { to = \"small.color\" }\n";
  kind.reads = {{"from", true, "What is copied"}};
  kind.writes = {{"to", true, "Where it goes: floats to floats, integers to integers of the same sign"}};
  kind.keys = keys.infos();
  kind.make = [](const PassSource& source) {
    CopyKeys given;
    Diagnostics problems;
    keys.read(*source.table, fmt::format("pass \"{}\"", source.name.name), given, problems);
    return finish(copy({source.name.name, only(source.reads), only(source.writes), rect_of(given.from_area),
                        rect_of(given.to_area), given.filter == "linear"},
                       source.name.place),
                  source, std::move(problems));
  };
  return kind;
}

PassKind resolve_kind() {
  static const Keys<ResolveKeys> keys = resolve_keys();
  PassKind kind;
  kind.name = "resolve";
  kind.sentence =
      "Brings the samples of a multisampled target together by hand; what is read as an ordinary target is resolved "
      "without it.";
  kind.example =
      "[[pass]]\nname   = \"nearest depth\"\nkind   = \"resolve\"\nby     = \"greatest\"\n"
      "reads  = { from = \"scene.depth\" }\nwrites = { to = \"nearest.depth\" }\n";
  kind.reads = {{"from", true, "A multisampled target"}};
  kind.writes = {{"to", true, "A target of the same size and format with one sample a pixel"}};
  kind.keys = keys.infos();
  kind.make = [](const PassSource& source) {
    ResolveKeys given;
    Diagnostics problems;
    keys.read(*source.table, fmt::format("pass \"{}\"", source.name.name), given, problems);
    Resolve options{source.name.name, only(source.reads), only(source.writes)};
    parse_resolve_rule(given.by, options.by);
    return finish(resolve(options, source.name.place), source, std::move(problems));
  };
  return kind;
}

PassKind mip_chain_kind() {
  PassKind kind;
  kind.name = "mip_chain";
  kind.sentence = "Makes the mip levels of a target from its level 0, in linear light.";
  kind.example =
      "[[pass]]\nname   = \"blur levels\"\nkind   = \"mip_chain\"\nwrites = { levels = \"pyramid.color\" }\n";
  kind.writes = {{"levels", true, "A target with levels, whose level 0 an earlier pass writes"}};
  kind.make = [](const PassSource& source) {
    return finish(mip_chain({source.name.name, only(source.writes).target}, source.name.place), source, {});
  };
  return kind;
}

}  // namespace periscena::passes
