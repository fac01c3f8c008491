#include <periscena/graph/live_options.h>

#include <periscena/base/error.h>
#include <periscena/base/value.h>
#include <periscena/graph/pass.h>

#include <fmt/format.h>

#include <algorithm>

namespace periscena {
namespace {

bool same_target(const TargetUse& a, const TargetUse& b) {
  return a.handle == b.handle && a.reference.name == b.reference.name;
}

bool same(const Read& a, const Read& b) {
  return a.slot == b.slot && same_target(a.target, b.target) && a.history == b.history && a.level == b.level &&
         a.layer == b.layer && a.samples == b.samples && a.texture == b.texture;
}

bool same(const Write& a, const Write& b) {
  return a.slot == b.slot && same_target(a.target, b.target) && a.covering == b.covering && a.fit == b.fit &&
         a.mean == b.mean && a.level == b.level && a.layer == b.layer && a.coding == b.coding;
}

template <class Use>
bool same(const std::vector<Use>& a, const std::vector<Use>& b) {
  return std::equal(a.begin(), a.end(), b.begin(), b.end(), [](const Use& x, const Use& y) { return same(x, y); });
}

/// Would both be planned alike? @return what differs; empty: they would
std::string planned_otherwise(const Pass& a, const Pass& b) {
  if (!b.draws()) return "it does no drawing of its own: the plan has all of it";
  if (!same(a.reads, b.reads)) return "it would read other targets";
  if (!same(a.writes, b.writes)) return "it would write other targets";
  if (a.takes != b.takes || a.makes != b.makes) return "it would make another kind of colours";
  const bool same_jitter = a.jitter.has_value() == b.jitter.has_value() &&
                           (!a.jitter || (a.jitter->view == b.jitter->view && a.jitter->places == b.jitter->places));
  if (!same_jitter) return "it would move a view otherwise from frame to frame";
  if (a.opens != b.opens || a.chooses_reads != b.chooses_reads || a.facts.index() != b.facts.index())
    return "other passes would be planned otherwise";
  return {};
}

std::shared_ptr<const Pass> without_options(Pass pass) {
  pass.live = nullptr;
  return std::make_shared<const Pass>(std::move(pass));
}

/// A pass that was added, doing what its kind made of other options.
Pass changed(const Pass& added, const Pass& made) {
  Pass pass = added;
  pass.work = made.work;
  pass.facts = made.facts;
  pass.camera = made.camera;
  pass.shader = made.shader;
  pass.check_targets = made.check_targets;
  pass.fuse = made.fuse;
  pass.take_filters = made.take_filters;
  pass.behind = made.behind;
  pass.take_behind = made.take_behind;
  return pass;
}

}  // namespace

LiveOptions::LiveOptions(const Pass& made) : made_(without_options(made)), added_(made_) {}
LiveOptions::~LiveOptions() = default;

const std::string& LiveOptions::pass_name() const {
  return added_->name;
}

void LiveOptions::set(std::string_view key, const Value& value, Place place) {
  const std::size_t dot = key.find('.');
  if (dot == key.npos) return set_key(key, value, place);
  Value whole = get_key(key.substr(0, dot), place);
  const std::string_view name = key.substr(dot + 1);
  Value::Table* table = whole.table();
  if (!table) {
    throw Mistake(
        "wrong-type", place,
        fmt::format("\"{}\" of pass \"{}\" is {}, not a table", key.substr(0, dot), pass_name(), whole.describe()),
        "set it as a whole");
  }
  const auto known =
      std::find_if(table->begin(), table->end(), [&](const ValueMember& one) { return one.name == name; });
  if (known != table->end())
    known->value = value;
  else
    table->push_back({std::string(name), value.place.known() ? value.place : place, value});
  set_key(key.substr(0, dot), whole, place);
}

Value LiveOptions::get(std::string_view key, Place place) const {
  const std::size_t dot = key.find('.');
  if (dot == key.npos) return get_key(key, place);
  const Value whole = get_key(key.substr(0, dot), place);
  const Value* member = whole.find(key.substr(dot + 1));
  return member ? *member : Value();
}

void LiveOptions::begin(const std::shared_ptr<const Pass>& added) {
  added_ = without_options(*added);
  now_ = added;
}

std::shared_ptr<const Pass> LiveOptions::pass() const {
  std::shared_ptr<const Pass> now = now_.lock();
  if (now) return now;
  Pass pass = *added_;
  // Whoever holds the pass holds its options, which know it alone as long as somebody does.
  pass.live = std::const_pointer_cast<LiveOptions>(shared_from_this());
  now = std::make_shared<const Pass>(std::move(pass));
  now_ = now;
  return now;
}

void LiveOptions::change_to(const Pass& made, const Place& place) {
  if (made.problems.has_errors()) {
    Diagnostics all;
    all.append(made.problems, [&](Diagnostic& one) {
      if (!one.place.known()) one.place = place;
    });
    throw Mistake(std::move(all));
  }
  if (const std::string cause = planned_otherwise(*made_, made); !cause.empty()) {
    throw Mistake("not-live", place, fmt::format("pass \"{}\" can't change so while it runs: {}", pass_name(), cause),
                  "declare the frame with it, and use() its plan: what did not change stays");
  }
  added_ = without_options(changed(*added_, made));
  now_.reset();
  ++version_;
}

std::uint64_t version_of(const Pass& pass) {
  std::uint64_t sum = pass.live ? pass.live->version() : 0;
  for (const auto& part : pass.joined.parts) sum += version_of(*part);
  return sum;
}

std::shared_ptr<const Pass> latest(const std::shared_ptr<const Pass>& pass) {
  if (!pass) return pass;
  if (pass->joined.parts.empty()) return pass->live ? pass->live->pass() : pass;
  std::vector<std::shared_ptr<const Pass>> parts;
  for (const auto& part : pass->joined.parts) parts.push_back(latest(part));
  if (parts == pass->joined.parts) return pass;
  std::optional<Pass> joined = pass->joined.join(parts);
  if (!joined) {
    throw Mistake("not-live", pass->place, fmt::format("what \"{}\" was made of no longer goes together", pass->name),
                  "plan the frame again");
  }
  return std::make_shared<const Pass>(std::move(*joined));
}

}  // namespace periscena
