#pragma once

#include <periscena/base/place.h>

#include <cstddef>
#include <filesystem>
#include <memory>
#include <span>
#include <string>
#include <vector>

namespace periscena::gl {

struct ProgramDescription;
struct LinkedProgram;

/// The linked programs of a device, by their text: passes and runners that need the same text share one GL program, and
/// a second plan or runner compiles only what is new. Programs that nothing uses any more are kept for the next plan,
/// up to 128 of them. One whose GLSL gives uniforms a value has one user at a time.
///
/// With a folder, programs are also kept on disk as the driver's binaries (OpenGL 4.5, 7.5), so that the next process
/// need not compile them. A file holds the driver's name and version, the whole text and a checksum: what does not
/// match, is damaged, or is refused by the driver is compiled again and replaced. Files are written whole or not at
/// all, so that several processes may share a folder. A folder that can't be used costs time, never a picture.
class ProgramCache {
 public:
  /// @param driver  vendor, renderer and version: binaries of another are not used
  /// @param folder  empty: nothing is kept on disk
  ProgramCache(std::string driver, std::filesystem::path folder);
  ProgramCache(const ProgramCache&) = delete;
  ProgramCache& operator=(const ProgramCache&) = delete;
  ~ProgramCache();

  /// The program of a description, compiled when it is new.
  /// @throws Mistake as the constructor of Program
  std::shared_ptr<LinkedProgram> get(const ProgramDescription& description, Place place);

  /// Starts to compile several programs, which drivers may do at the same time (GL_KHR_parallel_shader_compile), and
  /// waits for none. What is wrong with one is said by get().
  void prepare(std::span<const ProgramDescription> descriptions);

  /// The files of GLSL that get() has read since this was called last, as they were.
  std::vector<std::shared_ptr<const SourceText>> take_files();

  /// What became of the programs that were asked for.
  struct Counts {
    std::size_t compiled = 0;  ///< from their text
    std::size_t loaded = 0;    ///< from a file
    std::size_t shared = 0;    ///< were there already
  };
  Counts counts() const;

  /// How many GL programs there are, in use or not.
  std::size_t size() const;

 private:
  struct Contents;
  std::unique_ptr<Contents> contents_;
};

}  // namespace periscena::gl
