#pragma once

#include <periscena/passes/live.h>
#include <periscena/passes/options.h>
#include <periscena/passes/pass_kind.h>

#include <algorithm>
#include <utility>
#include <vector>

namespace periscena {

/// Names or tags; left out, all that there are.
template <>
struct KeyType<ChosenNames> {
  static std::string name() { return KeyType<std::vector<Reference>>::name(); }
  static std::string show(const ChosenNames&) { return ""; }
  static void read(const Value& value, const KeyInfo& info, ChosenNames& into, Diagnostics& diagnostics) {
    std::optional<std::vector<Reference>> names;
    KeyType<decltype(names)>::read(value, info, names, diagnostics);
    if (names) into = std::move(*names);
  }
};

/// Targets by their names.
template <>
struct KeyType<std::vector<TargetUse>> {
  static constexpr bool fixed = true;  // targets are planned
  static std::string name() { return KeyType<std::vector<Reference>>::name(); }
  static std::string show(const std::vector<TargetUse>&) { return ""; }
  static void read(const Value& value, const KeyInfo& info, std::vector<TargetUse>& into, Diagnostics& diagnostics) {
    std::vector<Reference> names;
    KeyType<decltype(names)>::read(value, info, names, diagnostics);
    into.assign(names.begin(), names.end());
  }
};

}  // namespace periscena

namespace periscena::passes {

namespace detail {

/// Where options have the target of a slot.
struct UsePlace {
  enum class Form { unbound, target, whole };

  std::size_t offset = 0;  ///< bytes
  Form form = Form::unbound;
};

}  // namespace detail

/// The member of options that a slot is: a target, or all of a read or write.
template <class Options, class Use>
class SlotMember {
 public:
  SlotMember() = default;
  SlotMember(TargetUse Options::*member) : SlotMember(member, detail::UsePlace::Form::target) {}
  SlotMember(Use Options::*member) : SlotMember(member, detail::UsePlace::Form::whole) {}

  const detail::UsePlace& place() const { return place_; }

 private:
  template <class Member>
  SlotMember(Member Options::*member, detail::UsePlace::Form form) {
    if (member) place_ = {periscena::detail::member_offset<Options>(member), form};
  }

  detail::UsePlace place_;
};

/// A target that a kind of pass reads, and the member of its options that has it.
template <class Options>
struct ReadSlot {
  SlotInfo info;
  SlotMember<Options, Read> member = {};
};

/// A target that a kind of pass writes, and the member of its options that has it.
template <class Options>
struct WriteSlot {
  SlotInfo info;
  SlotMember<Options, Write> member = {};
  Write how = {};  ///< how it is written and shown; its name and target are not looked at
  ValueKind numbers = ValueKind::floating;
};

/// How most passes over the whole picture write: every pixel, light or what was made of light.
inline Write whole_picture(Shows shows = Shows::what_it_holds) {
  return {.covering = Covering::replaces, .shows = shows, .coding = ColorCoding::light};
}

/// Who looks up the names of views, lights, environments, fogs, tags and variants?
enum class NameChecks {
  by_kind,   ///< Kind does, before `finish`: it looks for the members view, lights, environment, fog, tags, …
  by_finish  ///< `finish` does, as they depend on more than that
};

namespace detail {

/// A slot, with what options have put in.
template <class Use>
struct FilledSlot {
  const SlotInfo* info;
  Use use;
  ValueKind numbers = ValueKind::floating;
};

struct FilledSlots {
  std::vector<FilledSlot<Read>> reads;
  std::vector<FilledSlot<Write>> writes;
};

}  // namespace detail

namespace detail {
template <class Options>
class LiveOptionsOf;
}

/// A kind of pass, said once: its C++ options, their keys in frame files, its targets. The name of a member, of its key
/// or slot and of what GLSL calls it are one.
///
///     struct Threshold {
///       std::string name = "threshold";
///       float level = 0.5f;
///       TargetUse light = {}, color = {};
///     };
///     const passes::Kind<Threshold> kind{
///         .name = "threshold", .sentence = "White where light is over a level.", .example = "…",
///         .reads = {{{"light", passes::Need::required, "Linear light"}, &Threshold::light}},
///         .writes = {{{"color", passes::Need::required, "0 or 1"}, &Threshold::color, passes::whole_picture()}},
///         .keys = Keys<Threshold>().key("level", &Threshold::level, {.minimum = 0}, "Over which it is white"),
///         .finish = [](const Threshold& options, Pass& pass) { pass.work = gl::work<ThresholdWork>(options); }};
///
/// @tparam Options  a struct with a `name`, and a member for each slot and key. In a frame file, what Defaults
/// has is the frame's where the pass does not say it, and a `folder` is the file's.
template <class Options>
struct Kind {
  const char* name = "";
  const char* sentence = "";
  const char* example = "";  ///< a [[pass]] as it would be written
  std::vector<ReadSlot<Options>> reads = {};
  std::vector<WriteSlot<Options>> writes = {};
  Keys<Options> keys = {};

  /// Says what the pass does, and what is wrong with it beyond what is judged before: targets that are missing, numbers
  /// out of range, names that are not there. The pass has its reads and writes, in the order of the slots: all those
  /// that are required.
  void (*finish)(const Options&, Pass&) = nullptr;

  /// Says what is wrong with the options, whether or not all targets are there.
  void (*check)(const Options&, Pass&) = nullptr;

  /// Of a frame file: fills in what no key says by itself, such as files by their paths.
  void (*read_more)(const PassSource&, Options&, Diagnostics&) = nullptr;
  OwnSlots own_slots = OwnSlots::none;  ///< further targets, which read_more takes
  std::vector<PassPart> parts = {};
  NameChecks name_checks = NameChecks::by_kind;

  /// What C++ calls. Mistakes in the options are reported by FrameGraph::plan. The pass keeps its options, which a
  /// program may change (Live), so a kind lives as long as the passes that it made: it is best static.
  /// @throws Mistake "bad-kind" for a kind without `finish`, and for a slot without a member
  Pass make(const Options& options, Place place) const;
  Pass make(const Defaults& defaults, Options options, Place place) const;

  /// For PassKinds.
  PassKind kind() const;

 private:
  friend class detail::LiveOptionsOf<Options>;
  detail::FilledSlots filled(const Options& options) const;
  Pass made(const Options& options, Place place) const;
  void complete(const Options& options, const detail::FilledSlots& slots, Pass& pass) const;
};

namespace detail {

/// The names that options have, where they have them.
struct NamesOf {
  const Scene* scene = nullptr;
  const Reference* view = nullptr;
  Need view_need = Need::optional;
  const ChosenNames *lights = nullptr, *tags = nullptr, *receivers = nullptr;
  const Reference *environment = nullptr, *fog = nullptr, *variant = nullptr;
  const std::vector<Reference>*without_tags = nullptr, *without_receivers = nullptr;
};

/// Reports those that are not in the scene, and gives the pass the camera of its view.
void check_names(const NamesOf& names, Pass& pass);

/// A pass with the reads and writes that are filled, and what its GLSL is likely to declare.
Pass prepared(const std::string& name, const char* kind, Place place, const FilledSlots& slots);

/// Reports slots that are required and not filled.
void expect_required(const FilledSlots& slots, Pass& pass);

bool has_required(const FilledSlots& slots);

[[noreturn]] void refuse_kind(const char* name, const Place& place);

/// A read or write as its member says it, in a slot.
Read use_of(const void* options, const UsePlace& member, Read how, const std::string& slot);
Write use_of(const void* options, const UsePlace& member, Write how, const std::string& slot);

/// What the file says of a place in a target goes to the read or write of the same name.
void take_places(const PassSource& source, Pass& pass);

/// Gives a member what the file says, if it does.
void take_use(const std::vector<Read>& given, const std::string& slot, const UsePlace& member, void* into);
void take_use(const std::vector<Write>& given, const std::string& slot, const UsePlace& member, void* into);

}  // namespace detail

template <class Options>
detail::FilledSlots Kind<Options>::filled(const Options& options) const {
  detail::FilledSlots slots;
  for (const ReadSlot<Options>& slot : reads)
    slots.reads.push_back({&slot.info, detail::use_of(&options, slot.member.place(), Read{}, slot.info.name)});
  for (const WriteSlot<Options>& slot : writes)
    slots.writes.push_back(
        {&slot.info, detail::use_of(&options, slot.member.place(), slot.how, slot.info.name), slot.numbers});
  return slots;
}

template <class Options>
void Kind<Options>::complete(const Options& options, const detail::FilledSlots& slots, Pass& pass) const {
  if (name_checks == NameChecks::by_kind) {
    detail::NamesOf names;
    if constexpr (requires { options.scene; }) names.scene = options.scene.get();
    if constexpr (requires {
                    options.scene;
                    options.view;
                  }) {
      names.view = &options.view;
      for (const KeyInfo& key : keys.infos()) {
        if (key.name == "view" && key.rules.required) names.view_need = Need::required;
      }
    }
    if constexpr (requires { options.lights.all(); }) names.lights = &options.lights;
    if constexpr (requires { options.environment; }) names.environment = &options.environment;
    if constexpr (requires { options.fog; }) names.fog = &options.fog;
    if constexpr (requires { options.tags; }) names.tags = &options.tags;
    if constexpr (requires { options.without_tags; }) names.without_tags = &options.without_tags;
    if constexpr (requires { options.variant; }) names.variant = &options.variant;
    if constexpr (requires { options.receivers; }) names.receivers = &options.receivers;
    if constexpr (requires { options.without_receivers; }) names.without_receivers = &options.without_receivers;
    detail::check_names(names, pass);
  }
  if (check) check(options, pass);
  if (detail::has_required(slots)) finish(options, pass);
  if (pass.problems.has_errors()) pass.work = {};
}

template <class Options>
Pass Kind<Options>::make(const Options& options, Place place) const {
  Pass pass = made(options, std::move(place));
  // The kind is not its options' own.
  pass.live = std::make_shared<detail::LiveOptionsOf<Options>>(
      std::shared_ptr<const Kind>(std::shared_ptr<const void>(), this), options, pass);
  return pass;
}

template <class Options>
Pass Kind<Options>::made(const Options& options, Place place) const {
  const auto unbound = [](const auto& slot) { return slot.member.place().form == detail::UsePlace::Form::unbound; };
  if (!finish || std::any_of(reads.begin(), reads.end(), unbound) || std::any_of(writes.begin(), writes.end(), unbound))
    detail::refuse_kind(name, place);
  const detail::FilledSlots slots = filled(options);
  Pass pass = detail::prepared(options.name, name, std::move(place), slots);
  detail::expect_required(slots, pass);
  keys.check(options, "pass \"" + options.name + "\"", pass.place, pass.problems);
  complete(options, slots, pass);
  return pass;
}

template <class Options>
Pass Kind<Options>::make(const Defaults& defaults, Options options, Place place) const {
  return make(with_defaults(std::move(options), defaults), std::move(place));
}

template <class Options>
PassKind Kind<Options>::kind() const {
  PassKind kind;
  kind.name = name;
  kind.sentence = sentence;
  kind.example = example;
  const auto list = [&](const auto& slots, std::vector<SlotInfo>& into) {
    for (const auto& slot : slots) {
      into.push_back(slot.info);
      if (slot.member.place().form == detail::UsePlace::Form::unbound) kind.unbound.push_back(slot.info.name);
    }
  };
  list(reads, kind.reads);
  list(writes, kind.writes);
  kind.own_slots = own_slots;
  kind.keys = keys.infos();
  kind.parts = parts;
  if constexpr (requires(Options options) { options.scene; }) kind.draws_scene = true;
  if (!finish) return kind;
  kind.make = [said = std::make_shared<const Kind>(*this)](const PassSource& source) {
    Options options = with_defaults(Options(), source.defaults);
    Diagnostics problems;
    options.name = source.name.name;
    if constexpr (requires { options.folder; }) options.folder = source.folder.string();
    // What is missing or out of range is reported here, with its place in the file, and not judged again.
    said->keys.read(*source.table, "pass \"" + options.name + "\"", options, problems);
    for (const ReadSlot<Options>& slot : said->reads)
      detail::take_use(source.reads, slot.info.name, slot.member.place(), &options);
    for (const WriteSlot<Options>& slot : said->writes)
      detail::take_use(source.writes, slot.info.name, slot.member.place(), &options);
    if (said->read_more) said->read_more(source, options, problems);
    const detail::FilledSlots slots = said->filled(options);
    Pass pass = detail::prepared(options.name, said->name, source.name.place, slots);
    pass.problems = std::move(problems);
    said->complete(options, slots, pass);
    pass.live = std::make_shared<detail::LiveOptionsOf<Options>>(said, options, pass);
    detail::take_places(source, pass);
    return pass;
  };
  return kind;
}

namespace detail {

/// Which of the keys of a pass. @throws Mistake "unknown-key"
std::size_t key_of(std::span<const KeyInfo> keys, std::string_view key, const std::string& pass, const Place& place);

/// @throws Mistake "not-live" as well
std::size_t live_key_of(std::span<const KeyInfo> keys, std::string_view key, const std::string& pass,
                        const Place& place);

/// The options of a pass that a kind has made, and the kind.
template <class Options>
class LiveOptionsOf final : public TypedOptions<Options> {
 public:
  LiveOptionsOf(std::shared_ptr<const Kind<Options>> kind, const Options& options, const Pass& made)
      : TypedOptions<Options>(options, made), kind_(std::move(kind)) {}

  std::span<const KeyInfo> keys() const override { return kind_->keys.infos(); }

  std::shared_ptr<LiveOptions> copy() const override {
    return std::make_shared<LiveOptionsOf>(kind_, this->now(), *this->pass_as_made());
  }

  void set_all(const Options& options, const Place& place) override {
    this->change_to(kind_->made(options, place), place);
    this->keep(options);
  }

  std::function<void()> read_files_again() override {
    if constexpr (requires(Options options) { options.shader.latest(); }) {
      const Options before = this->now();
      Options read = before;
      read.shader = before.shader.latest();
      if (read.shader.source() == before.shader.source()) return {};
      set_all(read, this->pass_as_made()->place);
      return [this, before] { set_all(before, this->pass_as_made()->place); };
    }
    return {};
  }

 protected:
  void set_key(std::string_view key, const Value& value, const Place& place) override {
    const std::size_t found = live_key_of(keys(), key, this->pass_name(), place);
    Options changed = this->now();
    Diagnostics problems;
    kind_->keys.read_one(found, value, changed, problems);
    if (problems.has_errors()) throw Mistake(std::move(problems));
    set_all(changed, place);
  }

  Value get_key(std::string_view key, const Place& place) const override {
    return kind_->keys.value(key_of(keys(), key, this->pass_name(), place), this->now());
  }

 private:
  std::shared_ptr<const Kind<Options>> kind_;
};

}  // namespace detail

}  // namespace periscena::passes
