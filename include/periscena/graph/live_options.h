#pragma once

#include <periscena/base/keys.h>

#include <cstdint>
#include <functional>
#include <memory>
#include <span>
#include <string_view>
#include <typeindex>

namespace periscena {

struct Pass;

/// The options of a pass of a frame, which a program may change while runners draw it: the next frame of each shows it.
/// Targets, and whatever else the plan was made by, stay as declared. Typed in C++ by passes::Live.
class LiveOptions : public std::enable_shared_from_this<LiveOptions> {
 public:
  LiveOptions(const LiveOptions&) = delete;
  LiveOptions& operator=(const LiveOptions&) = delete;
  virtual ~LiveOptions();

  /// Counts changes.
  std::uint64_t version() const { return version_; }

  /// The keys of the kind of pass, as frame files have them.
  virtual std::span<const KeyInfo> keys() const = 0;
  virtual std::type_index type() const = 0;  ///< of the options struct

  /// By name, for tools. @throws Mistake "unknown-key", with the nearest; "wrong-type", "out-of-range", …; "not-live"
  /// @param key  "strength"; of a table also "uniforms.tint", which leaves its other members as they are
  void set(std::string_view key, const Value& value, Place place = Place::here());

  /// A key's value; empty where it can't be written as one. @throws Mistake "unknown-key"
  /// @param key  as for set
  Value get(std::string_view key, Place place = Place::here()) const;

  /// Reads the files again that the options hold the text of, and takes over what has changed.
  /// @return what sets the options back as they were; empty where nothing has changed
  /// @throws Mistake as set; Error "unreadable-file"
  virtual std::function<void()> read_files_again() = 0;

  /// The pass as it is now. The same object as long as it doesn't change and something holds it.
  std::shared_ptr<const Pass> pass() const;

  /// For FrameGraph: the same options, of a pass that is added to another frame; and that pass, as it was added.
  virtual std::shared_ptr<LiveOptions> copy() const = 0;
  void begin(const std::shared_ptr<const Pass>& added);

 protected:
  /// @param made  the pass as its kind made it
  explicit LiveOptions(const Pass& made);

  /// Goes on with what the kind made of changed options.
  /// @throws Mistake with what the kind found wrong; "not-live" where the plan depends on what has changed
  void change_to(const Pass& made, const Place& place);

  virtual void set_key(std::string_view key, const Value& value, const Place& place) = 0;
  virtual Value get_key(std::string_view key, const Place& place) const = 0;

  const std::string& pass_name() const;
  const std::shared_ptr<const Pass>& pass_as_made() const { return made_; }

 private:
  std::shared_ptr<const Pass> made_;   ///< as the kind made it, without the options themselves
  std::shared_ptr<const Pass> added_;  ///< the same, as it was added
  mutable std::weak_ptr<const Pass> now_;
  std::uint64_t version_ = 0;
};

/// How often the options of a pass, or of those that it was made of, were changed.
std::uint64_t version_of(const Pass& pass);

/// The pass with its options as they are now; itself when they are what it was made of.
/// @throws Mistake "not-live" when passes that were made one no longer go together
std::shared_ptr<const Pass> latest(const std::shared_ptr<const Pass>& pass);

}  // namespace periscena
