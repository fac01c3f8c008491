#pragma once

#include <periscena/gl/capabilities.h>
#include <periscena/gl/program_cache.h>
#include <periscena/gl/state.h>

#include <filesystem>
#include <functional>
#include <memory>
#include <string_view>

namespace periscena::gl {

/// A message of the driver's own (OpenGL 4.5, 20.1).
struct DebugMessage {
  enum class Kind { error, deprecated, undefined, portability, performance, marker, other };
  enum class Weight { high, medium, low, notification };
  Kind kind;
  Weight weight;
  bool from_compiler;  ///< a shader's, which Program reports with its place already
  std::uint32_t id;
  std::string_view text;
};
std::string_view to_string(DebugMessage::Kind kind);

struct DeviceOptions {
  /// Called from within the GL call that caused the message. Setting it asks for a debug context.
  std::function<void(const DebugMessage&)> on_message = {};

  /// Leaves unused what a driver is known to do wrong; capabilities().features say what. For looking into drivers.
  bool avoid_known_faults = true;

  /// Storage blocks are kept to so many bytes, to see what a lesser device would make of a scene; 0: what the device
  /// can.
  std::size_t most_block_bytes = 0;

  /// Of an adopted context: nothing else makes GL calls in it. Then runs leave state as they set it, as they do in a
  /// context of ours, instead of saving and restoring what they find.
  bool sole_user = false;

  /// Where compiled programs are kept from one process to the next, see ProgramCache; empty: nowhere.
  std::filesystem::path program_folder = {};
};

/// An OpenGL context, 4.5 core or later, that is current in the thread that made it. Stays where it is: others point to
/// it. GL calls of your own between runs on a context of ours: tell state().forget(…) what they changed.
class Device {
 public:
  /// A context of our own, without window, monitor or X server: EGL surfaceless, else with a pbuffer.
  /// @throws Error "no-device" (what was tried, what each said), "old-device" (what was found)
  static Device headless(DeviceOptions options = {});

  /// The context that is current already, whoever made it, by EGL or GLX. It is neither made nor destroyed here, and
  /// every run leaves its state as it was, unless DeviceOptions::sole_user. @throws Error "no-current-context",
  /// "old-device"
  static Device adopt(DeviceOptions options = {});

  Device(const Device&) = delete;
  Device& operator=(const Device&) = delete;
  ~Device();

  bool adopted() const;

  /// Does every run leave the state as it found it?
  bool restores_state() const { return adopted() && !options_.sole_user; }

  /// Does somebody hear the driver's messages? Then passes are debug groups, and state is checked.
  bool listens() const { return static_cast<bool>(options_.on_message); }

  /// Is a graphics debugger attached (GL_EXT_debug_tool)?
  bool debugger_attached() const { return debugger_attached_; }
  const Capabilities& capabilities() const { return capabilities_; }
  DeviceLimits limits() const { return capabilities_.device_limits(); }
  State& state() { return state_; }
  ProgramCache& programs() { return *programs_; }

  /// Makes our own context current in this thread; does nothing for an adopted one.
  void make_current();

 private:
  class Context;
  Device(std::unique_ptr<Context> context, DeviceOptions options);
  void listen();

  std::unique_ptr<Context> context_;  ///< null when adopted
  DeviceOptions options_;
  Capabilities capabilities_;
  State state_;
  std::unique_ptr<ProgramCache> programs_;
  void* earlier_callback_ = nullptr;
  void* earlier_parameter_ = nullptr;
  bool earlier_debug_ = false, earlier_synchronous_ = false, debugger_attached_ = false;
};

}  // namespace periscena::gl
