// What a runner does about files of GLSL that change while it runs.

#include "gl/frame_step.h"
#include "gl/saved_state.h"

#include <periscena/gl/frame_runner.h>

#include <periscena/base/error.h>
#include <periscena/base/file.h>

#include <fmt/format.h>

#include <map>
#include <optional>
#include <utility>

namespace periscena::gl {
namespace {

/// Files as they are now; each is read once.
class FilesNow {
 public:
  /// @throws Error "unreadable-file"
  bool is_as(const SourceText& read) {
    auto known = texts_.find(read.name);
    if (known == texts_.end()) known = texts_.emplace(read.name, read_text(read.name)->text).first;
    return known->second == read.text;
  }

  const std::string& text(const std::string& name) const { return texts_.at(name); }

 private:
  std::map<std::string, std::string> texts_;
};

using Undo = std::vector<std::function<void()>>;

/// Of a pass, or of those that it was made of.
void read_files_again(const Pass& pass, Undo& undo) {
  if (pass.live) {
    if (auto back = pass.live->read_files_again()) undo.push_back(std::move(back));
  }
  for (const auto& part : pass.joined.parts) read_files_again(*part, undo);
}

}  // namespace

const Diagnostics& FrameRunner::reload() {
  if (!ready_) return tried_found_;  // its last plan could not be used, which use() has said
  FilesNow now;
  std::vector<std::size_t> changed;
  std::vector<std::string> texts;
  Diagnostics found;
  for (std::size_t i = 0; i < steps_.size(); ++i) {
    const std::size_t before = texts.size();
    for (const auto& file : steps_[i].files) {
      try {
        if (!now.is_as(*file)) texts.push_back(file->name + "\n" + now.text(file->name));
      } catch (const Error& error) {
        texts.push_back(file->name);
        found.append(error.diagnostics());
      }
    }
    if (texts.size() > before) changed.push_back(i);
  }
  if (texts == tried_files_) return tried_found_;
  if (!changed.empty() && !found.has_errors()) found = make_passes_again(changed);
  tried_files_ = std::move(texts);
  tried_found_ = std::move(found);
  return tried_found_;
}

/// With what their files say now. @return why they could not be: then all are as they were
Diagnostics FrameRunner::make_passes_again(const std::vector<std::size_t>& passes) {
  std::optional<SavedState> saved;
  if (device_.restores_state()) saved.emplace();
  const FramePlan plan = plan_;
  std::vector<MadePass> made;
  Undo undo;
  const auto take_back = [&] {
    for (auto& back : undo) back();
    plan_ = plan;
    for (std::size_t k = 0; k < made.size(); ++k) {
      Step& step = steps_[passes[k]];
      static_cast<MadePass&>(step) = std::move(made[k]);
      if (step.declared) step.options_seen = version_of(*step.declared);
      route_outputs(step);
    }
    device_.state().forget();
  };
  try {
    for (const std::size_t i : passes) {
      made.push_back(std::move(steps_[i]));
      steps_[i].declared = made.back().declared;
      steps_[i].sources = made.back().sources;
      steps_[i].options_seen = made.back().options_seen;
      read_files_again(*steps_[i].declared, undo);
    }
    follow_changes();
  } catch (const Error& error) {
    take_back();
    return error.diagnostics();
  } catch (...) {
    take_back();
    throw;
  }
  device_.state().forget();
  Diagnostics found;
  for (std::size_t k = 0; k < passes.size(); ++k) {
    Step& step = steps_[passes[k]];
    step.holds = false;
    const bool same = std::equal(step.files.begin(), step.files.end(), made[k].files.begin(), made[k].files.end(),
                                 [](const auto& a, const auto& b) { return a->text == b->text; });
    if (same) {
      found.warning(
          "kept-text", step.declared->place,
          fmt::format("a file of pass \"{}\" has changed, and the pass still has the text that it was made of",
                      step.declared->name),
          "let its work read the file when it is made");
    }
  }
  return found;
}

}  // namespace periscena::gl
