// Writes docs/frame_file.md from the tables that the reader uses.
//   build/release/docs/write_reference docs/frame_file.md

#include <periscena/periscena.h>

#include <cstdio>

int main(int argc, char** argv) try {
  if (argc != 2) return 2;
  periscena::write_file(argv[1], periscena::frame_file_reference());
} catch (const periscena::Error& error) {
  std::fprintf(stderr, "%s\n", error.what());
  return 3;
}
