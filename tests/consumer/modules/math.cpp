#include <periscena/math/transform.h>

using namespace periscena;

int main() {
  const Transform twice = Transform::scale(2).then(Transform::translate({5, 0, 0}));
  return twice.apply_to_point(Vec3(1, 0, 0)).is_near(Vec3(7, 0, 0)) ? 0 : 1;
}
