#pragma once

#include <string>
#include <vector>

/// What a program answered.
struct Answer {
  int exit_code = -1;  ///< minus the signal that ended it
  std::string out, error;
  long peak_mebibytes = 0;  ///< of memory that it had at once
};

/// Runs a program in a folder, with these variables added to the environment, and waits for it.
/// @param arguments  the program first
Answer run_process(const std::vector<std::string>& arguments, const std::string& folder = PERISCENA_SOURCE_FOLDER,
                   const std::vector<std::string>& variables = {});

/// The command, run in the source folder.
Answer periscena_command(std::vector<std::string> arguments, const std::vector<std::string>& variables = {});
