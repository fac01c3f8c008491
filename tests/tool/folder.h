#pragma once

#include "scratch.h"

#include <string>

/// A folder for what a command writes.
struct Folder {
  Scratch scratch{"tool"};
  std::string at(const std::string& name) const { return (scratch / name).string(); }
};
