// Things of a scene by their names.
#include <periscena/scene/scene.h>

namespace periscena {
namespace {

template <class Thing, class Index>
const Thing* find_named(const std::vector<Thing>& things, const Index& index, std::string_view name) {
  const auto found = index.find(std::string(name));
  return found == index.end() ? nullptr : &things[found->second];
}

template <class HandleType, class Index>
HandleType look_up(const Index& index, std::string_view name) {
  const auto found = index.find(std::string(name));
  return found == index.end() ? HandleType{} : HandleType{found->second};
}

}  // namespace

MeshHandle Scene::find_mesh(std::string_view name) const {
  return look_up<MeshHandle>(mesh_index_, name);
}

MaterialHandle Scene::find_material(std::string_view name) const {
  return look_up<MaterialHandle>(material_index_, name);
}

NodeHandle Scene::find_node(std::string_view name) const {
  return look_up<NodeHandle>(node_index_, name);
}

TextureHandle Scene::find_texture(std::string_view name) const {
  return look_up<TextureHandle>(texture_index_, name);
}

LightHandle Scene::light_handle(std::string_view name) const {
  return look_up<LightHandle>(light_index_, name);
}

AmbientLightHandle Scene::ambient_light_handle(std::string_view name) const {
  return look_up<AmbientLightHandle>(ambient_index_, name);
}

EnvironmentHandle Scene::environment_handle(std::string_view name) const {
  return look_up<EnvironmentHandle>(environment_index_, name);
}

FogHandle Scene::fog_handle(std::string_view name) const {
  return look_up<FogHandle>(fog_index_, name);
}

ViewHandle Scene::view_handle(std::string_view name) const {
  return look_up<ViewHandle>(view_index_, name);
}

const Light* Scene::find_light(std::string_view name) const {
  return find_named(lights_, light_index_, name);
}

bool Scene::has_light(std::string_view name_or_tag) const {
  return light_is_taken(name_or_tag) || light_tags_.contains(name_or_tag);
}

const Environment* Scene::find_environment(std::string_view name) const {
  return find_named(environments_, environment_index_, name);
}

const Fog* Scene::find_fog(std::string_view name) const {
  return find_named(fogs_, fog_index_, name);
}

const Variant* Scene::find_variant(std::string_view name) const {
  return find_named(variants_, variant_index_, name);
}

const AmbientLight* Scene::find_ambient_light(std::string_view name) const {
  return find_named(ambient_lights_, ambient_index_, name);
}

const View* Scene::find_view(std::string_view name) const {
  return find_named(views_, view_index_, name);
}

}  // namespace periscena
