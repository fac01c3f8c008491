#pragma once

#include <periscena/base/value.h>
#include <periscena/scene/scene.h>

#include <nlohmann/json.hpp>

namespace periscena::gltf {

/// Members stay in the order in which they are put.
using OrderedJson = nlohmann::ordered_json;

template <int rows, int columns>
OrderedJson list(const Matrix<float, rows, columns>& matrix) {
  OrderedJson numbers = OrderedJson::array();
  for (const float number : matrix) numbers.push_back(number);
  return numbers;
}

inline OrderedJson list(const Quat& q) {
  return {q.x(), q.y(), q.z(), q.w()};
}

/// A member that is left out when it is as it would be without.
template <class Value>
void put(OrderedJson& into, const char* key, const Value& value, const Value& otherwise) {
  if (value == otherwise) return;
  if constexpr (std::is_arithmetic_v<Value> || std::is_same_v<Value, std::string>) {
    into[key] = value;
  } else {
    into[key] = list(value);
  }
}

// Single things as glTF has them; what it has no place for, as members of `extras.periscena`.
OrderedJson sampler_json(const Sampling& sampling);
OrderedJson light_json(const Light& light);  ///< of KHR_lights_punctual

/// A node for the light alone, turned and placed so that other readers see it right.
OrderedJson light_node_json(const Light& light);
OrderedJson camera_json(const View& view);
OrderedJson own_view_json(const Camera& camera);

/// Factors of emission are 0..1: what is brighter is divided by this. A power of two, so that nothing is lost.
float emission_strength(const Material& material);

/// Of a material, what glTF has no place for.
OrderedJson own_material_json(const Material& material);

/// What a table of keys has written.
OrderedJson table_json(const Value& value);
OrderedJson named(const std::string& name, const Value& table);

/// The bytes of a .glb file. @param binary  empty: none
std::string glb_file(std::string text, std::string binary);

}  // namespace periscena::gltf
