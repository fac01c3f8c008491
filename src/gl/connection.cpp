#include "gl/connection.h"

#include <algorithm>
#include <numeric>

namespace periscena::gl {

std::vector<Connection> Connector::connect(std::vector<Connection> known) {
  std::uint64_t places = 1;
  for (const PlannedRead& read : pass_.reads) places = std::lcm(places, plan_.targets()[read.target].frames);
  for (const PlannedWrite& write : pass_.writes) places = std::lcm(places, plan_.targets()[write.target].frames);
  std::vector<Connection> connections;
  connections.reserve(places);
  for (std::uint64_t frame = 0; frame < places; ++frame) {
    begin(frame);
    connections.push_back(finish(known));
  }
  return connections;
}

void Connector::begin(std::uint64_t frame) {
  made_ = {};
  colors_.clear();
  depth_.reset();
  outside_.reset();
  from_ = {};
  to_ = {};
  for (const PlannedRead& read : pass_.reads) add_read(read, frame);
  for (const PlannedWrite& write : pass_.writes) add_write(write, frame);
}

void Connector::add_read(const PlannedRead& read, std::uint64_t frame) {
  const PlannedTarget& target = plan_.targets()[read.target];
  const std::uint32_t storage = targets_.storage_of(target, frame, read.history);
  made_.signature.push_back(targets_.serial(storage));
  if (pass_.draws()) {
    made_.reads.push_back(&targets_.texture(target, storage, read.level, read.layer, read.as_array));
    return;
  }
  from_.format = target.description.format;
  if (!targets_.is_renderbuffer(storage)) from_.texture = &targets_.texture(target, storage);
  add_layers(from_, target, storage, read.level, read.layer);
}

void Connector::add_write(const PlannedWrite& write, std::uint64_t frame) {
  const PlannedTarget& target = plan_.targets()[write.target];
  const std::uint32_t storage = targets_.storage_of(target, frame);
  made_.signature.push_back(targets_.serial(storage));
  if (target.description.origin == Origin::outside_framebuffer) {
    outside_ = targets_.framebuffer(target);
  } else if (!pass_.draws()) {
    to_.format = target.description.format;
    add_layers(to_, target, storage, write.level, write.layer);
  } else if (!is_color_slot(write.slot)) {
    depth_ = targets_.attached(target, storage, write.level, write.layer);
  } else {
    colors_.push_back(targets_.attached(target, storage, write.level, write.layer));
  }
}

void Connector::add_layers(OperationEnd& end, const PlannedTarget& target, std::uint32_t storage, int level,
                           int layer) {
  for (int each = 0; each < target.layers; ++each) {
    if (layer == all_layers || layer == each)
      end.layers.push_back(targets_.attached(target, storage, std::max(0, level), each));
  }
}

Connection Connector::finish(std::vector<Connection>& known) {
  if (outside_) {
    made_.framebuffer_name = *outside_;
    return std::move(made_);
  }
  const auto as_before =
      std::find_if(known.begin(), known.end(), [&](const Connection& one) { return one.signature == made_.signature; });
  if (as_before != known.end()) {
    Connection connection = std::move(*as_before);
    as_before->signature.clear();
    connection.reads = std::move(made_.reads);
    return connection;
  }
  if (pass_.draws()) {
    made_.framebuffer = Framebuffer(colors_, depth_, pass_.name);
    made_.framebuffer_name = made_.framebuffer.name();
  } else {
    made_.operation = OperationStep(shared_, pass_.operation, from_, to_, pass_.name);
  }
  return std::move(made_);
}

}  // namespace periscena::gl
