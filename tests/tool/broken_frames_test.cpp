#include "tool/process.h"

#include <periscena/base/file.h>

#include <catch2/catch.hpp>

#include <algorithm>
#include <filesystem>
#include <regex>
#include <set>
#include <sstream>

using namespace periscena;

// Each broken frame file stands beside what `periscena check` must say of it, to the letter: messages are part of what
// users get.
TEST_CASE("each of the broken frame files is told off with place, cause and mend") {
  std::vector<std::filesystem::path> files;
  for (const auto& entry : std::filesystem::directory_iterator(PERISCENA_SOURCE_FOLDER "/tests/broken_frames")) {
    if (entry.path().extension() == ".toml") files.push_back(entry.path());
  }
  std::sort(files.begin(), files.end());
  REQUIRE(files.size() >= 20);
  for (const auto& file : files) {
    INFO(file.filename());
    const Answer answer =
        periscena_command({"check", std::filesystem::relative(file, PERISCENA_SOURCE_FOLDER).string()});
    CHECK(answer.exit_code == 1);
    CHECK(answer.error.empty());
    auto expected = file;
    CHECK(answer.out == read_text(expected.replace_extension(".expected"))->text);
    CHECK_THAT(answer.out, Catch::Contains("mend: "));
  }
}

TEST_CASE("every slug in the sources is explained in docs/diagnostics.md, and every one explained there exists") {
  std::set<std::string> in_sources, in_docs;
  const std::regex said(
      R"re((?:error|warning|warn|note|Mistake|WrongUsage|fail|refuse)\(\s*(?:true, |false, |incomplete, )?"([a-z]+(?:-[a-z]+)*)",)re"),
      slug(R"re(slug = "([a-z-]+)")re"), explained(R"(`([a-z]+(?:-[a-z]+)*)`)");
  const auto collect = [](const std::string& text, const std::regex& pattern, std::set<std::string>& into) {
    for (std::sregex_iterator match(text.begin(), text.end(), pattern), end; match != end; ++match)
      into.insert((*match)[1]);
  };
  for (const auto& entry : std::filesystem::recursive_directory_iterator(PERISCENA_SOURCE_FOLDER "/src")) {
    if (entry.path().extension() != ".cpp") continue;
    const std::string text = read_text(entry.path())->text;
    collect(text, said, in_sources);
    collect(text, slug, in_sources);
  }
  in_sources.insert({"unknown-mesh", "unknown-material", "unknown-object", "unknown-light", "unknown-environment",
                     "unknown-fog", "unknown-tag", "unknown-variant", "unknown-sampler", "unknown-output",
                     "unknown-uniform", "average-of-integers", "average-of-depth"});  // made of parts
  std::istringstream lines(read_text(PERISCENA_SOURCE_FOLDER "/docs/diagnostics.md")->text);
  for (std::string line; std::getline(lines, line);) {
    if (line.starts_with("| `")) collect(line.substr(0, line.find('|', 1)), explained, in_docs);
  }
  REQUIRE(in_sources.size() > 50);
  for (const std::string& name : in_sources) {
    INFO(name);
    CHECK(in_docs.contains(name));
  }
  for (const std::string& name : in_docs) {
    INFO(name);
    CHECK(in_sources.contains(name));
  }
}
