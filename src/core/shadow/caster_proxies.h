#pragma once
#include "core/rays/ray_scene.h"
#include "core/scene/object_edit.h"

// Boxes that cast in place of dear objects.
namespace mirolux {

struct ProxyFit {
    double slack = 0.15; // boxes are joined where the joint one is larger than both by no more than this share
    float inset = 0.1f;  // metres that a box lies within what it stands for, so that this is not in its shadow
};

/// Boxes that hold the objects of a scene: one a thing (all parts of a node), along the axes of its largest part,
/// joined where they fill a larger one. Each comes as the edit of a proxy, named and with an id that neither the scene
/// nor `edits` has. Costs things squared.
std::vector<ObjectEdit> fitted_proxies(const Scene& scene, const std::vector<int>& objects,
                                       const std::vector<ObjectEdit>& edits, const ProxyFit& fit = {});

/// The same edits with these objects cast by fitted boxes, which are added.
std::vector<ObjectEdit> with_proxies(const Scene& scene, const std::vector<int>& objects, std::vector<ObjectEdit> edits,
                                     const ProxyFit& fit = {});

/// The nearest proxy that a ray meets, into Scene::objects(), and where; -1: none.
std::pair<int, float> nearest_proxy(const Scene& scene, const Ray& ray);

/// The first "proxy N" that neither an object of the asset nor one of these edits has as its id.
std::string free_proxy_name(const SceneAsset& asset, const std::vector<ObjectEdit>& edits);

} // namespace mirolux
