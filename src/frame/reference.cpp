#include "frame/curves.h"
#include "frame/sections.h"

#include <periscena/base/names.h>
#include <periscena/frame/frame_file.h>
#include <periscena/passes/pass_kind.h>

#include <fmt/format.h>

namespace periscena {
namespace {

/// @param of_pass  says also which may change while frames run
std::string key_table(const std::vector<KeyInfo>& keys, bool of_pass = false) {
  std::string text = of_pass ? "| key | live | type | range | default | meaning |\n|---|---|---|---|---|---|\n"
                             : "| key | type | range | default | meaning |\n|---|---|---|---|---|\n";
  for (const KeyInfo& key : keys) {
    const std::string range = key.range_text();
    const std::string unit = range.empty() && !key.rules.unit.empty() ? key.rules.unit : range;
    text += fmt::format("| `{}` |{} {} | {} | {} | {} |\n", key.name,
                        !of_pass   ? ""
                        : key.live ? " yes |"
                                   : " |",
                        key.type, unit,
                        key.rules.required         ? "required"
                        : key.default_text.empty() ? ""
                                                   : fmt::format("`{}`", key.default_text),
                        key.sentence);
  }
  return text + "\n";
}

std::string section_text(const SectionInfo& section) {
  std::string text = fmt::format("### `{}`\n\n{}\n\n{}", section.heading, section.sentence, key_table(section.keys));
  if (!section.example.empty()) text += fmt::format("```toml\n{}```\n\n", section.example);
  return text;
}

std::string slots_text(const char* verb, const std::vector<passes::SlotInfo>& slots, bool own) {
  std::string text;
  for (const passes::SlotInfo& slot : slots) {
    text += fmt::format("- {} `{}`{}: {}\n", verb, slot.name,
                        slot.need == passes::Need::required ? "" : " (may be left out)", slot.sentence);
  }
  if (own) text += fmt::format("- {} targets by names of its own: your GLSL's, or those that materials show\n", verb);
  return text;
}

}  // namespace

std::string frame_file_reference(const passes::PassKinds* kinds) {
  std::string text =
      "# Frame files: every section and key\n\n"
      "Written by the program from the tables that its reader uses (`write_reference`); a test keeps it current.\n\n"
      "## Sections\n\n";
  for (const SectionInfo& section : frame_sections()) text += section_text(section);
  text +=
      "## Kinds of passes\n\nKeys that are live may be curves, and may change while frames run, with no new plan: in "
      "C++ by `passes::Live`.\n\n";
  for (const passes::PassKind& kind : (kinds ? *kinds : passes::pass_kinds()).all()) {
    text += fmt::format("### `kind = \"{}\"`\n\n{}\n\n", kind.name, kind.sentence);
    text +=
        slots_text("reads", kind.reads, kind.own_reads()) + slots_text("writes", kind.writes, kind.own_writes()) + "\n";
    text += key_table(kind.keys, true);
    for (const passes::PassPart& part : kind.parts)
      text += fmt::format("`{}`\n\n{}", part.heading, key_table(part.keys));
    text += fmt::format("```toml\n{}```\n\n", kind.example);
  }
  text +=
      "## The scene\n\nThese sections stand in a frame file, or in a scene file of their own that `[frame] scene` "
      "names.\n\n";
  for (const SectionInfo& section : scene_sections()) text += section_text(section);
  text += section_text(curve_section());
  text.pop_back();
  return text;
}

}  // namespace periscena
