// Writes the split-sum table that lit passes look up, as C++: made when the library is built, so that no program waits
// for it.
//   write_split_sum SIZE SAMPLES table.inc

#include <periscena/scene/environment.h>

#include <fmt/format.h>

#include <cstdlib>
#include <fstream>

int main(int argc, char** argv) {
  if (argc != 4) return 2;
  const int size = std::atoi(argv[1]), samples = std::atoi(argv[2]);
  std::ofstream file(argv[3]);
  file << fmt::format("// Of {} samples an entry.\nconstexpr int split_sum_size = {};\n", samples, size);
  file << "constexpr float split_sum_entries[] = {\n";
  // A hexadecimal number is that number, exactly.
  for (const periscena::Vec2& entry : periscena::split_sum_table(size, samples))
    file << fmt::format("    {:a}f, {:a}f,\n", entry.x(), entry.y());
  file << "};\n";
  return file.flush() ? 0 : 3;
}
