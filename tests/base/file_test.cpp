#include "scratch.h"
#include "thrown.h"

#include <periscena/base/file.h>
#include <periscena/base/temporary.h>

#include <csignal>
#include <fstream>
#include <thread>

#include <fcntl.h>
#include <sys/resource.h>
#include <sys/stat.h>

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

TEST_CASE("a pipe is waited for until something writes into it, which takes any time, and not for ever") {
  const Scratch scratch("pipes");
  const std::string pipe = (scratch / "pipe").string();
  REQUIRE(::mkfifo(pipe.c_str(), 0600) == 0);
  std::thread writer([&] {
    std::ofstream late(pipe);  // opened once somebody reads
    std::this_thread::sleep_for(std::chrono::milliseconds(200));
    late << "first " << std::flush;
    std::this_thread::sleep_for(std::chrono::milliseconds(200));
    late << std::string(100'000, 'x');
  });
  REQUIRE(read_bytes(pipe) == "first " + std::string(100'000, 'x'));
  writer.join();
  std::thread silent([&] { std::ofstream nothing(pipe); });
  REQUIRE(read_bytes(pipe).empty());
  silent.join();
  REQUIRE_THAT(thrown_text([&] { read_bytes(pipe); }), Catch::Contains("nothing has written into this pipe"));
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

TEST_CASE("a file that is written again keeps its mode, and a write-protected one is refused") {
  const Scratch scratch("mode");
  const auto path = scratch / "note";
  write_file(path, "old");
  REQUIRE(::chmod(path.c_str(), 0640) == 0);
  write_file(path, "new");
  struct stat status {};
  REQUIRE(::stat(path.c_str(), &status) == 0);
  REQUIRE((status.st_mode & 07777) == 0640);
  REQUIRE(::chmod(path.c_str(), 0440) == 0);
  if (::geteuid() == 0) return;  // who may write to everything
  REQUIRE_THAT(thrown_text([&] { write_file(path, "no"); }), Catch::Contains("write-protected"));
  REQUIRE(read_text(path)->text == "new");
}

TEST_CASE("a file of somebody else keeps its owner where that may be set") {
  if (::geteuid() != 0) return;
  const Scratch scratch("owner");
  const auto path = scratch / "note";
  write_file(path, "old");
  REQUIRE(::chown(path.c_str(), 1234, 2345) == 0);
  REQUIRE(::chmod(path.c_str(), 0604) == 0);
  write_file(path, "new");
  struct stat status {};
  REQUIRE(::stat(path.c_str(), &status) == 0);
  REQUIRE(status.st_uid == 1234);
  REQUIRE(status.st_gid == 2345);
  REQUIRE((status.st_mode & 07777) == 0604);
}

TEST_CASE("a link is followed, to a file that is not there yet, too, and stays a link") {
  const Scratch scratch("link");
  std::filesystem::create_directory(scratch / "far");
  write_file(scratch / "far/there", "old");
  std::filesystem::create_symlink("far/there", scratch / "to there");
  std::filesystem::create_symlink("to there", scratch / "to the link");
  std::filesystem::create_symlink("far/none", scratch / "to none");
  write_file(scratch / "to the link", "new");
  write_file(scratch / "to none", "first");
  REQUIRE(read_text(scratch / "far/there")->text == "new");
  REQUIRE(read_text(scratch / "far/none")->text == "first");
  REQUIRE(std::filesystem::is_symlink(scratch / "to the link"));
  REQUIRE(std::filesystem::is_symlink(scratch / "to there"));
  REQUIRE(std::filesystem::is_symlink(scratch / "to none"));
  std::filesystem::create_symlink("round", scratch / "about");
  std::filesystem::create_symlink("about", scratch / "round");
  REQUIRE_THAT(thrown_text([&] { write_file(scratch / "about", "x"); }), Catch::Contains("in a circle"));
}

TEST_CASE("one of several hard links is not separated from the others") {
  const Scratch scratch("hard");
  write_file(scratch / "a", "old");
  std::filesystem::create_hard_link(scratch / "a", scratch / "b");
  REQUIRE_THAT(thrown_text([&] { write_file(scratch / "a", "new"); }), Catch::Contains("hard links"));
  REQUIRE(read_text(scratch / "b")->text == "old");
  REQUIRE(scratch.file_count() == 2);
}

TEST_CASE("what is no regular file is written through, and stays what it is") {
  const Scratch scratch("through");
  write_file("/dev/null", "gone");
  REQUIRE(std::filesystem::is_character_file("/dev/null"));
  const auto pipe = scratch / "pipe";
  REQUIRE(::mkfifo(pipe.c_str(), 0600) == 0);
  std::string got;
  std::thread reader([&] { got = read_bytes(pipe); });
  write_file(pipe, std::string(100000, 'x'));
  reader.join();
  REQUIRE(got == std::string(100000, 'x'));
  REQUIRE(std::filesystem::is_fifo(pipe));
  REQUIRE_THAT(thrown_text([&] { read_bytes("/dev/zero"); }), Catch::Contains("it is a device"));
  std::filesystem::create_symlink("/dev/zero", scratch / "endless");
  REQUIRE_THAT(thrown_text([&] { read_text(scratch / "endless"); }), Catch::Contains("it is a device"));
}

TEST_CASE("names of any length that the file system takes can be written") {
  const Scratch scratch("long");
  for (const std::size_t length : {249u, 255u}) {
    const auto path = scratch / std::string(length, 'n');
    write_file(path, "x");
    REQUIRE(read_text(path)->text == "x");
  }
  REQUIRE_THAT(thrown_text([&] { write_file(scratch / std::string(256, 'n'), "x"); }),
               Catch::Contains("over 255 bytes"));
}

TEST_CASE("temporary files that nobody holds are removed before the next one is written, others are not") {
  const Scratch scratch("leftover");
  const auto put = [&](const std::string& name) { std::ofstream(scratch / name) << "left"; };
  put(".periscena-0123456789abcdef.tmp");  // as a killed process leaves it
  put(".periscena-0123456789abcdeg.tmp");  // no name of ours
  put("periscena-0123456789abcdef.tmp");
  std::filesystem::create_symlink("/etc/hosts", scratch / ".periscena-1111111111111111.tmp");
  std::filesystem::create_directory(scratch / ".periscena-2222222222222222.partial");
  put(".periscena-2222222222222222.partial/001-a.png");
  const TemporaryFile held(scratch.path(), 0600);
  const TemporaryFolder held_folder(scratch.path());
  REQUIRE(scratch.file_count() == 7);
  expect_writable(scratch / "picture.png");
  REQUIRE(scratch.file_count() == 5);
  REQUIRE_FALSE(std::filesystem::exists(scratch / ".periscena-0123456789abcdef.tmp"));
  REQUIRE_FALSE(std::filesystem::exists(scratch / ".periscena-2222222222222222.partial"));
  REQUIRE(std::filesystem::is_symlink(scratch / ".periscena-1111111111111111.tmp"));
  REQUIRE(std::filesystem::exists(held_folder.path()));
}

TEST_CASE("a temporary folder takes the place of another in one step, and leaves nothing when it does not") {
  const Scratch scratch("folders");
  std::filesystem::create_directory(scratch / "kept");
  std::ofstream(scratch / "kept/old") << "old";
  {
    TemporaryFolder made(scratch.path());
    std::ofstream(made.path() / "new") << "new";
    made.exchange(scratch / "kept");
    REQUIRE(std::filesystem::exists(scratch / "kept/new"));
    REQUIRE(std::filesystem::exists(made.path() / "old"));
  }
  { const TemporaryFolder given_up(scratch.path()); }
  REQUIRE(scratch.file_count() == 1);
  TemporaryFolder placed(scratch.path());
  placed.place(scratch / "there");
  REQUIRE(std::filesystem::is_directory(scratch / "there"));
  TemporaryFolder second(scratch.path());
  REQUIRE_THROWS_AS(second.place(scratch / "kept"), std::system_error);
}

TEST_CASE("files that were read are known by whatever path leads to them") {
  const Scratch scratch("inputs");
  write_file(scratch / "in", "x");
  write_file(scratch / "other", "x");
  std::filesystem::create_symlink("in", scratch / "link");
  std::filesystem::create_hard_link(scratch / "in", scratch / "second name");
  const FilesRead inputs;
  read_text(scratch / "in");
  REQUIRE(inputs.contains(scratch / "in"));
  REQUIRE(inputs.contains(scratch / "link"));
  REQUIRE(inputs.contains(scratch / "second name"));
  REQUIRE_FALSE(inputs.contains(scratch / "other"));
  REQUIRE_FALSE(inputs.contains(scratch / "none"));
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
