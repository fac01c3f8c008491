// Imports a .glb of about 100 MB, and beside it does the least that anyone must: reads the file, copies its buffers,
// and decodes its images. Each in a process of its own, in turn; prints ratios of time, and peaks of memory.
//
//   build/release/bench/bench_import [rounds] [megabytes]

#include <periscena/base/file.h>
#include <periscena/image/files.h>
#include <periscena/scene/gltf.h>

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
  const std::string file = read_bytes(path);
  std::uint32_t json_length = 0;
  std::memcpy(&json_length, file.data() + 12, 4);
  const auto json = nlohmann::json::parse(file.data() + 20, file.data() + 20 + json_length);
  const char* binary = file.data() + 20 + json_length + 8;
  std::vector<bool> is_image(json["bufferViews"].size());
  std::vector<Image> images;
  if (json.contains("images")) {
    for (const auto& image : json["images"]) is_image[image["bufferView"].get<std::size_t>()] = true;
  }
  std::vector<std::string> copies;
  for (std::size_t i = 0; i < is_image.size(); ++i) {
    const auto& view = json["bufferViews"][i];
    const std::string_view bytes(binary + view.value("byteOffset", 0u), view["byteLength"].get<std::size_t>());
    if (is_image[i]) {
      images.push_back(decode_image(bytes, "image"));
    } else {
      copies.emplace_back(bytes);
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
  for (const bool with_images : {false, true}) {
    const fs::path path = fs::temp_directory_path() / "periscena-bench-import.glb";
    make_file(path, megabytes, with_images);
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
    const char* kind = with_images ? "with images" : "meshes only";
    fmt::print("{:<34} {:>10.1f} {:>10.1f} {:>8.2f}   2\n", fmt::format("{}, ms", kind), 1e3 * median(import_seconds),
               1e3 * median(least_seconds), median(ratios));
    fmt::print("{:<34} {:>10.1f} {:>10.1f} {:>8.2f}   2 (of a file of {:.1f} MiB)\n", fmt::format("{}, peak MiB", kind),
               import.megabytes, least.megabytes, import.megabytes / size, size);
  }
} catch (const std::exception& error) {
  std::cerr << error.what() << '\n';
  return 1;
}
