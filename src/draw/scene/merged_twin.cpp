#include "draw/scene/merged_twin.h"

#include <periscena/base/names.h>
#include <periscena/batch/merge.h>

#include <fmt/format.h>

namespace periscena::draw {
namespace {

/// One type for each way, so that runners keep them apart.
template <batch::Batching batching>
struct TwinFor : MergedTwin {};
template <batch::Batching batching>
struct MergerFor : batch::Merger {
  using batch::Merger::Merger;
};

template <batch::Batching batching>
std::shared_ptr<const MergedTwin> twin_for(gl::PassSetup& setup, const std::shared_ptr<const Scene>& whole,
                                           const batch::MergeLimits& limits, const std::string& whom) {
  return setup.shared().get<TwinFor<batching>>(whole, [&] {
    const auto merger = setup.shared().get_fitting<MergerFor<batching>>(
        whole, [](const auto&) { return true; }, [&] { return std::make_shared<MergerFor<batching>>(limits); });
    batch::Merge merge = merger->merge(*whole);
    auto twin = std::make_shared<TwinFor<batching>>();
    twin->merger = merger;
    twin->scene = whole;
    twin->told = fmt::format("none: no objects{} stand still that could be", whom);
    if (merge.too_many > 0) {
      twin->told = fmt::format("none: {} triangles exceed the limit of {}; batching = \"merged\" has no limit",
                               merge.too_many, limits.triangles_in_all);
    }
    if (!merge.scene) return twin;
    twin->scene = std::make_shared<const Scene>(std::move(*merge.scene));
    twin->told = fmt::format("{} objects{} that stand still became {} mesh{}", merge.objects, whom, merge.meshes,
                             merge.meshes == 1 ? "" : "es");
    return twin;
  });
}

}  // namespace

std::shared_ptr<const MergedTwin> merged_twin(gl::PassSetup& setup, const std::shared_ptr<const Scene>& scene,
                                              batch::Batching batching) {
  using batch::Batching;
  if (batching == Batching::merged) return twin_for<Batching::merged>(setup, scene, {}, "");
  if (batching != Batching::automatic) return nullptr;
  const auto limits = batch::MergeLimits::where_it_pays();
  const std::string whom =
      fmt::format(" of at most {} triangles, {} or more of a material,", limits.triangles_each, limits.fewest);
  return twin_for<Batching::automatic>(setup, scene, limits, whom);
}

}  // namespace periscena::draw
