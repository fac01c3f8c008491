#include "graph/planner.h"

#include <periscena/base/names.h>

#include <fmt/format.h>

#include <algorithm>

namespace periscena {
namespace {

const char* sampler_word(SamplerShape shape) {
  switch (shape) {
    case SamplerShape::flat: return "sampler2D";
    case SamplerShape::array: return "sampler2DArray";
    case SamplerShape::cube: return "samplerCube";
    case SamplerShape::cube_array: return "samplerCubeArray";
    case SamplerShape::flat_samples: return "sampler2DMS";
    case SamplerShape::array_samples: return "sampler2DMSArray";
    case SamplerShape::volume: return "sampler3D";
    case SamplerShape::other: break;
  }
  return "sampler";
}

const char* sampler_prefix(ValueKind kind) {
  return kind == ValueKind::floating ? "" : kind == ValueKind::signed_integer ? "i" : "u";
}

const char* output_type(ValueKind kind) {
  return kind == ValueKind::floating ? "vec4" : kind == ValueKind::signed_integer ? "ivec4" : "uvec4";
}

}  // namespace

void Planner::check_shader(std::uint32_t p) {
  check_outputs_of(p);
  check_samplers_of(p);
}

void Planner::check_outputs_of(std::uint32_t p) {
  const ShaderInterface& shader = *pass(p).shader;
  const auto& writes = pass(p).writes;
  const auto targets = writes_of(p);
  for (std::size_t i = 0; i < shader.outputs.size(); ++i) {
    const FragmentOutput& output = shader.outputs[i];
    const auto write = std::find_if(writes.begin(), writes.end(), [&](const Write& one) {
      return is_color_slot(one.slot) && one.slot == output.name;
    });
    if (write == writes.end()) {
      // When a write's name fits no output, the two are the same mistake, told by the write.
      const bool told = std::any_of(writes.begin(), writes.end(), [&](const Write& one) {
        return is_color_slot(one.slot) &&
               std::none_of(shader.outputs.begin(), shader.outputs.end(),
                            [&](const FragmentOutput& known) { return known.name == one.slot; });
      });
      if (!told && !pass(p).problems.has_errors()) {
        diagnostics_.error(
            "lost-output", pass(p).place,
            fmt::format("\"{}\" has an output \"{}\" that goes nowhere: {} writes no target of that name",
                        shader.source, output.name, quoted(p)),
            fmt::format("write it: writes = {{ {} = \"…\" }}, or remove it", output.name));
      }
      continue;
    }
    const auto same_location = std::find_if(
        shader.outputs.begin(), shader.outputs.begin() + static_cast<std::ptrdiff_t>(i),
        [&](const FragmentOutput& other) { return other.location >= 0 && other.location == output.location; });
    if (same_location != shader.outputs.begin() + static_cast<std::ptrdiff_t>(i)) {
      diagnostics_.error("location-twice", pass(p).place,
                         fmt::format("\"{}\" gives its outputs \"{}\" and \"{}\" the same location {}", shader.source,
                                     same_location->name, output.name, output.location),
                         "number them 0, 1, 2, …");
    }
    const std::uint32_t target = targets[static_cast<std::size_t>(write - writes.begin())];
    if (target == none || !info(description(target).format).color()) continue;
    const ValueKind wanted = value_kind(description(target).format);
    if (wanted == output.kind) continue;
    diagnostics_.error(
        "output-type", place_of(write->target, p),
        fmt::format("output \"{}\" of \"{}\" is {}, but target \"{}\" is {}, which takes {}", output.name,
                    shader.source, to_string(output.kind), name(target), to_string(description(target).format),
                    to_string(wanted)),
        fmt::format("declare it out {} {}, or choose another format: otherwise what is written is undefined",
                    output_type(wanted), output.name));
  }
}

void Planner::check_samplers_of(std::uint32_t p) {
  const auto targets = reads_of(p);
  for (std::size_t i = 0; i < targets.size(); ++i) {
    const Read& read = pass(p).reads[i];
    const auto& samplers = pass(p).shader->samplers;
    const auto sampler =
        std::find_if(samplers.begin(), samplers.end(), [&](const auto& known) { return known.name == read.slot; });
    if (targets[i] == none || sampler == samplers.end() || sampler->shape == SamplerShape::other) continue;
    const ResolvedTarget& known = targets_[targets[i]];
    const bool one_layer = read.layer != all_layers || known.shape == TargetShape::flat;
    const bool samples = known.samples > 1 && read.samples == SampleReading::each;
    const SamplerShape shape = read.texture == TextureReading::as_array ? SamplerShape::array
                               : one_layer ? samples ? SamplerShape::flat_samples : SamplerShape::flat
                               : known.shape == TargetShape::cube ? SamplerShape::cube
                               : samples                          ? SamplerShape::array_samples
                                                                  : SamplerShape::array;
    const FormatInfo& format = info(description(targets[i]).format);
    const ValueKind kind = format.depth ? ValueKind::floating : value_kind(format.format);
    if (sampler->depth && !format.depth) {
      diagnostics_.error("sampler-type", place_of(read.target, p),
                         fmt::format("{} reads depth as \"{}\", but target \"{}\" is {}", quoted(p), read.slot,
                                     name(targets[i]), format.name),
                         "read the depth that the objects were drawn with");
      continue;
    }
    // That it has no samples was told already.
    if ((read.samples == SampleReading::each && known.samples == 1) || read.samples == SampleReading::own) continue;
    if (sampler->shape == shape && sampler->kind == kind) continue;
    diagnostics_.error(
        "sampler-type", place_of(read.target, p),
        fmt::format("\"{}\" reads \"{}\" through {}{}, but target \"{}\" is {}{}", pass(p).shader->source, read.slot,
                    sampler_prefix(sampler->kind), sampler_word(sampler->shape), name(targets[i]), format.name,
                    sampler->shape == shape ? ""
                                            : fmt::format(", {}", one_layer ? "one flat picture"
                                                                  : known.shape == TargetShape::cube ? "a cube"
                                                                                                     : "an array")),
        fmt::format("declare it: uniform {}{} {};", sampler_prefix(kind), sampler_word(shape), read.slot));
  }
}

}  // namespace periscena
