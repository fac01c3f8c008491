#include <periscena/passes/distance_field.h>

#include "draw/lights/lighting.h"
#include "passes/fullscreen/lit_fullscreen.h"
#include "passes/shared_keys.h"

#include <periscena/base/error.h>
#include <periscena/gl/shader_interface.h>

#include <fmt/format.h>

namespace periscena::passes {
namespace {

std::vector<double> numbers_of(const std::array<float, 3>& of) {
  return {of[0], of[1], of[2]};
}

bool defines_distance(const gl::ShaderText& shader) {
  return gl::ShaderWords(shader, gl::ShaderWords::Includes::left_out).has_function("float", "distance_to");
}

void expect_sound(const DistanceField& options, Pass& pass) {
  const std::string who = fmt::format("pass \"{}\"", options.name);
  if (options.shader.empty()) {
    if (pass.problems.has_errors()) return;  // why it is not there
    pass.problems.error("missing-key", pass.place, fmt::format("{} has no shader", who),
                        "name GLSL that defines float distance_to(vec3 place)");
  } else if (!defines_distance(options.shader)) {
    pass.problems.error("no-distance", pass.place,
                        fmt::format("\"{}\" of {} defines no distance", options.shader.source()->name, who),
                        "include periscena/distance_field.glsl there, and define float distance_to(vec3 place)");
  }
  for (std::size_t i = 0; i < 3; ++i) {
    if (options.lowest[i] < options.highest[i]) continue;
    pass.problems.error("empty-box", pass.place, fmt::format("the box of {} is empty", who),
                        "let each number of lowest be less than that of highest");
    break;
  }
  if (!options.steps.empty() && (!options.color.empty() || !options.depth.empty())) {
    pass.problems.error("steps-alone", pass.place, fmt::format("{} writes its steps and a picture", who),
                        "let another pass of the same keys write the steps");
  }
  if (options.steps.empty() && options.color.empty()) {
    pass.problems.error("missing-key", pass.place, fmt::format("{} writes neither color nor steps", who),
                        "name the target that it draws into");
  }
}

void finish_distance_field(const DistanceField& options, Pass& pass) {
  expect_sound(options, pass);
  if (pass.problems.has_errors()) return;
  Fullscreen own = lit_fullscreen(options, pass);
  const View* view = options.scene ? options.scene->find_view(options.view.name) : nullptr;
  const bool ordinary = view && view->camera.depth == DepthOrder::ordinary;
  std::vector<std::string> lines{fmt::format("#define NEAR_DEPTH {}", ordinary ? "0.0" : "1.0")};
  if (options.self_shadows) lines.emplace_back("#define SELF_SHADOWS");
  if (!options.steps.empty()) lines.emplace_back("#define COUNTS_STEPS");
  own.shader = options.shader.with_lines(lines);
  own.uniforms = {{"base_color", {options.base_color[0], options.base_color[1], options.base_color[2], 1}},
                  {"roughness", options.roughness},
                  {"metallic", options.metallic},
                  {"most_steps", static_cast<double>(options.most_steps)},
                  {"farthest", options.farthest},
                  {"step_share", options.step_share},
                  {"lowest", numbers_of(options.lowest)},
                  {"highest", numbers_of(options.highest)}};
  own.lenient = true;
  own.strange = "has distances that are no numbers";
  Pass made = fullscreen(own, pass.place);
  made.kind = pass.kind;
  made.facts = pass.facts;
  made.problems.append(pass.problems);
  for (Write& write : made.writes) {
    write.covering = write.slot == "steps" ? Covering::replaces : Covering::draws_over;
    write.coding = write.slot == "color" ? ColorCoding::light : ColorCoding::unknown;
  }
  made.shader = ShaderInterface{.source = options.shader.source()->name, .outputs = {}, .samplers = {}};
  for (const Write& write : made.writes) {
    if (is_color_slot(write.slot)) made.shader->outputs.push_back({write.slot, ValueKind::floating, 0});
  }
  if (!options.color.empty()) made.makes = LightRange::scene;
  if (view) made.camera = view->camera;
  pass = std::move(made);
}

const Kind<DistanceField>& distance_field_said() {
  static const Kind<DistanceField> kind{
      .name = "distance_field",
      .sentence =
          "Draws surfaces that GLSL of your own describes by the distance to them, among those made of triangles: lit, "
          "shadowed, in fog, with depth.",
      .example =
          "[[pass]]\nname   = \"stepping stones\"\nkind   = \"distance_field\"\nview   = \"towpath\"\nshader = "
          "\"stones.frag\"\nlights = [\"sun\"]\nwrites = { color = "
          "\"scene.color\", depth = \"scene.depth\" }\n",
      .reads = {},
      .writes = {{{"color", Need::optional, "Linear light, where a ray arrives"}, &DistanceField::color},
                 {{"depth", Need::optional, "Tested and written; left out, it lies over all"}, &DistanceField::depth},
                 {{"steps", Need::optional, "Instead of both: how many steps each ray takes"}, &DistanceField::steps}},
      .keys =
          Keys<DistanceField>()
              .key("view", &DistanceField::view, {.required = true}, "The view that it is seen through")
              .elsewhere(
                  "shader", "text", {.required = true},
                  "GLSL that includes periscena/distance_field.glsl and defines float distance_to(vec3 place): a path "
                  "from this file's folder")
              .key("lights", &DistanceField::lights, {}, lights_sentence)
              .key("shadows", &DistanceField::shadows, {}, shadows_sentence)
              .key("environment", &DistanceField::environment, {}, environment_sentence)
              .key("fog", &DistanceField::fog, {}, fog_sentence)
              .key("base_color", &DistanceField::base_color, {.minimum = 0, .maximum = 1},
                   "Linear red, green and blue, where the GLSL says nothing else")
              .key("roughness", &DistanceField::roughness, {.minimum = 0, .maximum = 1}, "The same")
              .key("metallic", &DistanceField::metallic, {.minimum = 0, .maximum = 1}, "The same")
              .key("most_steps", &DistanceField::most_steps, {.minimum = 1, .maximum = 4096},
                   "A ray that has not arrived by then does not")
              .key("farthest", &DistanceField::farthest, {.unit = "metres", .minimum = 0, .above_minimum = true},
                   "How far rays go")
              .key("step_share", &DistanceField::step_share, {.minimum = 0, .maximum = 1, .above_minimum = true},
                   "Share of the distance that is walked at once: less than 1 for distances that are more than the "
                   "true one")
              .key("lowest", &DistanceField::lowest, {.unit = "metres"},
                   "Corner of the box that all of it is in: rays are walked there alone")
              .key("highest", &DistanceField::highest, {.unit = "metres"}, "The other corner")
              .key("self_shadows", &DistanceField::self_shadows, {}, "false: it throws no shadow on itself"),
      .finish = finish_distance_field,
      .read_more = [](const PassSource& source, DistanceField& options, Diagnostics& problems) {
        read_glsl(source, "shader", options.shader, problems);
      }};
  return kind;
}

}  // namespace

Pass distance_field(const DistanceField& options, Place place) {
  return distance_field_said().make(options, std::move(place));
}

Pass distance_field(const Defaults& defaults, DistanceField options, Place place) {
  return distance_field_said().make(defaults, std::move(options), std::move(place));
}

PassKind distance_field_kind() {
  return distance_field_said().kind();
}

}  // namespace periscena::passes
