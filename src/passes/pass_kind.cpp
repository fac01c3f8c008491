#include <periscena/passes/pass_kind.h>

#include "draw/shaders.h"

#include <periscena/base/error.h>

#include <fmt/format.h>

#include <algorithm>
#include <set>

namespace periscena::gl {
ShaderLibrary passes_texts();  // written by cmake/embed.cmake
}

namespace periscena::passes {
namespace {

/// A name that comes twice, or nothing.
template <class Named>
const std::string* find_twin(const std::vector<Named>& list) {
  std::set<std::string_view> seen;
  for (const Named& one : list) {
    if (!seen.insert(one.name).second) return &one.name;
  }
  return nullptr;
}

}  // namespace

void PassKinds::add(PassKind kind, Place place) {
  Diagnostics problems;
  const auto refuse = [&](const std::string& what, const char* help) {
    problems.error("bad-kind", place, fmt::format("the kind of pass \"{}\" {}", kind.name, what), help);
  };
  if (kind.name.empty()) refuse("has no name", "name it as frame files are to call it");
  if (find(kind.name)) {
    problems.error("taken-name", place, fmt::format("there is a kind of pass \"{}\" already", kind.name),
                   "choose another name");
  }
  if (const std::string* key = find_twin(kind.keys))
    refuse(fmt::format("has two keys \"{}\"", *key), "name each key once");
  for (const std::vector<SlotInfo>* slots : {&kind.reads, &kind.writes}) {
    if (const std::string* slot = find_twin(*slots))
      refuse(fmt::format("has two {} \"{}\"", slots == &kind.reads ? "reads" : "writes", *slot), "name each slot once");
  }
  for (const std::string& slot : kind.unbound) {
    refuse(fmt::format("has no member for the target \"{}\"", slot),
           "give its slot a member of the options: &Options::color");
  }
  if (!kind.make) refuse("can't be made", "say what it does: set finish");
  if (problems.has_errors()) throw Mistake(std::move(problems));
  kinds_.push_back(std::move(kind));
}

const PassKind* PassKinds::find(std::string_view name) const {
  const auto found =
      std::find_if(kinds_.begin(), kinds_.end(), [&](const PassKind& kind) { return kind.name == name; });
  return found == kinds_.end() ? nullptr : &*found;
}

std::vector<std::string> PassKinds::names() const {
  std::vector<std::string> names;
  for (const PassKind& kind : kinds_) names.push_back(kind.name);
  return names;
}

gl::ShaderLibrary pass_shaders() {
  static const std::vector<gl::EmbeddedText> texts = [] {
    std::vector<gl::EmbeddedText> all;
    for (const gl::ShaderLibrary library : {draw::shaders(), gl::passes_texts()})
      all.insert(all.end(), library.begin(), library.end());
    return all;
  }();
  return texts;
}

}  // namespace periscena::passes
