#pragma once

#include <periscena/gl/device.h>

#include <catch2/catch.hpp>

#include <string>
#include <vector>

/// A device whose driver's errors, deprecations and undefined behaviour fail the test that uses it.
struct TestDevice {
  std::vector<std::string> complaints;
  periscena::gl::Device device = periscena::gl::Device::headless({[this](const periscena::gl::DebugMessage& message) {
    using Kind = periscena::gl::DebugMessage::Kind;
    if (message.from_compiler) return;
    if (message.kind == Kind::error || message.kind == Kind::undefined || message.kind == Kind::deprecated ||
        message.kind == Kind::portability) {
      complaints.emplace_back(message.text);
    }
  }});

  ~TestDevice() {
    for (const std::string& complaint : complaints) UNSCOPED_INFO(complaint);
    CHECK(complaints.empty());
  }
};
