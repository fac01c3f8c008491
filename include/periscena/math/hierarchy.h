#pragma once

#include <periscena/base/handle.h>
#include <periscena/math/transform.h>

#include <span>
#include <vector>

namespace periscena {

using NodeHandle = Handle<struct NodeKind>;

/// A tree of transforms. Parents stand before their children, so all world matrices come from one sweep over an array.
class Hierarchy {
 public:
  /// @param parent  a node that was added before, or {} for a root
  /// @throws Mistake "unknown-parent"
  NodeHandle add(NodeHandle parent, const Transform& local, Place place = Place::here());

  std::size_t size() const { return parents_.size(); }
  NodeHandle parent(NodeHandle node) const;
  const Transform& local(NodeHandle node) const;

  /// @throws Mistake "unknown-node"
  void set_local(NodeHandle node, const Transform& local, Place place = Place::here());

  /// Brings all world transforms up to date: each node's own, then its parent's.
  void update();

  /// As of the last update().
  const Transform& world(NodeHandle node) const;
  std::span<const Transform> worlds() const { return worlds_; }

 private:
  void expect_known(NodeHandle node, const Place& place) const;

  std::vector<std::uint32_t> parents_;
  std::vector<Transform> locals_;
  std::vector<Transform> worlds_;
};

}  // namespace periscena
