#include <periscena/frame/frame_file.h>

#include "frame/choices.h"
#include "frame/curves.h"
#include "frame/frame_keys.h"
#include "frame/other_scenes.h"
#include "frame/overrides.h"
#include "frame/pass_uses.h"
#include "frame/sections.h"
#include "frame/toml_value.h"
#include "passes/pass_checks.h"

#include <periscena/base/error.h>
#include <periscena/base/file.h>
#include <periscena/base/names.h>
#include <periscena/frame/model_frame.h>
#include <periscena/gl/pass_work.h>
#include <periscena/math/curve_keys.h>
#include <periscena/model/model.h>

#include <fmt/format.h>

#include <algorithm>
#include <utility>

namespace periscena {
namespace {

/// So that the hints of one file stay cheap beside reading it, however many unknown names it has.
constexpr std::int64_t hint_steps = 5'000'000;

/// Reads one frame file; the steps share what they found.
class FrameFileReader {
 public:
  FrameFileReader(const std::filesystem::path& path, const FrameFileOptions& options)

      : options_(options),
        kinds_(options.kinds ? *options.kinds : passes::pass_kinds()),
        pictures_(options.contents == Contents::whole ? Pixels::decoded : Pixels::left_out) {
    file_.path = path;
    folder_ = path.has_parent_path() ? path.parent_path() : std::filesystem::path(".");
  }

  FrameFile read() {
    const auto source = is_model(file_.path) ? text_around_model() : read_text(file_.path);
    if (!source) return std::move(file_);
    std::optional<Value> root = parse_toml(source, file_.diagnostics);
    if (!root) return std::move(file_);
    if (root->table()->empty()) {
      file_.diagnostics.error("empty-frame", {source, nullptr, 0, 0, 1}, "the file is empty",
                              "start with [frame] and a [[pass]]; examples/01_first_picture.toml is a short one");
      return std::move(file_);
    }
    apply_overrides(*root, OverridesOf::frame);
    read_frame(*root);
    if (!scene_file_.empty()) add_scene_file(*root);
    apply_overrides(*root, OverridesOf::models);
    models_ = read_models(
        *root, folder_, [this](const std::filesystem::path& path) { return import_model(path); }, *scene_,
        file_.diagnostics);
    name_materials(*root);
    apply_overrides(*root, OverridesOf::others);
    std::vector<std::string> sections = scene_section_names();
    sections.insert(sections.begin(), {"frame", "choice", "target", "pass"});
    report_unknown_keys(*root, "a frame file", sections, file_.diagnostics);
    leave_out_unchosen(*root, file_.diagnostics);
    std::vector<TimedSection> timed = take_curves(
        *root, [this](const Value& pass, std::string_view key) { return has_curves_as_values(pass, key); },
        file_.diagnostics);
    read_scene(*root);
    read_targets(*root, file_.graph, file_.diagnostics);
    std::size_t passes = 0;
    for (const Value* pass : listed_tables(*root, "pass", file_.diagnostics)) {
      constexpr std::size_t most_passes = 10'000;
      if (++passes > most_passes) {
        file_.diagnostics.error("too-many-passes", pass->place,
                                fmt::format("the frame has over {} passes", most_passes), "make it of fewer");
        break;
      }
      read_pass(*pass);
    }
    file_.large_textures = pictures_.large_textures();
    if (scene_is_whole_) {
      follow_curves(std::move(timed), file_.scene, folder_, aspect(), file_.graph, file_.diagnostics);
      other_scenes_.follow_time(file_.graph, aspect(), file_.diagnostics);
    }
    return std::move(file_);
  }

 private:
  bool has_curves_as_values(const Value& pass, std::string_view key) const {
    const Value* name = pass.find("kind");
    const passes::PassKind* kind = name && name->text() ? kinds_.find(*name->text()) : nullptr;
    if (!kind) return false;
    return std::any_of(kind->keys.begin(), kind->keys.end(),
                       [&](const KeyInfo& info) { return info.name == key && info.type == KeyType<Curve>::name(); });
  }

  float aspect() const { return static_cast<float>(file_.width) / static_cast<float>(file_.height); }

  void read_frame(const Value& root) {
    FrameKeys given;
    if (const Value* table = root.find("frame")) {
      if (table->table()) {
        frame_keys().read(*table, "[frame]", given, file_.diagnostics);
        report_unknown_keys(*table, "[frame]", frame_keys().names(), file_.diagnostics);
      } else {
        file_.diagnostics.error("wrong-type", table->place, fmt::format("\"frame\" is {}", table->describe()),
                                "write [frame], then its keys");
      }
    }
    const auto size = options_.size.value_or(given.size);
    file_.width = size[0];
    file_.height = size[1];
    scene_file_ = given.scene;
    defaults_ = {nullptr, given.view, given.lights, given.environment, given.fog};
    file_.history_steps = given.history_steps;
    file_.history_rate = given.history_rate;
    file_.graph.set_fusing(given.fuse);
    file_.graph.set_background({given.background[0], given.background[1], given.background[2], 1});
  }

  /// The frame that a model is shown in when it stands where a frame file is wanted; null when it is broken.
  /// @throws Error "unreadable-file"
  std::shared_ptr<const SourceText> text_around_model() {
    try {
      model_ = read_model(file_.path, &pictures_);
    } catch (const Error& error) {
      const Diagnostics& wrong = error.diagnostics();
      if (wrong[0].slug == "unreadable-file") throw;
      file_.diagnostics.append(wrong);
      return nullptr;
    }
    file_.diagnostics.append(
        check_size(model_->scene, file_.path.filename().string(), Place::file(file_.path.string())));
    const std::string command = fmt::format("periscena render {0} -o {0}.png", file_.path.filename().string());
    return std::make_shared<const SourceText>(SourceText{file_.path.string() + " (built-in frame)",
                                                         frame_around(model_->scene, file_.path.filename(), command)});
  }

  Import import_model(const std::filesystem::path& path) {
    if (model_ && path.lexically_normal() == (folder_ / file_.path.filename()).lexically_normal())
      return std::move(*std::exchange(model_, std::nullopt));
    return read_model(path, &pictures_);
  }

  /// Settings of [frame] come first: they may choose the scene file, and others may set what is in it, and in models.
  enum class OverridesOf { frame, models, others };

  void apply_overrides(Value& root, OverridesOf which) {
    for (const std::string& text : options_.overrides) {
      const OverridesOf of = text.starts_with("frame.")   ? OverridesOf::frame
                             : text.starts_with("model.") ? OverridesOf::models
                                                          : OverridesOf::others;
      if (of == which) apply_override(text, root, file_.diagnostics);
    }
  }

  /// Puts the scene file's sections before the frame file's own, each with its own places. What a model holds is there
  /// before any section is read.
  void add_scene_file(Value& root) {
    if (is_model(scene_file_.name)) {
      collect_mistakes(scene_file_.place, file_.diagnostics, [&] {
        Import import = read_model(folder_ / scene_file_.name, &pictures_);
        *scene_ = std::move(import.scene);
        file_.diagnostics.append(import.notes, [&](Diagnostic& note) { note.place = scene_file_.place; });
      });
      scene_is_whole_ = !file_.diagnostics.has_errors();
      return;
    }
    std::optional<Value> scene;
    collect_mistakes(scene_file_.place, file_.diagnostics,
                     [&] { scene = parse_toml(read_scene_text(folder_ / scene_file_.name), file_.diagnostics); });
    scene_is_whole_ = scene.has_value();
    if (!scene) return;
    report_unknown_keys(*scene, "a scene file", scene_section_names(), file_.diagnostics);
    for (ValueMember& section : *scene->table()) {
      const auto& names = scene_section_names();
      if (std::find(names.begin(), names.end(), section.name) != names.end()) put_before(section, root);
    }
  }

  /// Materials of models as sections without keys, so that --set finds them.
  void name_materials(Value& root) {
    if (scene_->materials().empty()) return;
    ValueMember section{"material", scene_file_.place, {}};
    Value::Table names;
    for (const Material& material : scene_->materials()) {
      const Value* own = root.find("material");
      if (own && own->find(material.name)) continue;
      names.push_back({material.name, scene_file_.place, Value{Value::Table{}, scene_file_.place}});
    }
    section.value = {std::move(names), scene_file_.place};
    put_before(section, root);
  }

  static void put_before(ValueMember& section, Value& root) {
    Value::Table& members = *root.table();
    const auto own = std::find_if(members.begin(), members.end(),
                                  [&](const ValueMember& member) { return member.name == section.name; });
    if (own == members.end()) {
      members.push_back(std::move(section));
      return;
    }
    auto* own_items = std::get_if<Value::Array>(&own->value.data);
    const auto* items = section.value.array();
    if (own_items && items) own_items->insert(own_items->begin(), items->begin(), items->end());
    if (own->value.table() && section.value.table()) {
      own->value.table()->insert(own->value.table()->begin(), section.value.table()->begin(),
                                 section.value.table()->end());
    }
  }

  void read_scene(const Value& root) {
    const std::shared_ptr<Scene> scene = scene_;
    // What a scene file that can't be read would have declared is missing everywhere: that is told once.
    Diagnostics ignored;
    const SceneSource source{folder_, pictures_, aspect()};
    read_scene_sections(root, source, models_, *scene, scene_is_whole_ ? file_.diagnostics : ignored);
    // Told once, not for every pass that has it from here: a stand-in takes its place.
    const Reference& view = defaults_.view;
    if (!view.empty() && !scene->find_view(view.name)) {
      if (scene_is_whole_) passes::expect_view(scene.get(), view, "the frame", file_.diagnostics);
      scene->add_view({view.name, {}});
    }
    Diagnostics unknown;
    passes::expect_lighting(scene.get(), {defaults_.lights, defaults_.environment, defaults_.fog}, "the frame",
                            scene_is_whole_ ? unknown : ignored);
    if (unknown.has_errors()) {
      file_.diagnostics.append(unknown);
      defaults_ = {nullptr, view};
    }
    file_.scene = scene;
  }

  void read_pass(const Value& table) {
    CommonPassKeys given;
    Diagnostics problems;
    const Value* name = table.find("name");
    const std::string what = name && name->text() ? fmt::format("pass \"{}\"", *name->text()) : "a pass";
    common_pass_keys().read(table, what, given, problems);
    if (given.name.empty()) given.name = Reference("", table.place);
    std::vector<Read> reads = read_reads(given.reads, what, problems);
    std::vector<Write> writes = read_writes(given.writes, what, problems);
    const passes::PassKind* kind = kinds_.find(given.kind.name);
    if (!kind) {
      if (!given.kind.empty()) {
        problems.error("unknown-kind", given.kind.place,
                       fmt::format("{} is of kind \"{}\", which is not there", what, given.kind.name),
                       name_hint(given.kind.name, kinds_.names()));
      }
      add_broken(given, std::move(reads), std::move(writes), std::move(problems));
      return;
    }
    std::vector<std::string> known_keys;
    for (const KeyInfo& key : kind->keys) known_keys.push_back(key.name);
    for (const std::string& common : common_pass_keys().names()) known_keys.push_back(common);
    report_unknown_keys(table, what, known_keys, problems);
    // A misspelt "writes" is told once, not again as a missing one.
    const bool misspelt = problems.has_errors() && given.writes.empty();
    check_slots(what, "reads", kind->reads, kind->own_reads(), given.reads, table.place, problems);
    if (!misspelt) check_slots(what, "writes", kind->writes, kind->own_writes(), given.writes, table.place, problems);
    if (!given.scene.empty() && !kind->draws_scene) {
      problems.error("unknown-key", given.scene.place,
                     fmt::format("{} is of kind {}, which draws no scene", what, kind->name), "remove scene");
      given.scene = {};
    }
    const std::shared_ptr<const Scene> scene =
        !given.scene.empty()
            ? other_scenes_.read(given.scene, {folder_, pictures_, aspect()}, file_.scene, file_.diagnostics)
        : scene_is_whole_ ? file_.scene
                          : nullptr;
    passes::Defaults defaults = defaults_;
    defaults.scene = scene;
    if (!given.scene.empty()) defaults.lights = {};
    Pass pass =
        kind->make({given.name, &table, std::move(reads), std::move(writes), std::move(defaults), folder_, &pictures_});
    pass.inside = given.inside;
    pass.every = std::max(1, given.every);
    if (!scene) {
      // It can't be judged without the scene, whose own mistake was told.
      pass.problems = {};
      pass.work = gl::work([](gl::PassSetup&) { return nullptr; });
    }
    pass.problems.append(problems);
    pass.place = given.name.place;
    file_.graph.add(std::move(pass));
  }

  /// A pass that can't be made still writes its targets, so that others are not told off for reading them.
  void add_broken(const CommonPassKeys& given, std::vector<Read> reads, std::vector<Write> writes,
                  Diagnostics problems) {
    Pass pass;
    pass.name = given.name.name;
    pass.reads = std::move(reads);
    pass.writes = std::move(writes);
    pass.place = given.name.place;
    pass.problems = std::move(problems);
    file_.graph.add(std::move(pass));
  }

  FrameFileOptions options_;
  const passes::PassKinds& kinds_;
  PictureReader pictures_;
  std::filesystem::path folder_;
  FrameFile file_;
  Reference scene_file_;
  passes::Defaults defaults_;  ///< but for the scene
  std::shared_ptr<Scene> scene_ = std::make_shared<Scene>();
  bool scene_is_whole_ = true;
  Models models_;
  std::optional<Import> model_;  ///< around which the frame is, until a section asks for it
  OtherScenes other_scenes_;
};

}  // namespace

FrameFile read_frame_file(const std::filesystem::path& path, const FrameFileOptions& options) {
  const HintLimit limit(hint_steps);
  return FrameFileReader(path, options).read();
}

PlanResult FrameFile::plan(const DeviceLimits& limits) const {
  const HintLimit limit(hint_steps);
  const bool parsed = std::none_of(diagnostics.begin(), diagnostics.end(), [](const Diagnostic& found) {
    return found.slug == "toml-syntax" || found.slug == "empty-frame";
  });
  // A model that can't be read has no frame around it.
  if (!parsed || (is_model(path) && !scene)) return {std::nullopt, diagnostics};
  PlanResult planned = graph.plan(width, height, limits);
  Diagnostics all = diagnostics;
  all.append(planned.diagnostics(), [&](Diagnostic& found) {
    if (!found.place.known()) found.place = Place::file(path.string());
  });
  for (const PictureReader::LargeTexture& texture : large_textures) {
    if (std::max(texture.width, texture.height) <= limits.largest_size) continue;
    const std::string cause =
        fmt::format("the picture \"{}\" is {} x {} pixels, over the {} of {}", texture.name, texture.width,
                    texture.height, limits.largest_size, limits.asked ? "this device" : "what OpenGL 4.5 guarantees");
    const Place place = Place::file(this->path.string());
    if (limits.asked) {
      all.error("over-device-limit", place, cause, "make it smaller");
    } else {
      all.warning("over-guaranteed-limit", place, cause, "make it smaller; periscena device says what this one can do");
    }
  }
  all.sort_by_place();
  if (all.has_errors() || !planned.ok()) return {std::nullopt, std::move(all)};
  return {std::move(planned).value(), std::move(all)};
}

std::vector<SectionInfo> frame_sections() {
  return {
      {"[frame]", "The picture as a whole.", frame_keys().infos(),
       "[frame]\nsize  = [1280, 720]\nscene = \"osier_lock.toml\"\nview  = \"towpath\"\n"},
      choice_section(),
      target_section(),
      {"[[pass]]", "A step of the frame. These keys are common to all kinds.", common_pass_keys().infos(), ""},
  };
}

}  // namespace periscena
