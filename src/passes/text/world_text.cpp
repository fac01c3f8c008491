#include <periscena/passes/world_text.h>

#include "draw/lights/lighting.h"
#include "draw/scene/view_camera.h"
#include "draw/surfaces/surface_program.h"
#include "passes/shared_keys.h"
#include "passes/text/text_buffer.h"

#include <periscena/base/names.h>

#include <fmt/format.h>

namespace periscena::passes {
namespace {

/// Where a text lies: an element of the storage block TextPlanes, std430.
struct TextPlaneBlock {
  Vec4 origin = Vec4::zero();
  Vec4 right = Vec4::zero();
  Vec4 down = Vec4::zero();

  explicit TextPlaneBlock(const WorldText& text, const Scene& scene) {
    const NodeHandle node = scene.find_node(text.object.name);
    const Vec3 across = text.up.cross(text.facing).normalized(), below = across.cross(text.facing).normalized();
    const Vec3& at = text.origin;
    origin = {at.x(), at.y(), at.z(), node.valid() ? static_cast<float>(node.index) : -1.0f};
    right = {across.x(), across.y(), across.z(), 0};
    down = {below.x(), below.y(), below.z(), 0};
  }
  TextPlaneBlock() = default;

  static gl::BlockLayout layout() {
    return gl::describe_block<TextPlaneBlock>("TextPlanes", "planes")
        .member("origin", &TextPlaneBlock::origin)
        .member("right", &TextPlaneBlock::right)
        .member("down", &TextPlaneBlock::down);
  }
};

PlacedText placed(const WorldText& text) {
  using Anchor = WorldText::Anchor;
  Vec2 share = Vec2::constant(0.5f);
  if (text.anchor != Anchor::middle) {
    const bool right = text.anchor == Anchor::upper_right || text.anchor == Anchor::lower_right;
    const bool lower = text.anchor == Anchor::lower_left || text.anchor == Anchor::lower_right;
    share = {right ? 1.0f : 0.0f, lower ? 1.0f : 0.0f};
  }
  return {text.wording, Letters::distance, [share](const Vec2& size) { return -share.times(size); }, 0};
}

std::vector<PlacedText> all_placed(const WorldTexts& options) {
  std::vector<PlacedText> all;
  for (const WorldText& text : options.texts) all.push_back(placed(text));
  return all;
}

draw::LightingChoice lighting_of(const WorldTexts& options) {
  return {options.lit ? options.lights : ChosenNames::none(), options.environment, options.fog, options.cache};
}

class WorldTextWork final : public gl::PassWork {
 public:
  WorldTextWork(const WorldTexts& options, gl::PassSetup& setup)
      : scene_(draw::SceneBuffers::shared(setup, options.scene)),
        lighting_(setup, scene_, lighting_of(options)),
        view_(setup, options.scene, options.view),
        program_(setup.device(), {options.name, pass_shader("periscena/world_text.vert"), fragment_text(lighting_)}),
        textures_(program_),
        shadow_units_(program_, textures_),
        text_(options.name, options.typefaces, all_placed(options)) {
    const auto follows = [](const WorldText& text) { return !text.object.empty(); };
    if (std::any_of(options.texts.begin(), options.texts.end(), follows))
      scene_->expect_one_block("text that follows an object");
    setup.match_outputs(program_);
    program_.expect_block(GlyphBlock::layout());
    program_.expect_block(TextPlaneBlock::layout());
    program_.expect_block(draw::ObjectBlock::layout());
    program_.expect_block(draw::CameraBlock::layout());
    program_.set(program_.uniform<bool>("lit"), options.lit);
    lighting_.put_textures(program_, textures_);
    std::vector<TextPlaneBlock> planes;
    for (const WorldText& text : options.texts) planes.emplace_back(text, *options.scene);
    planes_ = gl::Buffer::holding(std::as_bytes(std::span(planes)), options.name);
    const bool reversed = view_.camera().depth == DepthOrder::reversed;
    // Towards the eye, by what rounding can make: of places, to 1/256 of a pixel in the surface and in the letters, so
    // that depth is off by as much of what it changes by in a pixel; and of depth itself.
    const float towards = reversed ? 1.0f : -1.0f;
    state_ = {.depth = {true, false, reversed ? gl::Compare::greater : gl::Compare::less},
              .blend = {.on = true},
              .offset = {towards / 32, 64 * towards}};
  }

  void resize(gl::PassSetup& setup) override { view_.resize(setup); }

  const Camera* camera() const override { return &view_.camera(); }

  void run(gl::PassContext& context) override {
    scene_->update(context);
    lighting_.update(context);
    view_.update(context);
    text_.update(context);
    if (text_.vertices() == 0) return;
    gl::State& state = context.state();
    program_.use(state);
    state.apply(state_);
    view_.bind(state);
    scene_->bind_objects(state);
    lighting_.bind(state);
    text_.bind(state);
    state.bind_storage_block(gl::binding::text_plane_storage, planes_.name());
    textures_.put(program_, "letters", text_.atlas(), text_.sampler());
    lighting_.put_shadows(context, shadow_units_, textures_);
    textures_.bind(state);
    context.draw_generated(text_.vertices());
  }

  std::vector<gl::Batch> batches() const override { return text_.batches(); }
  Diagnostics diagnostics() const override { return text_.diagnostics(); }

 private:
  static gl::ShaderText fragment_text(const draw::Lighting& lighting) {
    return draw::surface_text(pass_shader("periscena/world_text.frag"), {}, {}, lighting.defines());
  }

  std::shared_ptr<draw::SceneBuffers> scene_;
  draw::Lighting lighting_;
  draw::ViewCamera view_;
  gl::Program program_;
  draw::BoundTextures textures_;
  draw::Lighting::ShadowUnits shadow_units_;
  TextBuffer text_;
  gl::Buffer planes_;
  gl::PipelineState state_;
};

void expect_text(const WorldTexts& options, const WorldText& text, const std::string& what, const Place& place,
                 Diagnostics& problems) {
  if (!text.object.empty() && options.scene && !options.scene->find_node(text.object.name).valid()) {
    problems.error("unknown-object", text.object.place.known() ? text.object.place : place,
                   fmt::format("{} stands on object \"{}\", which is not there", what, text.object.name), [&] {
                     const std::vector<std::string> names = names_of(options.scene->nodes());
                     return names.empty() ? "declare it: [[object]] with this name"
                                          : name_hint(text.object.name, names);
                   });
  }
  const bool finite = is_finite(text.origin) && is_finite(text.facing) && is_finite(text.up);
  if (!finite || !(text.up.cross(text.facing).norm() > 1e-6f * text.up.norm() * text.facing.norm())) {
    problems.error(finite ? "out-of-range" : "not-finite", place,
                   fmt::format("{} has no plane: its `facing` and `up` {}", what,
                               finite ? "lie along one line, or are 0" : "or `origin` are not finite"),
                   "let facing point out of the surface, and up along it");
  }
}

void expect_sound(const WorldTexts& options, const Place& place, Diagnostics& problems) {
  std::vector<char32_t> missing;
  for (std::size_t i = 0; i < options.texts.size(); ++i) {
    const WorldText& text = options.texts[i];
    const std::string what = fmt::format("text {} of pass \"{}\"", i + 1, options.name);
    const Place& own = text.wording.place_or(place);
    expect_wording(what, options.typefaces, text.wording, "m", own, missing, problems);
    expect_text(options, text, what, own, problems);
  }
  tell_missing(options.name, missing, place, problems);
}

const std::vector<std::string>& anchor_names() {
  static const std::vector<std::string> names = [] {
    std::vector<std::string> all = corner_names();
    all.push_back("middle");
    return all;
  }();
  return names;
}

struct WorldTextKeys : WordingKeys {
  Reference object;
  Vec3 origin = Vec3::zero(), facing = Vec3::unit_z(), up = Vec3::unit_y();
  std::string anchor = "upper_left";

  WorldTextKeys() { size = 0.1f; }
};

Keys<WorldTexts> world_texts_keys() {
  using K = WorldTexts;
  Keys<K> keys;
  keys.key("view", &K::view, {.required = true}, view_sentence)
      .elsewhere("typefaces", "table", {}, "By name: the path of a font file")
      .elsewhere("text", "list of tables", {.required = true},
                 "What to write: [[pass.text]], as often as there are texts")
      .key("lit", &K::lit, {}, "Paint, lit as the surface that it is on; false: colours are nits of their own")
      .key("lights", &K::lights, {}, lights_sentence)
      .key("environment", &K::environment, {}, environment_sentence)
      .key("fog", &K::fog, {}, fog_sentence)
      .key("shadows", &K::shadows, {}, shadows_sentence);
  return keys;
}

Keys<WorldTextKeys> world_text_keys() {
  using K = WorldTextKeys;
  Keys<K> keys;
  WordingKeys::add(keys, "metres");
  keys.key("object", &K::object, {}, "The text is in its coordinates, and follows it; left out, the world's")
      .key("origin", &K::origin, {.unit = "metres"}, "Where the anchor is")
      .key("facing", &K::facing, {}, "Out of the surface, towards the reader")
      .key("up", &K::up, {}, "Of the letters")
      .key("anchor", &K::anchor, {.choices = anchor_names()}, "Of the text's block");
  return keys;
}

void read_text(const Value& table, const std::string& what, WorldTexts& options, Diagnostics& problems) {
  static const Keys<WorldTextKeys> keys = world_text_keys();
  WorldTextKeys given;
  keys.read(table, what, given, problems);
  report_unknown_keys(table, what, keys.names(), problems);
  if (!given.typeface.place.known()) given.typeface.place = table.place;
  options.texts.push_back({given.wording(), given.object, given.origin, given.facing, given.up,
                           static_cast<WorldText::Anchor>(index_of(anchor_names(), given.anchor))});
}

void finish_world_text(const WorldTexts& options, Pass& pass) {
  expect_sound(options, pass.place, pass.problems);
  if (options.lit) add_shadows(pass, options.shadows, options.scene, options.lights);
  pass.work = gl::work<WorldTextWork>(options);
}

const Kind<WorldTexts>& world_text_said() {
  static const Kind<WorldTexts> kind{
      .name = "world_text",
      .sentence =
          "Writes onto surfaces of the scene, all in one call: lit as they are, sharp from near and far, hidden by "
          "what is before them.",
      .example =
          "[[pass]]\nname   = \"signs\"\nkind   = \"world_text\"\nview   = \"towpath\"\n"
          "writes = { color = \"scene.color\", depth = \"scene.depth\" }\n\n"
          "[[pass.text]]\nsays   = \"Closed after dusk\"\nobject = \"notice board\"\norigin = [-0.4, 0.3, 0.02]\nsize  "
          " = "
          "0.08\ncolor  = [0.02, 0.02, 0.03]\n",
      .reads = {},
      .writes = {{{"color", Need::required, "Linear light, which is written over"},
                  &WorldTexts::color,
                  {.coding = ColorCoding::light}},
                 {{"depth", Need::required, "Depth of the objects; it stays as it is"}, &WorldTexts::depth}},
      .keys = world_texts_keys(),
      .finish = finish_world_text,
      .read_more =
          [](const PassSource& source, WorldTexts& options, Diagnostics& problems) {
            options.typefaces = read_typefaces(source, problems);
            for_each_text(source, problems, [&](const Value& table, const std::string& what) {
              read_text(table, what, options, problems);
            });
            if (problems.has_errors()) options.texts.clear();
          },
      .parts = {{"[[pass.text]]", world_text_keys().infos()}}};
  return kind;
}

}  // namespace

Pass world_text(const WorldTexts& options, Place place) {
  return world_text_said().make(options, std::move(place));
}

Pass world_text(const Defaults& defaults, WorldTexts options, Place place) {
  return world_text_said().make(defaults, std::move(options), std::move(place));
}

PassKind world_text_kind() {
  return world_text_said().kind();
}

}  // namespace periscena::passes
