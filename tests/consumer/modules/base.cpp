#include <periscena/base/names.h>

int main() {
  return periscena::nearest_name("ligth", std::vector<std::string>{"light", "view"}) == "light" ? 0 : 1;
}
