#include <periscena/image/statistics.h>

using namespace periscena;

int main() {
  const Image black(4, 4, Format::rgba8);
  return compare(black, black).rmse == 0 ? 0 : 1;
}
