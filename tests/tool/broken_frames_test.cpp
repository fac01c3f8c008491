#include "tool/process.h"

#include <periscena/base/file.h>

#include <catch2/catch.hpp>

#include <algorithm>
#include <filesystem>

using namespace periscena;

// Each broken frame file stands beside what `periscena check` must say of it, to the letter: messages are part of what users get.
TEST_CASE("each of the broken frame files is told off with place, cause and mend") {
  std::vector<std::filesystem::path> files;
  for (const auto& entry : std::filesystem::directory_iterator(PERISCENA_SOURCE_FOLDER "/tests/broken_frames")) {
    if (entry.path().extension() == ".toml") files.push_back(entry.path());
  }
  std::sort(files.begin(), files.end());
  REQUIRE(files.size() >= 20);
  for (const auto& file : files) {
    INFO(file.filename());
    const Answer answer = periscena_command({"check", std::filesystem::relative(file, PERISCENA_SOURCE_FOLDER).string()});
    CHECK(answer.exit_code == 1);
    CHECK(answer.error.empty());
    auto expected = file;
    CHECK(answer.out == read_text(expected.replace_extension(".expected"))->text);
    CHECK_THAT(answer.out, Catch::Contains("mend: "));
  }
}
