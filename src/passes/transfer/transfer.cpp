#include <periscena/passes/transfer.h>

#include "passes/shared_keys.h"

namespace periscena {

/// Left, top, width and height; left out, all.
template <>
struct KeyType<PixelRect> {
  static std::string name() { return KeyType<std::array<int, 4>>::name(); }
  static std::string show(const PixelRect&) { return ""; }
  static void read(const Value& value, const KeyInfo& info, PixelRect& into, Diagnostics& diagnostics) {
    std::array<int, 4> numbers{into.x, into.y, into.width, into.height};
    KeyType<decltype(numbers)>::read(value, info, numbers, diagnostics);
    into = {numbers[0], numbers[1], numbers[2], numbers[3]};
  }
};

}  // namespace periscena

namespace periscena::passes {
namespace {

const Kind<Copy>& copy_said() {
  static const Kind<Copy> kind{
      .name = "copy",
      .sentence =
          "Copies a target, or a part of it, to another target, level or layer, stretched where the sizes differ.",
      .example =
          "[[pass]]\nname   = \"keep a small one\"\nkind   = \"copy\"\nfilter = \"linear\"\n"
          "reads  = { from = \"scene.color\" }\nwrites = { to = \"small.color\" }\n",
      .reads = {{{"from", Need::required, "What is copied"}, &Copy::from}},
      .writes = {{{"to", Need::required, "Where it goes: floats to floats, integers to integers of the same sign"},
                  &Copy::to}},
      .keys = Keys<Copy>()
                  .key("from_area", &Copy::from_area, {.unit = "pixels", .minimum = 0},
                       "Left, top, width and height of what is copied; left out, all")
                  .key("to_area", &Copy::to_area, {.unit = "pixels", .minimum = 0},
                       "Left, top, width and height of where it goes; left out, all")
                  .key("filter", &Copy::filter, {}, "How it is stretched where the areas differ"),
      .finish = [](const Copy& options, Pass& pass) {
        pass.reads[0].level = std::max(0, options.from.level);
        pass.reads[0].samples = SampleReading::resolved;
        pass.writes[0].covering = options.to_area.whole() ? Covering::replaces : Covering::draws_over;
        pass.shader = {};
        pass.operation = CopyOperation{options.from_area, options.to_area, options.filter == Stretch::linear};
      }};
  return kind;
}

const Kind<Resolve>& resolve_said() {
  static const Kind<Resolve> kind{
      .name = "resolve",
      .sentence =
          "Brings the samples of a multisampled target together by hand; what is read as an ordinary target is "
          "resolved "
          "without it.",
      .example =
          "[[pass]]\nname   = \"nearest depth\"\nkind   = \"resolve\"\nby     = \"greatest\"\n"
          "reads  = { from = \"scene.depth\" }\nwrites = { to = \"nearest.depth\" }\n",
      .reads = {{{"from", Need::required, "A multisampled target"}, &Resolve::from}},
      .writes = {{{"to", Need::required, "A target of the same size and format with one sample a pixel"},
                  &Resolve::to}},
      .keys = Keys<Resolve>().key("by", &Resolve::by, {},
                                  "How the samples become one value; automatic: by the rule of the target"),
      .finish = [](const Resolve& options, Pass& pass) {
        pass.reads[0].samples = SampleReading::each;
        pass.writes[0].covering = Covering::replaces;
        pass.shader = {};
        pass.operation = ResolveOperation{options.by};
      }};
  return kind;
}

const Kind<MipChain>& mip_chain_said() {
  static const Kind<MipChain> kind{
      .name = "mip_chain",
      .sentence = "Makes the mip levels of a target from its level 0, in linear light.",
      .example =
          "[[pass]]\nname   = \"blur levels\"\nkind   = \"mip_chain\"\nwrites = { levels = \"pyramid.color\" }\n",
      .writes = {{{"levels", Need::required, "A target with levels, whose level 0 an earlier pass writes"},
                  &MipChain::levels,
                  {.covering = Covering::replaces}}},
      .finish = [](const MipChain& options, Pass& pass) {
        pass.reads = {{.slot = "level 0", .target = options.levels, .level = 0}};
        pass.writes[0].level = upper_levels;
        pass.shader = {};
        pass.operation = LevelsOperation{};
      }};
  return kind;
}

}  // namespace

const std::vector<std::string>& choices_of(Stretch) {
  static const std::vector<std::string> names{"nearest", "linear"};
  return names;
}

Pass copy(const Copy& options, Place place) {
  return copy_said().make(options, std::move(place));
}
PassKind copy_kind() {
  return copy_said().kind();
}

Pass resolve(const Resolve& options, Place place) {
  return resolve_said().make(options, std::move(place));
}
PassKind resolve_kind() {
  return resolve_said().kind();
}

Pass mip_chain(const MipChain& options, Place place) {
  return mip_chain_said().make(options, std::move(place));
}
PassKind mip_chain_kind() {
  return mip_chain_said().kind();
}

}  // namespace periscena::passes
