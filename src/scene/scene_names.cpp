// Things of a scene by their names.
#include "scene/scene_list.h"

namespace periscena {
MeshHandle Scene::find_mesh(std::string_view name) const {
  return meshes_.handle<MeshKind>(name);
}

MaterialHandle Scene::find_material(std::string_view name) const {
  return materials_.handle<MaterialKind>(name);
}

NodeHandle Scene::find_node(std::string_view name) const {
  return nodes_.handle<NodeKind>(name);
}

TextureHandle Scene::find_texture(std::string_view name) const {
  return textures_.handle<TextureKind>(name);
}

LightHandle Scene::light_handle(std::string_view name) const {
  return lights_.handle<LightOfScene>(name);
}

AmbientLightHandle Scene::ambient_light_handle(std::string_view name) const {
  return ambient_lights_.handle<AmbientLightOfScene>(name);
}

EnvironmentHandle Scene::environment_handle(std::string_view name) const {
  return environments_.handle<EnvironmentOfScene>(name);
}

FogHandle Scene::fog_handle(std::string_view name) const {
  return fogs_.handle<FogOfScene>(name);
}

ViewHandle Scene::view_handle(std::string_view name) const {
  return views_.handle<ViewOfScene>(name);
}

const Light* Scene::find_light(std::string_view name) const {
  return lights_.find(name);
}

bool Scene::has_light(std::string_view name_or_tag) const {
  return light_is_taken(name_or_tag) || light_tags_.contains(name_or_tag);
}

const Environment* Scene::find_environment(std::string_view name) const {
  return environments_.find(name);
}

const Fog* Scene::find_fog(std::string_view name) const {
  return fogs_.find(name);
}

const Variant* Scene::find_variant(std::string_view name) const {
  return variants_.find(name);
}

const AmbientLight* Scene::find_ambient_light(std::string_view name) const {
  return ambient_lights_.find(name);
}

const View* Scene::find_view(std::string_view name) const {
  return views_.find(name);
}

const Mesh& Scene::at(MeshHandle which, Place place) const {
  return there(which, meshes_, "mesh", place);
}

const Texture& Scene::at(TextureHandle which, Place place) const {
  return there(which, textures_, "texture", place);
}

const Material& Scene::at(MaterialHandle which, Place place) const {
  return there(which, materials_, "material", place);
}

const Node& Scene::at(NodeHandle which, Place place) const {
  return there(which, nodes_, "node", place);
}

const Light& Scene::at(LightHandle which, Place place) const {
  return there(which, lights_, "light", place);
}

const AmbientLight& Scene::at(AmbientLightHandle which, Place place) const {
  return there(which, ambient_lights_, "light", place);
}

const Environment& Scene::at(EnvironmentHandle which, Place place) const {
  return there(which, environments_, "environment", place);
}

const Fog& Scene::at(FogHandle which, Place place) const {
  return there(which, fogs_, "fog", place);
}

const View& Scene::at(ViewHandle which, Place place) const {
  return there(which, views_, "view", place);
}

}  // namespace periscena
