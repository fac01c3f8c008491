#include <periscena/frame/frame_file.h>

int main() {
  try {
    periscena::read_frame_file("there is no such file.toml");
  } catch (const periscena::Error& error) {
    return error.diagnostics()[0].slug == "unreadable-file" ? 0 : 1;
  }
  return 1;
}
