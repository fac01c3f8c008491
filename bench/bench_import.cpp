// Imports a .glb of about 100 MB, and beside it does the least that anyone must: reads the file, copies its buffers,
// and decodes its images. Each in a process of its own, in turn; prints ratios of time, and peaks of memory.
//
//   build/release/bench/bench_import [rounds] [megabytes]

#include <periscena/base/file.h>
#include <periscena/image/files.h>
#include <periscena/model/gltf.h>

#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include <algorithm>
#include <chrono>
#include <cmath>
#include <cstdio>
#include <cstring>
#include <fstream>
#include <iostream>

using namespace periscena;
namespace fs = std::filesystem;

namespace {

/// A rolling field of so many vertices a side.
Mesh field(int side, float phase) {
  std::vector<Vec3> positions, normals;
  std::vector<Vec2> uv;
  std::vector<std::uint32_t> indices;
  for (int z = 0; z < side; ++z) {
    for (int x = 0; x < side; ++x) {
      const auto u = static_cast<float>(x), v = static_cast<float>(z);
      positions.emplace_back(u, std::sin(0.1f * u + phase) * std::cos(0.07f * v), v);
      normals.emplace_back(Vec3(-0.1f * std::cos(0.1f * u + phase), 1, 0).normalized());
      uv.emplace_back(u, v);
    }
  }
  for (int z = 0; z + 1 < side; ++z) {
    for (int x = 0; x + 1 < side; ++x) {
      const auto a = static_cast<std::uint32_t>(z * side + x), b = a + static_cast<std::uint32_t>(side);
      indices.insert(indices.end(), {a, b, a + 1, a + 1, b, b + 1});
    }
  }
  Mesh mesh;
  mesh.positions = std::move(positions);
  mesh.normals = std::move(normals);
  mesh.uv = std::move(uv);
  mesh.indices = std::move(indices);
  return mesh;
}

void make_file(const fs::path& path, int megabytes, bool with_images) {
  constexpr int side = 257;
  constexpr double mesh_megabytes = (side * side * 32 + 256 * 256 * 6 * 4) / 1e6;
  Scene scene;
  Material material{.name = "ground"};
  if (with_images) {
    Image image(1024, 1024, Format::rgba8_srgb);
    for (int y = 0; y < 1024; ++y) {
      for (int x = 0; x < 1024; ++x)
        image.set(x, y,
                  {127 + 120 * std::sin(0.02 * x), 127 + 120 * std::sin(0.03 * y), (x * y >> 4) % 256 * 1.0, 255});
    }
    const auto shared = std::make_shared<const Image>(image);
    material.base_color_map.texture = scene.add_texture({.name = "colour", .image = shared});
    material.roughness_scale_map.texture =
        scene.add_texture({.name = "scratches", .image = shared, .holds = TextureHolds::data});
  }
  const MaterialHandle ground = scene.add_material(material);
  for (int i = 0; i < std::lround(megabytes / mesh_megabytes); ++i) {
    Node node;
    node.name = fmt::format("field {}", i);
    node.mesh = scene.add_mesh(node.name, field(side, static_cast<float>(i)));
    node.material = ground;
    scene.add_node(node);
  }
  write_glb(scene, path);
}

/// The same fields as another exporter might write them: corners interleaved, indices of 16 bits, so that nothing lies
/// as we want it.
void make_interleaved_file(const fs::path& path, int megabytes) {
  constexpr int side = 256;
  nlohmann::json json{{"asset", {{"version", "2.0"}}}, {"scene", 0}};
  std::string binary;
  const auto view = [&](std::size_t bytes, std::size_t stride) {
    json["bufferViews"].push_back({{"buffer", 0}, {"byteOffset", binary.size() - bytes}, {"byteLength", bytes}});
    if (stride) json["bufferViews"].back()["byteStride"] = stride;
    return json["bufferViews"].size() - 1;
  };
  const auto accessor = [&](std::size_t in_view, std::size_t offset, int component, std::size_t count,
                            const char* type) {
    json["accessors"].push_back({{"bufferView", in_view},
                                 {"byteOffset", offset},
                                 {"componentType", component},
                                 {"count", count},
                                 {"type", type}});
    return json["accessors"].size() - 1;
  };
  for (int i = 0; binary.size() < static_cast<std::size_t>(megabytes) * 1000000; ++i) {
    const Mesh mesh = field(side, static_cast<float>(i));
    const std::size_t corners = mesh.positions.size(), before = binary.size();
    for (std::size_t k = 0; k < corners; ++k) {
      binary.append(reinterpret_cast<const char*>(&mesh.positions[k]), sizeof(Vec3));
      binary.append(reinterpret_cast<const char*>(&mesh.normals[k]), sizeof(Vec3));
      binary.append(reinterpret_cast<const char*>(&mesh.uv[k]), sizeof(Vec2));
    }
    const std::size_t vertices = view(binary.size() - before, 32);
    for (const std::uint32_t index : mesh.indices.values()) {
      const auto half = static_cast<std::uint16_t>(index);
      binary.append(reinterpret_cast<const char*>(&half), sizeof(half));
    }
    const std::size_t indices = view(mesh.indices.size() * 2, 0);
    constexpr int float_number = 5126, unsigned_short = 5123;
    const nlohmann::json attributes{{"POSITION", accessor(vertices, 0, float_number, corners, "VEC3")},
                                    {"NORMAL", accessor(vertices, 12, float_number, corners, "VEC3")},
                                    {"TEXCOORD_0", accessor(vertices, 24, float_number, corners, "VEC2")}};
    const std::size_t index_accessor = accessor(indices, 0, unsigned_short, mesh.indices.size(), "SCALAR");
    json["meshes"].push_back({{"primitives", {{{"attributes", attributes}, {"indices", index_accessor}}}}});
    json["nodes"].push_back({{"mesh", i}});
  }
  json["scenes"] = {{{"nodes", nlohmann::json::array()}}};
  for (std::size_t i = 0; i < json["nodes"].size(); ++i) json["scenes"][0]["nodes"].push_back(i);
  json["buffers"] = {{{"byteLength", binary.size()}}};
  std::string text = json.dump();
  text.resize((text.size() + 3) / 4 * 4, ' ');
  const auto size = [](std::size_t value) { return static_cast<std::uint32_t>(value); };
  const std::uint32_t head[] = {0x46546C67, 2, size(28 + text.size() + binary.size()), size(text.size()), 0x4E4F534A},
                      chunk[] = {size(binary.size()), 0x004E4942};
  std::ofstream file(path, std::ios::binary);
  file.write(reinterpret_cast<const char*>(head), sizeof head)
      .write(text.data(), static_cast<std::streamsize>(text.size()));
  file.write(reinterpret_cast<const char*>(chunk), sizeof chunk)
      .write(binary.data(), static_cast<std::streamsize>(binary.size()));
}

double peak_megabytes() {
  std::ifstream status("/proc/self/status");
  std::string line;
  while (std::getline(status, line)) {
    if (line.starts_with("VmHWM:")) return std::stod(line.substr(6)) / 1024;
  }
  return 0;
}

/// Reads, copies each buffer view that holds no image, decodes those that do.
void least_work(const fs::path& path) {
  const std::size_t size = fs::file_size(path);
  const auto memory = std::make_unique_for_overwrite<char[]>(size);
  FILE* opened = std::fopen(path.c_str(), "rb");
  if (!opened || std::fread(memory.get(), 1, size, opened) != size) throw std::runtime_error("can't read the file");
  std::fclose(opened);
  const std::string_view file(memory.get(), size);
  std::uint32_t json_length = 0;
  std::memcpy(&json_length, file.data() + 12, 4);
  const auto json = nlohmann::json::parse(file.data() + 20, file.data() + 20 + json_length);
  const char* binary = file.data() + 20 + json_length + 8;
  std::vector<bool> is_image(json["bufferViews"].size());
  std::vector<Image> images;
  if (json.contains("images")) {
    for (const auto& image : json["images"]) is_image[image["bufferView"].get<std::size_t>()] = true;
  }
  std::vector<std::unique_ptr<char[]>> copies;
  for (std::size_t i = 0; i < is_image.size(); ++i) {
    const auto& view = json["bufferViews"][i];
    const std::string_view bytes(binary + view.value("byteOffset", 0u), view["byteLength"].get<std::size_t>());
    if (is_image[i]) {
      images.push_back(decode_image(bytes, "image"));
    } else {
      copies.push_back(std::make_unique_for_overwrite<char[]>(bytes.size()));
      std::memcpy(copies.back().get(), bytes.data(), bytes.size());
    }
  }
}

int run_one(const std::string& what, const fs::path& path) {
  const double before = peak_megabytes();
  const auto start = std::chrono::steady_clock::now();
  if (what == "import") {
    const Import import = read_gltf(path);
  } else {
    least_work(path);
  }
  const double seconds = std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
  fmt::print("{} {}\n", seconds, peak_megabytes() - before);
  return 0;
}

struct Measured {
  double seconds = 0, megabytes = 0;
};

Measured measure(const std::string& what, const fs::path& path) {
  const std::string command = fmt::format("{} {} {}", fs::canonical("/proc/self/exe").string(), what, path.string());
  FILE* pipe = ::popen(command.c_str(), "r");
  Measured measured;
  if (!pipe || std::fscanf(pipe, "%lf %lf", &measured.seconds, &measured.megabytes) != 2 || ::pclose(pipe) != 0)
    throw std::runtime_error("failed: " + command);
  return measured;
}

double median(std::vector<double> values) {
  std::sort(values.begin(), values.end());
  return values[values.size() / 2];
}

}  // namespace

int main(int argc, char** argv) try {
  if (argc == 3 && (std::string(argv[1]) == "import" || std::string(argv[1]) == "least"))
    return run_one(argv[1], argv[2]);
  const int rounds = argc > 1 ? std::max(1, std::atoi(argv[1])) : 9;
  const int megabytes = argc > 2 ? std::max(1, std::atoi(argv[2])) : 100;
  fmt::print("{:<34} {:>10} {:>10} {:>8}   {}\n", "", "import", "least", "ratio", "aim");
  for (const char* kind : {"meshes as we write them", "meshes and images", "interleaved, 16-bit"}) {
    const fs::path path = fs::temp_directory_path() / "periscena-bench-import.glb";
    if (kind == std::string_view("interleaved, 16-bit")) {
      make_interleaved_file(path, megabytes);
    } else {
      make_file(path, megabytes, kind == std::string_view("meshes and images"));
    }
    const double size = static_cast<double>(fs::file_size(path)) / 1048576;
    std::vector<double> import_seconds, least_seconds, ratios;
    Measured import, least;
    for (int i = 0; i < rounds; ++i) {
      import = measure("import", path);
      least = measure("least", path);
      import_seconds.push_back(import.seconds);
      least_seconds.push_back(least.seconds);
      ratios.push_back(import.seconds / least.seconds);
    }
    fs::remove(path);
    fmt::print("{:<34} {:>10.1f} {:>10.1f} {:>8.2f}   2\n", fmt::format("{}, ms", kind), 1e3 * median(import_seconds),
               1e3 * median(least_seconds), median(ratios));
    fmt::print("{:<34} {:>10.1f} {:>10.1f} {:>8.2f}   2 (of a file of {:.1f} MiB)\n", fmt::format("{}, peak MiB", kind),
               import.megabytes, least.megabytes, import.megabytes / size, size);
  }
} catch (const std::exception& error) {
  std::cerr << error.what() << '\n';
  return 1;
}
