#include <periscena/batch/draw_list.h>

int main() {
  return periscena::batch::choices_of(periscena::batch::Batching::automatic).front() == "automatic" ? 0 : 1;
}
