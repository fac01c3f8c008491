#include <periscena/model/gltf.h>
#include <periscena/model/model.h>

using namespace periscena;

int main() {
  Scene scene;
  scene.add_mesh("box", shapes::box(Vec3::ones()));
  const Scene again = read_gltf(encode_glb(scene), "box", ".").scene;
  return again.find_mesh("box").valid() && is_model("box.OBJ") ? 0 : 1;
}
