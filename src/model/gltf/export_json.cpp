#include "model/gltf/export_json.h"

#include "scene/scene_keys.h"

#include <periscena/base/cases.h>

#include <algorithm>
#include <cmath>

namespace periscena::gltf {

OrderedJson sampler_json(const Sampling& sampling) {
  const auto wrap = [](Wrap way) { return way == Wrap::clamp ? 33071 : way == Wrap::mirror ? 33648 : 10497; };
  const bool nearest = sampling.filter == Filter::nearest || sampling.filter == Filter::nearest_levels;
  const int smaller = sampling.filter == Filter::nearest          ? 9728
                      : sampling.filter == Filter::linear         ? 9729
                      : sampling.filter == Filter::nearest_levels ? 9984
                                                                  : 9987;
  OrderedJson json{{"magFilter", nearest ? 9728 : 9729},
                   {"minFilter", smaller},
                   {"wrapS", wrap(sampling.wrap_u)},
                   {"wrapT", wrap(sampling.wrap_v)}};
  json["extras"]["periscena"]["anisotropy"] = sampling.anisotropy;
  return json;
}

OrderedJson light_json(const Light& light) {
  const char* type =
      std::visit(Cases{[](const DirectionalLight&) { return "directional"; }, [](const PointLight&) { return "point"; },
                       [](const SpotLight&) { return "spot"; }},
                 light.kind);
  OrderedJson json{{"name", light.name}, {"type", type}, {"color", list(light.color)}, {"intensity", light.strength()}};
  if (std::isfinite(light.range())) json["range"] = light.range();
  if (const SpotLight* spot = light.spot())
    json["spot"] = {{"innerConeAngle", spot->inner_cone}, {"outerConeAngle", spot->outer_cone}};
  constexpr std::string_view own[] = {"kind", "position", "direction", "tags"};
  json["extras"]["periscena"] = table_json(light_keys().write(LightKeys::of(light), own));
  return json;
}

OrderedJson light_node_json(const Light& light) {
  OrderedJson node{{"name", light.name}};
  const auto turn = [&](const Vec3& direction) {
    node["rotation"] = list(Quat::between(Vec3(0, 0, -1), direction.normalized()));
  };
  std::visit(Cases{[&](const DirectionalLight& one) { turn(one.direction); },
                   [&](const PointLight& one) { node["translation"] = list(one.position); },
                   [&](const SpotLight& one) {
                     turn(one.direction);
                     node["translation"] = list(one.position);
                   }},
             light.kind);
  return node;
}

OrderedJson camera_json(const View& view) {
  const Camera camera = view.camera.lens ? view.camera.for_shape(1) : view.camera;
  OrderedJson lens = OrderedJson::object();
  if (camera.parallel_height > 0) {
    lens = {{"type", "orthographic"},
            {"orthographic",
             {{"xmag", camera.parallel_height / 2},
              {"ymag", camera.parallel_height / 2},
              {"znear", std::max(0.0f, camera.near)},
              {"zfar", camera.far}}}};
  } else {
    lens = {{"type", "perspective"}, {"perspective", {{"yfov", camera.fov_y}, {"znear", camera.near}}}};
    if (std::isfinite(camera.far)) lens["perspective"]["zfar"] = camera.far;
  }
  lens["name"] = view.name;
  return lens;
}

OrderedJson own_view_json(const Camera& camera) {
  OrderedJson own{{"eye", list(camera.eye)},
                  {"target", list(camera.target)},
                  {"up", list(camera.up)},
                  {"fov_y", camera.fov_y},
                  {"near", camera.near},
                  {"parallel_height", camera.parallel_height},
                  {"ordinary_depth", camera.depth == DepthOrder::ordinary}};
  if (std::isfinite(camera.far)) own["far"] = camera.far;
  if (camera.keep != Keep::height) {
    own["keep"] = camera.keep == Keep::width ? "width" : "both";
    own["keep_aspect"] = camera.keep_aspect;
  }
  if (camera.lens) {
    OrderedJson matrix = OrderedJson::array();
    for (int column = 0; column < 4; ++column) {
      for (int row = 0; row < 4; ++row) matrix.push_back(camera.lens->matrix()(row, column));
    }
    own["lens"] = std::move(matrix);
  }
  return own;
}

OrderedJson table_json(const Value& value) {
  return std::visit(Cases{[](std::monostate) { return OrderedJson(); },
                          [](const Value::Array& list) {
                            OrderedJson json = OrderedJson::array();
                            for (const Value& item : list) json.push_back(table_json(item));
                            return json;
                          },
                          [](const Value::Table& table) {
                            OrderedJson json = OrderedJson::object();
                            for (const ValueMember& member : table) json[member.name] = table_json(member.value);
                            return json;
                          },
                          [](const auto& one) { return OrderedJson(one); }},
                    value.data);
}

float emission_strength(const Material& material) {
  const float most = material.emission.largest();
  return most <= 1 ? 1 : std::exp2(std::min(std::ceil(std::log2(most)), 127.0f));
}

OrderedJson own_material_json(const Material& material) {
  std::vector<std::string_view> keys{"specular", "shininess", "shows", "shows_mirrored", "surface"};
  if (material.shading != Material::Shading::unlit) keys.push_back("shading");
  if (material.alpha_mode != Material::AlphaMode::mask) keys.push_back("alpha_cutoff");
  if (!material.normal_map.valid()) keys.push_back("normal_scale");
  if (!material.occlusion_map.valid()) keys.push_back("occlusion_strength");
  // Of a color with a part so small that it is lost beside the others.
  const float strength = emission_strength(material);
  if (material.emission / strength * strength != material.emission) keys.push_back("emission");
  return table_json(material_keys().write(MaterialKeys::of(material), keys));
}

OrderedJson named(const std::string& name, const Value& table) {
  OrderedJson json{{"name", name}};
  json.update(table_json(table));
  return json;
}

std::string glb_file(std::string text, std::string binary) {
  text.resize((text.size() + 3) / 4 * 4, ' ');
  binary.resize((binary.size() + 3) / 4 * 4);
  std::string file;
  const auto word = [&](std::size_t value) {
    const auto number = static_cast<std::uint32_t>(value);
    file.append(reinterpret_cast<const char*>(&number), sizeof(number));
  };
  const std::size_t size = 12 + 8 + text.size() + (binary.empty() ? 0 : 8 + binary.size());
  file.reserve(size);
  word(0x46546C67);
  word(2);
  word(size);
  word(text.size());
  word(0x4E4F534A);
  file += text;
  if (!binary.empty()) {
    word(binary.size());
    word(0x004E4942);
    file += binary;
  }
  return file;
}

}  // namespace periscena::gltf
