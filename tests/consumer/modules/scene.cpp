#include <periscena/scene/scene.h>

using namespace periscena;

int main() {
  Scene scene;
  scene.add_mesh("box", shapes::box(Vec3::ones()));
  return scene.find_mesh("box").valid() ? 0 : 1;
}
