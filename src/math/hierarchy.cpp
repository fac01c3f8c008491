#include <periscena/math/hierarchy.h>

#include <fmt/format.h>

namespace periscena {

void Hierarchy::expect_known(NodeHandle node, const Place& place) const {
  if (node.index < parents_.size()) return;
  throw Mistake("unknown-node", place, fmt::format("there is no node {} among {}", node.index, parents_.size()),
                "use a handle that add() of this hierarchy returned");
}

NodeHandle Hierarchy::add(NodeHandle parent, const Transform& local, Place place) {
  if (parent.valid() && parent.index >= parents_.size()) {
    throw Mistake("unknown-parent", place, fmt::format("parent {} is not there yet", parent.index),
                  "add parents before their children");
  }
  parents_.push_back(parent.index);
  locals_.push_back(local);
  worlds_.push_back(parent.valid() ? local.then(worlds_[parent.index]) : local);
  return {static_cast<std::uint32_t>(parents_.size() - 1)};
}

NodeHandle Hierarchy::parent(NodeHandle node) const {
  expect_known(node, {});
  return {parents_[node.index]};
}

const Transform& Hierarchy::local(NodeHandle node) const {
  expect_known(node, {});
  return locals_[node.index];
}

void Hierarchy::set_local(NodeHandle node, const Transform& local, Place place) {
  expect_known(node, place);
  locals_[node.index] = local;
}

void Hierarchy::update() {
  for (std::size_t i = 0; i < parents_.size(); ++i) {
    worlds_[i] = parents_[i] == NodeHandle::none ? locals_[i] : locals_[i].then(worlds_[parents_[i]]);
  }
}

const Transform& Hierarchy::world(NodeHandle node) const {
  expect_known(node, {});
  return worlds_[node.index];
}

}  // namespace periscena
