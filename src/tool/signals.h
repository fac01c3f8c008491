#pragma once

namespace periscena::tool {

/// Makes this a process that leaves nothing half done, whatever it was started with and however it is stopped:
///
/// - SIGINT, SIGTERM and SIGHUP remove temporary files and folders; then the process ends by that signal, which is what
///   the shell's exit code says (128 and the signal's number). Signals that are ignored at the start stay ignored.
/// - A write past the limit on file sizes, or to a reader that is gone, is an error where it happens, not a signal.
/// - Standard input, output and error are open, so that no file that is written takes their place.
///
/// Call it first, before there are other threads.
void prepare_process();

}  // namespace periscena::tool
