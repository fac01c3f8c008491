#include "scratch.h"
#include "thrown.h"

#include <periscena/base/file.h>

#include <csignal>

#include <sys/resource.h>

using namespace periscena;

TEST_CASE("a file is written whole, replaces the old one, and leaves nothing beside it") {
  const Scratch scratch("file");
  const auto path = scratch / "note.txt";
  write_file(path, "old");
  write_file(path, "new and longer");
  REQUIRE(read_text(path)->text == "new and longer");
  REQUIRE(read_text(path)->name == path.string());
  REQUIRE(scratch.file_count() == 1);
}

TEST_CASE("what can't be read or written says why, and by which path") {
  const Scratch scratch("file-errors");
  REQUIRE_THAT(thrown_text([&] { read_text(scratch / "none"); }),
               Catch::Contains("no such file") && Catch::Contains("none"));
  REQUIRE_THAT(thrown_text([&] { read_text(scratch.path()); }), Catch::Contains("it is a folder"));
  REQUIRE_THAT(thrown_text([&] { write_file(scratch / "no/such/a.png", "x"); }),
               Catch::Contains("does not exist") && Catch::Contains("mkdir -p"));
  REQUIRE_THAT(thrown_text([&] { write_file(scratch.path(), "x"); }), Catch::Contains("it is a folder"));
  write_file(scratch / "file", "x");
  REQUIRE_THAT(thrown_text([&] { write_file(scratch / "file/inside", "x"); }), Catch::Contains("is not a folder"));
}

TEST_CASE("a write that can't be finished leaves the old file as it was, and nothing beside it") {
  const Scratch scratch("full");
  write_file(scratch / "kept", "old");
  // The system's limit on file sizes stands in for a full disk: writing past it fails with EFBIG.
  rlimit before{};
  REQUIRE(getrlimit(RLIMIT_FSIZE, &before) == 0);
  const auto old_handler = std::signal(SIGXFSZ, SIG_IGN);
  const rlimit small{4096, before.rlim_max};
  REQUIRE(setrlimit(RLIMIT_FSIZE, &small) == 0);
  const std::string slug = thrown_slug([&] { write_file(scratch / "kept", std::string(1 << 20, 'x')); });
  REQUIRE(setrlimit(RLIMIT_FSIZE, &before) == 0);
  std::signal(SIGXFSZ, old_handler);
  REQUIRE(slug == "unwritable-file");
  REQUIRE(read_text(scratch / "kept")->text == "old");
  REQUIRE(scratch.file_count() == 1);
}

TEST_CASE("only well-formed UTF-8 counts as text") {
  REQUIRE(is_utf8("plain, ä, €, 𝄞"));
  REQUIRE_FALSE(is_utf8("\xC3"));              // cut short
  REQUIRE_FALSE(is_utf8("\xC0\xAF"));          // overlong
  REQUIRE_FALSE(is_utf8("\xE0\x80\xAF"));      // overlong
  REQUIRE_FALSE(is_utf8("\xED\xA0\x80"));      // surrogate
  REQUIRE_FALSE(is_utf8("\xF4\x90\x80\x80"));  // past the last code point
  REQUIRE_FALSE(is_utf8("\x80"));
  const Scratch scratch("utf8");
  write_file(scratch / "latin", "caf\xE9");
  REQUIRE(thrown_slug([&] { read_text(scratch / "latin"); }) == "unreadable-file");
  REQUIRE(read_bytes(scratch / "latin").size() == 4);
}
