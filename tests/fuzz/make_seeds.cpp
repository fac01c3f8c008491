// Writes small files for the fuzzers to start from: make_seeds FOLDER
#include <periscena/base/file.h>
#include <periscena/image/files.h>
#include <periscena/model/gltf.h>

#include <turbojpeg.h>

#include <cstdio>

using namespace periscena;

namespace {

Image picture(Format format, int width, int height) {
  Image image(width, height, format);
  for (int y = 0; y < height; ++y) {
    for (int x = 0; x < width; ++x) image.set(x, y, {x * 30.0, y * 30.0, (x ^ y) * 20.0, 255});
  }
  return image;
}

std::string without_magic(const std::filesystem::path& file, std::size_t magic) {
  return read_bytes(file).substr(magic);
}

std::string jpeg(const Image& image, int flags) {
  tjhandle handle = tjInitCompress();
  unsigned char* bytes = nullptr;
  unsigned long count = 0;
  tjCompress2(handle, reinterpret_cast<const unsigned char*>(image.bytes().data()), image.width(), 0, image.height(),
              TJPF_RGBA, &bytes, &count, TJSAMP_420, 80, flags);
  const std::string file(reinterpret_cast<char*>(bytes), count);
  tjFree(bytes);
  tjDestroy(handle);
  return file;
}

Scene small_scene() {
  Scene scene;
  const auto image = std::make_shared<const Image>(picture(Format::rgba8_srgb, 3, 2));
  Material material{
      .name = "brick", .metallic = 0.5f, .emission = Vec3(1, 2, 3), .alpha_mode = Material::AlphaMode::mask};
  material.base_color_map.texture = scene.add_texture({.name = "bricks", .image = image});
  material.normal_map = {.texture = scene.add_texture({.name = "bumps", .image = image, .holds = TextureHolds::data}),
                         .offset = Vec2(0.5f, 0.25f)};
  Node node{.name = "wall", .mesh = scene.add_mesh("box", shapes::box({1, 2, 3}))};
  node.material = scene.add_material(material);
  node.tags = {"built"};
  scene.add_node(node);
  node.name = "child";
  node.parent = {0};
  node.placement = Transform::rotate(Vec3::unit_y(), 1).then(Transform::translate({1, 2, 3}));
  scene.add_node(node);
  scene.add_light(Light{.name = "lamp", .kind = SpotLight{.intensity = 5, .range = 4}});
  scene.add_view({"front", {}});
  return scene;
}

constexpr const char* obj = R"(mtllib m.mtl
v 0 0 0
v 1 0 0
v 1 1 0 1 0 0
v 0 1 0
vt 0 0
vt 1 1
vn 0 0 1
o wall
usemtl red
f 1/1/1 2/2/1 3//1 -1
l 1 2 3
p 4
%
newmtl red
Kd 1 0 0
Ks 0.5 0.5 0.5
Ns 20
Pr 0.3
d 0.5
map_Kd none.png
)";

constexpr const char* gltf = R"({"asset":{"version":"2.0"},"scene":0,"scenes":[{"nodes":[0]}],
"nodes":[{"mesh":0,"children":[1],"extensions":{"EXT_mesh_gpu_instancing":{"attributes":{"TRANSLATION":0}}}},
{"camera":0,"rotation":[0,0,0,1],"scale":[1,-1,1]}],
"cameras":[{"type":"perspective","perspective":{"yfov":1,"znear":0.1}}],
"meshes":[{"primitives":[{"attributes":{"POSITION":0},"indices":1,"mode":4,"material":0}]}],
"materials":[{"alphaMode":"BLEND","pbrMetallicRoughness":{"baseColorFactor":[1,0,0,0.5]},
"extensions":{"KHR_materials_unlit":{},"KHR_materials_emissive_strength":{"emissiveStrength":2}}}],
"accessors":[{"bufferView":0,"componentType":5126,"count":3,"type":"VEC3","min":[0,0,0],"max":[0,0,0],
"sparse":{"count":1,"indices":{"bufferView":1,"componentType":5121},"values":{"bufferView":0}}},
{"bufferView":1,"componentType":5121,"count":3,"type":"SCALAR"}],
"animations":[{"channels":[{"sampler":0,"target":{"node":1,"path":"translation"}}],
"samplers":[{"input":1,"output":0,"interpolation":"STEP"}]}],
"bufferViews":[{"buffer":0,"byteLength":36},{"buffer":0,"byteOffset":36,"byteLength":3}],
"buffers":[{"byteLength":39,"uri":"data:application/octet-stream;base64,AAAAAAAAAAAAAAAAAACAPwAAAAAAAAAAAAAAAAAAgD8AAAAAAAEC"}]})";

}  // namespace

int main(int argc, char** argv) {
  if (argc != 2) return 1;
  const std::filesystem::path folder = argv[1];
  const auto put = [&](const char* reader, const char* name, const std::string& bytes) {
    std::filesystem::create_directories(folder / reader);
    write_file(folder / reader / name, bytes);
  };
  const auto scratch = folder / "scratch";
  for (const int width : {1, 5, 20}) {
    const std::string name = std::to_string(width);
    write_png(picture(Format::rgba8_srgb, width, 4), scratch);
    put("png", name.c_str(), without_magic(scratch, 8));
    write_exr(picture(Format::rgba32f, width, 4), scratch);
    put("exr", name.c_str(), without_magic(scratch, 4));
    write_hdr(picture(Format::rgba32f, width, 4), scratch);
    put("hdr", name.c_str(), without_magic(scratch, 10));
    put("jpeg", name.c_str(), jpeg(picture(Format::rgba8_srgb, width, 9), TJFLAG_PROGRESSIVE).substr(3));
    put("jpeg", (name + " at once").c_str(), jpeg(picture(Format::rgba8_srgb, width, 9), 0).substr(3));
  }
  std::filesystem::remove(scratch);
  put("gltf", "scene.glb", encode_glb(small_scene()));
  put("gltf", "written.gltf", gltf);
  put("obj", "wall.obj", obj);
  for (const char* source : {"demo", "examples", "tests/broken_frames"}) {
    for (const auto& file :
         std::filesystem::directory_iterator(std::filesystem::path(PERISCENA_SOURCE_FOLDER) / source)) {
      if (file.path().extension() == ".toml")
        put("frame", file.path().filename().c_str(), read_text(file.path())->text);
    }
  }
  for (const auto& file : std::filesystem::directory_iterator(PERISCENA_SOURCE_FOLDER "/examples")) {
    if (file.path().extension() != ".toml") continue;
    // Those of the demo's models take seconds each.
    const std::string text = read_text(file.path())->text;
    if (text.find("generated/") == std::string::npos) put("structure", file.path().filename().c_str(), text);
  }
  put("table", "small.cube",
      "TITLE \"small\"\nLUT_3D_SIZE 2\nDOMAIN_MIN 0 0 0\nDOMAIN_MAX 1 1 1\n0 0 0\n1 0 0\n0 1 0\n1 1 0\n0 0 1\n1 0 1\n0 "
      "1 "
      "1\n1 1 1\n");
  put("table", "line.cube", "LUT_1D_SIZE 3\n0 0 0\n0.5 0.4 0.3\n1 1 1\n");
  put("sheet", "two.json",
      R"({"image":"a.png","cells":[{"name":"up","x":0,"y":0,"width":8,"height":8},{"x":8,"y":0,"width":8,"height":8}]})");
  put("capture", "one.json",
      R"({"periscena_capture":1,"width":4,"height":4,"seconds":0,"passes":[{"name":"a","kind":"forward","targets":[{"target":"t",)"
      R"("slot":"color","level":0,"layer":0,"stencil":false,"file":"a.png","width":4,"height":4,"format":"rgba8","bytes":3,)"
      R"("hash":"0000000000000000"}]}]})"
      "\n%\nabc");
  for (const auto& file : std::filesystem::recursive_directory_iterator(PERISCENA_SOURCE_FOLDER "/src")) {
    if (file.path().extension() == ".frag" || file.path().extension() == ".glsl")
      put("glsl", file.path().filename().c_str(), read_text(file.path())->text);
  }
  put("glsl", "encodes.frag", read_text(PERISCENA_SOURCE_FOLDER "/tests/broken_frames/shaders/encodes.frag")->text);
}
