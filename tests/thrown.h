#pragma once

#include <periscena/base/error.h>

#include <catch2/catch.hpp>

#include <string>

/// The slug of the first diagnostic that an action throws; "nothing" when it throws none.
template <class Action>
std::string thrown_slug(Action action) {
  try {
    action();
  } catch (const periscena::Error& error) {
    return error.diagnostics()[0].slug;
  }
  return "nothing";
}

/// The whole text of what an action throws; empty when it throws nothing.
template <class Action>
std::string thrown_text(Action action) {
  try {
    action();
  } catch (const periscena::Error& error) {
    return error.what();
  }
  return {};
}
