#include "gl/device.h"
#include "shrink.h"
#include "thrown.h"

#include <periscena/base/error.h>
#include <periscena/frame/frame_file.h>
#include <periscena/gl/frame_runner.h>
#include <periscena/graph/live_options.h>
#include <periscena/scene/scene.h>

#include <fmt/format.h>

#include <algorithm>
#include <random>

using namespace periscena;

namespace {

FrameFile read(const std::filesystem::path& path) {
  FrameFile file = read_frame_file(path, {.overrides = {"frame.size=[96,54]"}});
  file.history_steps = 3;
  return file;
}

/// The frame files of the examples and of the demo: passes of all kinds that there are.
std::vector<std::filesystem::path> frame_files() {
  std::vector<std::filesystem::path> files;
  for (const char* folder : {"examples", "demo"}) {
    for (const auto& entry :
         std::filesystem::directory_iterator(std::filesystem::path(PERISCENA_SOURCE_FOLDER) / folder)) {
      if (entry.path().extension() == ".toml") files.push_back(entry.path());
    }
  }
  std::sort(files.begin(), files.end());
  // Scenes alone, and a frame with a kind of pass that its example declares.
  std::erase_if(files, [](const auto& path) {
    return path.stem() == "35_own_kind" || read_frame_file(path).graph.passes().empty();
  });
  return files;
}

/// A change of a frame or of its scene: the same for any that was read of the same file.
struct Edit {
  std::string what;
  std::function<void(FrameFile&)> make;
};

class RandomEdits {
 public:
  RandomEdits(unsigned seed, const FrameFile& file) : random_(seed), file_(file) {}

  /// @return nothing where the dice gave none that can be made
  std::optional<Edit> next() {
    if (!file_.scene || file_.scene->nodes().empty() || below(3) == 0) return option();
    switch (below(10)) {
      case 0:
      case 1: return moved();
      case 2: return shown();
      case 3: return added();
      case 4: return removed();
      case 5: return lit();
      case 6: return painted();
      case 7: return reshaped();
      case 8: return repainted();
      default: return seen();
    }
  }

 private:
  std::size_t below(std::size_t count) { return random_() % count; }
  double number(double low, double high) { return low + (high - low) * static_cast<double>(random_() % 1000) / 1000; }
  float share(double low, double high) { return static_cast<float>(number(low, high)); }

  std::optional<Edit> option() {
    const auto& passes = file_.graph.passes();
    const Pass& pass = *passes[below(passes.size())];
    if (!pass.live) return std::nullopt;
    const std::string name = pass.name;
    const KeyInfo& key = pass.live->keys()[below(pass.live->keys().size())];
    if (!key.live) {
      CHECK(thrown_slug([&] { file_.graph.options(name)->set(key.name, {1.0, {}}); }) == "not-live");
      return std::nullopt;
    }
    const std::optional<Value> value = another(key, file_.graph.options(name)->get(key.name));
    if (!value) return std::nullopt;
    // Some values are refused beside others. What is live is never refused for the plan's sake.
    const std::string refused = thrown_slug([&] { file_.graph.options(name)->copy()->set(key.name, *value); });
    INFO(pass.kind << " " << name << "." << key.name);
    CHECK(refused != "not-live");
    if (refused != "nothing") return std::nullopt;
    return Edit{name + "." + key.name,
                [name, key = key.name, value = *value](FrameFile& file) { file.graph.options(name)->set(key, value); }};
  }

  double another_number(const KeyRules& rules, double now) {
    const double low = std::isfinite(rules.minimum) ? rules.minimum : std::min(now, 0.0) * 2 - 1;
    const double high = std::isfinite(rules.maximum) ? rules.maximum : std::max({now * 2, low + 1, 1.0});
    const double wide = std::max(std::abs(now), 0.2 * std::min(1.0, high - low));
    return std::clamp(now + number(-0.5, 0.5) * wide, rules.above_minimum ? std::max(low, 0.5 * now) : low, high);
  }

  std::optional<Value> another(const KeyInfo& key, const Value& now) {
    if (!key.rules.choices.empty()) return Value{key.rules.choices[below(key.rules.choices.size())], {}};
    if (const bool* yes = std::get_if<bool>(&now.data)) return Value{!*yes, {}};
    if (const auto* whole = std::get_if<std::int64_t>(&now.data)) {
      const double next = static_cast<double>(*whole) + (below(2) == 0 ? 1 : -1);
      return Value{static_cast<std::int64_t>(
                       std::clamp(next, std::max(key.rules.minimum, -1e6), std::min(key.rules.maximum, 1e6))),
                   {}};
    }
    double number = 0;
    if (now.number(number)) return Value{another_number(key.rules, number), {}};
    const Value::Array* list = now.array();
    if (!list || list->empty() || !list->front().number(number)) return std::nullopt;
    if (key.type.find("whole") != std::string::npos) return std::nullopt;
    Value::Array numbers;
    for (const Value& one : *list) {
      if (!one.number(number)) return std::nullopt;
      numbers.push_back({another_number(key.rules, number), {}});
    }
    return Value{std::move(numbers), {}};
  }

  /// A node that is there. @param wanted  is it one to take?
  template <class Wanted>
  std::optional<NodeHandle> any_node(const Wanted& wanted) {
    const Scene& scene = *file_.scene;
    for (int i = 0; i < 50; ++i) {
      const NodeHandle node = scene.node_handle(static_cast<std::uint32_t>(below(scene.nodes().size())));
      if (node.valid() && scene.has(node) && wanted(scene.at(node))) return node;
    }
    return std::nullopt;
  }
  std::optional<NodeHandle> any_object() {
    return any_node([](const Node& node) { return node.mesh.valid(); });
  }
  Transform somewhere_near(const Node& node) {
    return node.placement.then(Transform::translate({share(-0.5, 0.5), share(0, 0.5), share(-0.5, 0.5)}));
  }

  std::optional<Edit> moved() {
    const auto node = any_node([](const Node&) { return true; });
    if (!node) return std::nullopt;
    return Edit{fmt::format("node {} moves", node->index),
                [node = *node, to = somewhere_near(file_.scene->at(*node))](FrameFile& file) {
                  file.scene->set_local_transform(node, to);
                }};
  }

  std::optional<Edit> shown() {
    const auto node = any_object();
    if (!node) return std::nullopt;
    return Edit{fmt::format("node {} is shown or hidden", node->index),
                [node = *node, visible = !file_.scene->at(*node).visible](FrameFile& file) {
                  file.scene->set_visible(node, visible);
                }};
  }

  std::optional<Edit> added() {
    const auto node = any_object();
    if (!node) return std::nullopt;
    Node copy = file_.scene->at(*node);
    copy.name = fmt::format("added {}", count_++);
    copy.placement = somewhere_near(copy);
    return Edit{copy.name, [copy](FrameFile& file) { file.scene->add_node(copy); }};
  }

  /// Others may be named by passes.
  std::optional<Edit> removed() {
    const auto node = any_node([](const Node& one) { return one.name.starts_with("added "); });
    if (!node) return std::nullopt;
    return Edit{fmt::format("node {} goes", node->index),
                [node = *node](FrameFile& file) { file.scene->remove(node); }};
  }

  std::optional<Edit> lit() {
    const auto& lights = file_.scene->lights();
    if (lights.empty()) return std::nullopt;
    Light light = lights[below(lights.size())];
    light.color = {share(0.1, 1), share(0.1, 1), share(0.1, 1)};
    return Edit{"light " + light.name,
                [light](FrameFile& file) { file.scene->change_light(file.scene->light_handle(light.name), light); }};
  }

  std::optional<Edit> painted() {
    const auto node = any_node([](const Node& one) { return one.material.valid(); });
    if (!node) return std::nullopt;
    const MaterialHandle which = file_.scene->at(*node).material;
    Material material = file_.scene->at(which);
    material.base_color = {share(0, 1), share(0, 1), share(0, 1)};
    material.roughness = share(0.1, 1);
    return Edit{"material " + material.name,
                [which, material](FrameFile& file) { file.scene->change_material(which, material); }};
  }

  std::optional<Edit> reshaped() {
    const auto node = any_object();
    if (!node) return std::nullopt;
    const MeshHandle which = file_.scene->at(*node).mesh;
    Mesh mesh = file_.scene->at(which);
    std::vector<Vec3> positions = mesh.positions.copy();
    const Vec3 stretch(share(0.8, 1.2), share(0.8, 1.2), share(0.8, 1.2));
    for (Vec3& position : positions) position = position.times(stretch);
    mesh.positions = std::move(positions);
    return Edit{fmt::format("mesh {}", which.index),
                [which, mesh](FrameFile& file) { file.scene->change_mesh(which, mesh); }};
  }

  std::optional<Edit> repainted() {
    const auto& textures = file_.scene->textures();
    if (textures.empty()) return std::nullopt;
    const Texture& texture = textures[below(textures.size())];
    if (!texture.image || texture.image->is_outline()) return std::nullopt;
    const int width = texture.image->width(), height = texture.image->height();
    const auto left = static_cast<int>(below(static_cast<std::size_t>(width))),
               top = static_cast<int>(below(static_cast<std::size_t>(height)));
    Image part(1 + static_cast<int>(below(static_cast<std::size_t>(width - left))),
               1 + static_cast<int>(below(static_cast<std::size_t>(height - top))), texture.image->format());
    const double most = part.is_eight_bit() ? 255 : 1;
    const std::array<double, 4> value{number(0, most), number(0, most), number(0, most), most};
    for (int y = 0; y < part.height(); ++y) {
      for (int x = 0; x < part.width(); ++x) part.set(x, y, value);
    }
    return Edit{"texture " + texture.name, [name = texture.name, part, left, top](FrameFile& file) {
                  file.scene->change_texture(file.scene->find_texture(name), part, left, top);
                }};
  }

  /// One whose axis is not in the middle.
  Projection shifted_lens(const Camera& camera) {
    const float top = camera.near * std::tan(camera.fov_y / 2), right = 16.0f / 9 * top;
    const float across = share(-0.5, 0.5) * right, up = share(-0.5, 0.5) * top;
    return Projection::perspective(OffCenterPerspective{across - right, across + right, up - top, up + top, camera.near,
                                                        camera.far, camera.depth});
  }

  std::optional<Edit> seen() {
    const auto& views = file_.scene->views();
    if (views.empty()) return std::nullopt;
    const View view = views[below(views.size())];
    Camera camera = view.camera;
    camera.eye = camera.eye + Vec3(share(-0.2, 0.2), share(0, 0.2), share(-0.2, 0.2));
    if (camera.parallel_height <= 0 && below(3) == 0) camera.lens = shifted_lens(camera);
    return Edit{"view " + view.name, [name = view.name, camera](FrameFile& file) {
                  file.scene->set_camera(file.scene->view_handle(name), camera);
                }};
  }

  std::mt19937 random_;
  const FrameFile& file_;
  int count_ = 0;
};

Image picture(gl::FrameRunner& runner, const FrameFile& file) {
  runner.run_settled(1.5, file.history_steps, file.history_rate);
  return runner.read("output");
}

/// One edit, and whether a frame is drawn after it.
struct Step {
  Edit edit;
  bool draws;
};

Image drawn_anew(gl::Device& device, const std::filesystem::path& path, const std::vector<Step>& steps) {
  FrameFile file = read(path);
  for (const Step& step : steps) step.edit.make(file);
  gl::FrameRunner runner(device, file.plan(device.limits()).value());
  return picture(runner, file);
}

/// Does a frame that is edited while it runs differ from that of the same edits before? Not where some edits can't be
/// made without others that were left out.
bool differs_after(gl::Device& device, const std::filesystem::path& path, const std::vector<Step>& steps) {
  try {
    FrameFile file = read(path);
    gl::FrameRunner runner(device, file.plan(device.limits()).value());
    picture(runner, file);
    for (const Step& step : steps) {
      step.edit.make(file);
      if (step.draws) runner.run(0.4);
    }
    return picture(runner, file) != drawn_anew(device, path, steps);
  } catch (const Error&) {
    return false;
  }
}

/// @return how many edits were made
int edit_while_it_runs(gl::Device& device, const std::filesystem::path& path, unsigned seed) {
  FrameFile file = read(path);
  gl::FrameRunner runner(device, file.plan(device.limits()).value());
  picture(runner, file);
  RandomEdits random(seed, file);
  std::vector<Step> made;
  for (int round = 0; round < 2; ++round) {
    for (int i = 0; i < 16; ++i) {
      std::optional<Edit> edit = random.next();
      if (!edit) continue;
      edit->make(file);
      made.push_back({std::move(*edit), i % 4 == 0});
      if (made.back().draws) runner.run(0.4);
    }
    if (picture(runner, file) == drawn_anew(device, path, made)) continue;
    const auto fails = [&](const std::vector<Step>& some) { return differs_after(device, path, some); };
    std::string list;
    for (const Step& step : fails(made) ? shrunk(made, fails) : made)
      list += "\n  " + step.edit.what + (step.draws ? ", drawn" : "");
    FAIL(path.string() << " is not that of the same edits before:" << list);
  }
  return static_cast<int>(made.size());
}

/// Every fourth frame file.
void edit_frames(gl::Device& device, std::size_t first) {
  const auto files = frame_files();
  REQUIRE(files.size() >= 35);
  int edits = 0;
  for (std::size_t i = first; i < files.size(); i += 4)
    edits += edit_while_it_runs(device, files[i], static_cast<unsigned>(i));
  CHECK(edits > 200);
}

}  // namespace

TEST_CASE_METHOD(TestDevice, "frames that are edited while they run are those of the same edits before: 1 of 4") {
  edit_frames(device, 0);
}

TEST_CASE_METHOD(TestDevice, "frames that are edited while they run are those of the same edits before: 2 of 4") {
  edit_frames(device, 1);
}

TEST_CASE_METHOD(TestDevice, "frames that are edited while they run are those of the same edits before: 3 of 4") {
  edit_frames(device, 2);
}

TEST_CASE_METHOD(TestDevice, "frames that are edited while they run are those of the same edits before: 4 of 4") {
  edit_frames(device, 3);
}
