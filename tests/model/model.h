#pragma once

#include <periscena/image/files.h>
#include <periscena/model/gltf.h>

#include <nlohmann/json.hpp>

#include <cstring>
#include <string>
#include <vector>

/// A .glb in the making, right or wrong.
struct Model {
  using Json = nlohmann::json;

  Json json{{"asset", {{"version", "2.0"}}}};
  std::string binary;

  template <class Number>
  static std::string bytes_of(const std::vector<double>& values) {
    std::string bytes;
    for (const double value : values) {
      const auto number = static_cast<Number>(value);
      bytes.append(reinterpret_cast<const char*>(&number), sizeof(number));
    }
    return bytes;
  }

  std::size_t add(const char* list, Json item) {
    json[list].push_back(std::move(item));
    return json[list].size() - 1;
  }

  std::size_t view(const std::string& bytes) {
    binary.resize((binary.size() + 3) / 4 * 4);
    const std::size_t index =
        add("bufferViews", {{"buffer", 0}, {"byteOffset", binary.size()}, {"byteLength", bytes.size()}});
    binary += bytes;
    json["buffers"] = {{{"byteLength", binary.size()}}};
    return index;
  }

  std::size_t accessor(const char* type, int component, const std::string& bytes, std::size_t numbers) {
    const std::size_t each = type[0] == 'S' ? 1 : static_cast<std::size_t>(type[3] - '0');
    return add("accessors",
               {{"bufferView", view(bytes)}, {"componentType", component}, {"count", numbers / each}, {"type", type}});
  }

  std::size_t floats(const char* type, const std::vector<double>& values) {
    return accessor(type, 5126, bytes_of<float>(values), values.size());
  }

  std::size_t whole(const char* type, int component, const std::vector<double>& values) {
    const std::string bytes = component == 5121   ? bytes_of<std::uint8_t>(values)
                              : component == 5122 ? bytes_of<std::int16_t>(values)
                              : component == 5123 ? bytes_of<std::uint16_t>(values)
                                                  : bytes_of<std::uint32_t>(values);
    return accessor(type, component, bytes, values.size());
  }

  /// A node that shows a mesh of one primitive.
  void show(const Json& primitive) {
    const std::size_t mesh = add("meshes", {{"primitives", Json::array({primitive})}});
    add("nodes", {{"mesh", mesh}});
  }

  void add_texture(int size) {
    const std::string png = periscena::encode_png(periscena::Image(size, size, periscena::Format::rgba8));
    add("textures", {{"source", add("images", {{"bufferView", view(png)}, {"mimeType", "image/png"}})}});
  }

  std::string glb() const {
    std::string text = json.dump();
    text.resize((text.size() + 3) / 4 * 4, ' ');
    std::string padded = binary;
    padded.resize((padded.size() + 3) / 4 * 4);
    std::string file;
    const auto word = [&](std::size_t value) {
      const auto number = static_cast<std::uint32_t>(value);
      file.append(reinterpret_cast<const char*>(&number), sizeof(number));
    };
    word(0x46546C67);
    word(2);
    word(12 + 8 + text.size() + 8 + padded.size());
    word(text.size());
    word(0x4E4F534A);
    file += text;
    word(padded.size());
    word(0x004E4942);
    return file + padded;
  }

  periscena::Import read() const { return periscena::read_gltf(glb(), "model.glb", {}); }
};
