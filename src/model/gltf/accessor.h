#pragma once

#include "model/gltf/document.h"

#include <map>

namespace periscena::gltf {

/// The values of accessors as we want them. Each is converted at most once for each way in which it is wanted.
class Accessors {
 public:
  explicit Accessors(Document& document) : document_(document) {}

  /// As floats; whole numbers that are marked as normalised become 0..1 or −1..1 (glTF 2.0, 3.6.2.2).
  /// Values that lie in the file as they are wanted are not copied.
  template <class Vector>
  Stream<Vector> floats(std::size_t index);

  /// Colours of three numbers get alpha 1.
  Stream<Vec4> colors(std::size_t index);

  Stream<std::uint32_t> indices(std::size_t index);

  std::size_t count(std::size_t index) const;
  std::string type(std::size_t index) const;

 private:
  /// What an accessor says, checked against its buffer view.
  struct Layout {
    int components = 1, component_type = 0;
    std::size_t component_bytes = 4, count = 0, stride = 0;
    bool normalized = false, sparse = false;
    Bytes bytes;  ///< from the first value on; empty: all zero
  };

  Layout layout(std::size_t index);
  void read_view(const JsonReader& accessor, Layout& into);
  void apply_sparse(const JsonReader& accessor, const Layout& layout, std::span<float> into);
  std::vector<float> to_floats(std::size_t index, const Layout& layout);

  Document& document_;
  std::map<std::pair<std::size_t, int>, std::shared_ptr<const void>> streams_;  ///< by accessor and components
};

}  // namespace periscena::gltf
