#pragma once

#include "model/gltf/accessor.h"

#include <periscena/base/names.h>
#include <periscena/model/gltf.h>

#include <map>
#include <set>

namespace periscena::gltf {

/// A glTF file on its way to a scene. Each part of the file has a source file of its own; they run in this order, as
/// later ones look up what earlier ones made.
class Importer {
 public:
  /// @param pictures  null: one of its own
  Importer(std::shared_ptr<Source> file, const std::string& name, std::filesystem::path folder, PictureReader* pictures)
      : document_(std::move(file), name, std::move(folder)),
        accessors_(document_),
        pictures_(pictures ? *pictures : own_pictures_) {}

  Import run();

 private:
  /// What a glTF primitive became.
  struct Shape {
    MeshHandle mesh;
    MaterialHandle material;                                       ///< none: the standard's default
    std::vector<std::pair<std::size_t, MaterialHandle>> variants;  ///< by number of the variant
  };

  struct MeshNames {
    std::string name;
    std::uint64_t copy = 0;  ///< ours: tells meshes of the same accessors apart
  };

  void check_extensions();
  void warn(const std::string& slug, const std::string& message, const std::string& mend);

  // import_materials.cpp
  void add_materials();
  Material read_material(const JsonReader& json);
  void read_own_material(const JsonReader& own, Material& into);
  TextureUse read_use(const JsonReader& info, TextureHolds holds);
  TextureHandle texture(std::size_t index, TextureHolds holds);
  void decode_ahead();
  std::vector<std::size_t> images_of_materials() const;
  Part image_part(const JsonReader& image);
  std::shared_ptr<const Image> image(std::size_t index);
  std::shared_ptr<const Image> own_image(const JsonReader& view);
  std::shared_ptr<const Image> decode(const Part& part, const JsonReader& from);
  std::string picture_name(const JsonReader& json) const;
  Sampling read_sampler(const JsonReader& texture);
  MaterialHandle material_of(const Shape& shape);

  // import_meshes.cpp
  void add_meshes();
  Shape read_primitive(const JsonReader& primitive, const MeshNames& names);
  MeshHandle read_mesh(const JsonReader& primitive, const MeshNames& names, const Material& material);
  Stream<std::uint32_t> read_indices(const JsonReader& primitive, std::size_t vertices, Primitive& kind);
  void warn_of_morphs(const JsonReader& mesh);

  // import_nodes.cpp
  void add_nodes();
  std::vector<std::size_t> node_order();
  void add_node(std::size_t index);
  void add_shapes(const JsonReader& json, NodeHandle node, const std::string& name);
  void add_instances(const JsonReader& json, const JsonReader& instancing, NodeHandle parent);
  Transform placement(const JsonReader& json);

  // import_animations.cpp
  void add_animations();
  void read_channel(const JsonReader& animation, const JsonReader& channel);

  // import_scene.cpp
  void add_light(const JsonReader& json, NodeHandle node);
  bool add_own_thing(const JsonReader& json, NodeHandle parent);
  void add_views();
  void add_own_scene();
  void read_own_variant(const JsonReader& own, Variant& into);

  Document document_;
  Accessors accessors_;
  PictureReader own_pictures_;
  PictureReader& pictures_;
  Import result_;
  FreeNames texture_names_, material_names_, mesh_names_, node_names_, light_names_, view_names_, variant_names_;
  std::map<std::pair<std::size_t, TextureHolds>, TextureHandle> textures_;
  std::map<std::size_t, std::shared_ptr<const Image>> images_, own_images_;  ///< by image, by buffer view
  std::map<std::string, std::shared_ptr<const Image>> images_by_uri_;
  std::vector<MaterialHandle> materials_;
  std::map<std::vector<std::size_t>, MeshHandle> known_meshes_;  ///< by what makes them different
  std::vector<std::vector<Shape>> shapes_;                       ///< by mesh
  std::vector<NodeHandle> nodes_;                                ///< by node of the file
  std::vector<std::optional<std::size_t>> parents_;
  std::map<std::size_t, KeyedPlacement> keyed_;  ///< by node of the file
  std::vector<std::vector<std::pair<NodeHandle, MaterialHandle>>> variant_choices_;
};

}  // namespace periscena::gltf
